// What bin/start, bin/test and the browser tests share: installing what is missing and building what is out of date. Node.js
// alone must be able to run this file: no package may be imported here.
import { spawn, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

export const ROOT = resolve(fileURLToPath(new URL('..', import.meta.url)))
export class Complaint extends Error {}
const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0

/** Draws frames for files: Debian's Chromium without windows, which starts in a quarter of the whole one's time and draws the same bits. */
const SHELL = 'chromium-headless-shell'
/** Left where it could not be installed beside the whole one: it is tried once. */
const NO_SHELL = join(ROOT, 'dist', '.no-shell')
/** Debian packages that are needed. Installs them where apt-get may, else says the exact command. */
export function packages(log, { database = true } = {}) {
  const missing = []
  if (database && !has('mariadbd') && !existsSync('/usr/sbin/mariadbd')) missing.push('mariadb-server')
  if (!has('ffmpeg')) missing.push('ffmpeg')
  const whole = has('chromium')
  const wanted = !has(SHELL) && !(whole && existsSync(NO_SHELL))
  if (wanted && !whole) missing.push(SHELL)
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`
  const may = has('apt-get') && process.getuid?.() === 0
  if (missing.length && !may) throw new Complaint(`needs ${missing.join(', ')}; install with: sudo ${command}`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  if (missing.length || (wanted && may)) {
    log(`installing ${[...missing, ...(wanted && whole ? [SHELL] : [])].join(', ')}`)
    spawnSync('apt-get', ['update', '-qq'], { env, stdio: 'ignore', timeout: missing.length ? undefined : 60000 })
  }
  if (missing.length) {
    const r = spawnSync('sh', ['-c', command], { env, encoding: 'utf8' })
    if (r.status !== 0)
      throw new Complaint(
        `could not install ${missing.join(', ')}; try: ${command}\n${(r.stderr ?? '').trim().split('\n').slice(-3).join('\n')}`,
      )
  }
  if (!wanted || !whole || !may) return
  const args = ['install', '-y', '--no-install-recommends', SHELL]
  if (spawnSync('apt-get', args, { env, stdio: 'ignore', timeout: 180000 }).status === 0) return
  log(`${SHELL} could not be installed: Chromium draws in its place, and starts more slowly`)
  mkdirSync(join(ROOT, 'dist'), { recursive: true })
  writeFileSync(NO_SHELL, '')
}
async function run(what, command, args, env = {}) {
  const child = spawn(command, args, { cwd: ROOT, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] })
  let said = ''
  for (const from of [child.stdout, child.stderr]) from.setEncoding('utf8').on('data', (text) => (said += text))
  const code = await new Promise((done) => {
    child.once('error', (error) => {
      said += error.message
      done(1)
    })
    child.once('close', done)
  })
  if (code !== 0) throw new Complaint(`${what} failed:\n${said.trim().split('\n').slice(-25).join('\n')}`)
}
function walk(path, out = []) {
  if (!existsSync(path)) return out
  if (statSync(path).isFile()) out.push(path)
  else for (const n of readdirSync(path).sort()) walk(join(path, n), out)
  return out
}
const digest = (paths, extra = '') => {
  const h = createHash('sha256').update(extra)
  for (const p of paths.flatMap((x) => walk(join(ROOT, x)))) {
    // Neither tests nor what a build makes.
    if (/\.test\.tsx?$|src\/kernels\/(layout|dispatch)\.ts$|public\/kernels.*wasm$|public\/workers\//.test(p)) continue
    h.update(p).update(readFileSync(p))
  }
  return h.digest('hex')
}
/** Runs `make` unless the stamp says that it ran with the same inputs and its output is there. */
async function stamped(name, key, output, make) {
  const stamp = join(ROOT, 'dist', `.${name}`)
  if (existsSync(join(ROOT, output)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === key) return
  await make()
  mkdirSync(join(ROOT, 'dist'), { recursive: true })
  writeFileSync(stamp, key)
}
export async function dependencies(log) {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex')
  const stamp = join(ROOT, 'node_modules', '.fox-ember')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  log('installing npm packages')
  await run('npm ci', 'npm', ['ci', '--no-audit', '--no-fund', '--include=dev'], { NODE_ENV: '' })
  writeFileSync(stamp, lock)
}
const KERNELS = [
  'src/kernels',
  'src/engine/memory',
  'src/engine/ops',
  'scripts/kernels.mjs',
  'scripts/kernelTables.mjs',
  'scripts/unshared.mjs',
]
const BUNDLE = [
  ...['shot', 'engine', 'acts', 'formats', 'hosts', 'stage', 'server', 'machines', 'protocol'].map((room) => `src/${room}`),
  ...['src/studio/early.ts', 'src/studio/workers.ts', 'scripts/bundle.mjs'],
  // Frames that a browser keeps are those of one build, with its kernels.
  ...['src/kernels', 'scripts/kernels.mjs'],
]
const WEB = ['src', 'public', 'scripts/kernels.mjs', 'next.config.ts', 'postcss.config.mjs', 'tsconfig.json']
/** Builds what is out of date. The kernels are compiled beside the rest: that takes one core, and nothing else reads them before they run. */
export async function build(log, { web = true } = {}) {
  const lock = readFileSync(join(ROOT, 'package-lock.json'), 'utf8')
  const kernels = () =>
    stamped('kernels', digest(KERNELS, lock), 'public/kernels.wasm', async () => {
      log('building the kernels')
      await run('the kernels', process.execPath, ['scripts/kernels.mjs'])
    })
  const rest = async () => {
    await stamped('bundle', digest(BUNDLE, lock), 'public/workers/stage.js', async () => {
      log('bundling the command line and the worker')
      await run('the bundle', process.execPath, ['scripts/bundle.mjs'])
    })
    if (web)
      await stamped('web', digest(WEB, lock), '.next/BUILD_ID', async () => {
        log('building the web application')
        await run('the build', process.execPath, ['node_modules/next/dist/bin/next', 'build'], {
          NODE_ENV: 'production',
          NEXT_TELEMETRY_DISABLED: '1',
        })
      })
  }
  for (const made of await Promise.allSettled([kernels(), rest()])) if (made.status === 'rejected') throw made.reason
}
export const freePort = () =>
  new Promise((done, fail) => {
    const s = createServer()
    s.once('error', fail)
    s.listen(0, '127.0.0.1', () => {
      const { port } = s.address()
      s.close(() => done(port))
    })
  })
export const portTaken = (port) =>
  new Promise((done) => {
    const s = createServer()
    s.once('error', () => done(true))
    s.listen(port, '127.0.0.1', () => s.close(() => done(false)))
  })
