// The supervisor behind bin/start. Everything it starts ends with it.
import { spawnSync } from 'node:child_process'
import { accessSync, constants, existsSync, mkdirSync, statSync } from 'node:fs'
import { dirname, join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { startDatabase } from './database.mjs'
import { lock } from './lock.mjs'
import { logFile } from './logs.mjs'
import { build, Complaint, dependencies, packages, portTaken, ROOT } from './prepare.mjs'
import { sleep } from './processes.mjs'
import { keep, script } from './supervise.mjs'

const PORT_TRIES = 40
const UP_TRIES = 600

const log = (text) => process.stdout.write(`${text}\n`)
const stops = []
let leaving = false
async function leave(code) {
  if (leaving) return
  leaving = true
  for (const stop of stops.reverse()) await stop()
  process.exit(code)
}
/** Folder by folder: Node.js' own recursive way never ends where a parent takes no folders (seen under /proc with version 20). */
function makeFolder(path) {
  if (existsSync(path)) return
  if (dirname(path) !== path) makeFolder(dirname(path))
  mkdirSync(path)
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void leave(0))

try {
  let options
  try {
    options = parseArgs({
      options: {
        port: { type: 'string', default: '4600' },
        data: { type: 'string' },
        'no-demo': { type: 'boolean', default: false },
        'no-ahead': { type: 'boolean', default: false },
        help: { type: 'boolean', default: false },
      },
    }).values
  } catch (error) {
    throw new Complaint(error.message.split('. ')[0])
  }
  if (options.help) {
    log(
      'bin/start [--port 4600] [--data DIR] [--no-demo] [--no-ahead]\n--no-ahead: frames that shots open with are computed by the browser that opens them first.\nDATABASE_URL uses a database that is already there.',
    )
    process.exit(0)
  }
  const port = Number(options.port)
  if (!Number.isInteger(port) || port < 1 || port > 65535) throw new Complaint(`--port: “${options.port}” is not a port from 1 to 65535`)
  const data = resolve(options.data ?? join(ROOT, '.data'))
  try {
    makeFolder(data)
    accessSync(data, constants.W_OK)
    if (!statSync(data).isDirectory()) throw new Error('not a folder')
  } catch {
    throw new Complaint(`cannot write to ${data}; choose another folder with --data`)
  }
  const held = await lock(data, port, log)
  stops.push(() => held.free())
  // What an earlier start left behind was ended just now and may hold the port a moment longer.
  for (let i = 0; await portTaken(port); i++) {
    if (i > (held.cleared ? PORT_TRIES : 0)) throw new Complaint(`port ${port} is in use; choose another with --port`)
    await sleep(100)
  }
  packages(log, { database: !process.env.DATABASE_URL })
  await dependencies(log)
  await build(log)
  const logs = join(data, 'logs')
  const complain = (text) => {
    process.stderr.write(`start: ${text}\n`)
    logFile(logs, 'start')(`${new Date().toISOString()} ${text}\n`)
  }
  const run = (name, begin, first = null) => stops.push(keep(name, begin, { note: (n, pid) => held.note(n, pid), complain, first }).stop)
  let url = process.env.DATABASE_URL
  if (!url) {
    const database = await startDatabase(data, log)
    stops.push(() => database.clean())
    run('the database', database.begin, database.first)
    url = database.url
  }
  const env = {
    ...process.env,
    EMBER_DATA: data,
    EMBER_ROOT: ROOT,
    NODE_ENV: 'production',
    NEXT_TELEMETRY_DISABLED: '1',
    DATABASE_URL: url,
    EMBER_AHEAD: options['no-ahead'] ? '' : 'on',
  }
  const setup = spawnSync(process.execPath, ['dist/setup.mjs', ...(options['no-demo'] ? ['--no-demo'] : [])], {
    cwd: ROOT,
    env,
    encoding: 'utf8',
  })
  if (setup.status !== 0) throw new Complaint(`the database cannot be used: ${(setup.stderr || setup.stdout).trim().split('\n').at(-1)}`)
  for (const line of setup.stdout.split('\n').filter((l) => l.startsWith('check: '))) complain(line.slice(7))
  const both = (name) => {
    const file = logFile(logs, name)
    return (d) => {
      process.stderr.write(d)
      file(d)
    }
  }
  run('the web server', script(['dist/web.mjs'], { ...env, EMBER_PORT: String(port) }, both('web')))
  run('the job worker', script(['dist/worker.mjs'], env, both('worker')))
  for (let i = 0; ; i++) {
    const up = await fetch(`http://127.0.0.1:${port}/api/health`).then(
      (r) => r.ok,
      () => false,
    )
    if (up) break
    if (i > UP_TRIES) throw new Complaint('the web server did not answer within a minute')
    await sleep(100)
  }
  log(`Fox Ember is at http://127.0.0.1:${port}`)
} catch (error) {
  process.stderr.write(`start: ${error instanceof Complaint ? error.message : (error.stack ?? error)}\n`)
  await leave(1)
}
