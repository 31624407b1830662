// bin/ember backup FILE and restore FILE: finds the running database of a data folder, or runs it for as long as it takes.
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { addressOf, startDatabase } from './database.mjs'
import { holder, lock } from './lock.mjs'
import { build, Complaint, ROOT } from './prepare.mjs'

const say = (text) => process.stderr.write(`${text}\n`)
const work = (what, file, data, url) =>
  spawnSync(process.execPath, [join(ROOT, 'dist/backup.mjs'), what, file], {
    env: { ...process.env, DATABASE_URL: url, EMBER_DATA: data, EMBER_ROOT: ROOT },
    stdio: 'inherit',
  }).status ?? 1

let held = null
let database = null
let code = 1
try {
  const { values, positionals } = parseArgs({ allowPositionals: true, options: { data: { type: 'string' } } })
  const [what, name] = positionals
  if (!name || positionals.length > 2) throw new Complaint(`${what} FILE [--data DIR]`)
  const file = resolve(name)
  const data = resolve(values.data ?? join(ROOT, '.data'))
  await build(say, { web: false })
  const running = holder(data)
  if (what === 'backup') {
    if (!existsSync(join(data, 'db'))) throw new Complaint(`there is nothing of Fox Ember in ${data}; name its folder with --data`)
    if (existsSync(file)) throw new Complaint(`${file} is there already; nothing was written`)
    if (running) code = work(what, file, data, addressOf(data))
  } else {
    if (!existsSync(file)) throw new Complaint(`${file} is not there`)
    if (running) throw new Complaint(`Fox Ember runs on ${data}; stop it, or restore into another folder with --data`)
    if (existsSync(join(data, 'db'))) throw new Complaint(`${data} has data; move it away, or restore into another folder with --data`)
    mkdirSync(data, { recursive: true })
  }
  if (!running) {
    held = await lock(data, 0, say)
    database = await startDatabase(data, say)
    held.note('the database', database.first.pid)
    code = work(what, file, data, database.url)
  }
} catch (error) {
  say(error instanceof Complaint ? error.message : (error.stack ?? error))
}
await database?.first.stop()
database?.clean()
held?.free()
process.exit(code)
