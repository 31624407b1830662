// The supervisor behind bin/start. Everything it starts ends with it.
import { spawn, spawnSync } from 'node:child_process'
import { accessSync, constants, existsSync, mkdirSync, statSync } from 'node:fs'
import { dirname, join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { build, Complaint, dependencies, packages, portTaken, ROOT, startDatabase } from './prepare.mjs'

const log = (text) => process.stdout.write(`${text}\n`)
const stops = []
let leaving = false
async function leave(code) {
  if (leaving) return
  leaving = true
  for (const stop of stops.reverse()) await stop()
  process.exit(code)
}
function keep(name, args, env, again) {
  let child = null
  let ended = Promise.resolve()
  let tries = 0
  const begin = () => {
    child = spawn(process.execPath, args, { cwd: ROOT, env, stdio: ['ignore', 'ignore', 'inherit'], detached: true })
    ended = new Promise((done) =>
      child.once('exit', (code) => {
        done()
        if (leaving) return
        if (again && tries++ < 50) setTimeout(begin, 1000)
        else {
          process.stderr.write(`start: ${name} ended with ${code}\n`)
          void leave(1)
        }
      }),
    )
  }
  begin()
  stops.push(async () => {
    child.kill('SIGTERM')
    const late = setTimeout(() => child.kill('SIGKILL'), 8000)
    await ended
    clearTimeout(late)
  })
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
        help: { type: 'boolean', default: false },
      },
    }).values
  } catch (error) {
    throw new Complaint(error.message.split('. ')[0])
  }
  if (options.help) {
    log('bin/start [--port 4600] [--data DIR] [--no-demo]\nDATABASE_URL uses a database that is already there.')
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
  if (await portTaken(port)) throw new Complaint(`port ${port} is in use; choose another with --port`)
  packages(log, { database: !process.env.DATABASE_URL })
  dependencies(log)
  build(log)
  let url = process.env.DATABASE_URL
  if (!url) {
    const database = await startDatabase(data, log)
    stops.push(database.stop)
    url = database.url
  }
  const env = {
    ...process.env,
    DATABASE_URL: url,
    EMBER_DATA: data,
    EMBER_ROOT: ROOT,
    NODE_ENV: 'production',
    NEXT_TELEMETRY_DISABLED: '1',
  }
  const setup = spawnSync(process.execPath, ['dist/setup.mjs', ...(options['no-demo'] ? ['--no-demo'] : [])], {
    cwd: ROOT,
    env,
    encoding: 'utf8',
  })
  if (setup.status !== 0) throw new Complaint(`the database cannot be used: ${(setup.stderr || setup.stdout).trim().split('\n').at(-1)}`)
  keep('the web server', ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(port)], env, false)
  keep('the job worker', ['dist/worker.mjs'], env, true)
  for (let i = 0; ; i++) {
    const up = await fetch(`http://127.0.0.1:${port}/api/health`).then(
      (r) => r.ok,
      () => false,
    )
    if (up) break
    if (i > 300) throw new Complaint('the web server did not answer within 30 seconds')
    await new Promise((r) => setTimeout(r, 100))
  }
  log(`Fox Ember is at http://127.0.0.1:${port}`)
} catch (error) {
  process.stderr.write(`start: ${error instanceof Complaint ? error.message : (error.stack ?? error)}\n`)
  await leave(1)
}
