// What bin/start, bin/test and the browser tests share: installing what is missing and building what is out of date. Node.js
// alone must be able to run this file: no package may be imported here.
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

export const ROOT = resolve(fileURLToPath(new URL('..', import.meta.url)))
export class Complaint extends Error {}
const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0

/** Debian packages that are needed. Installs them where apt-get may, else says the exact command. */
export function packages(log, { database = true } = {}) {
  const missing = []
  if (database && !has('mariadbd') && !existsSync('/usr/sbin/mariadbd')) missing.push('mariadb-server')
  if (!has('chromium')) missing.push('chromium')
  if (!has('ffmpeg')) missing.push('ffmpeg')
  if (!missing.length) return
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`
  if (!has('apt-get') || process.getuid?.() !== 0) throw new Complaint(`needs ${missing.join(', ')}; install with: sudo ${command}`)
  log(`installing ${missing.join(', ')}`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  spawnSync('apt-get', ['update', '-qq'], { env, stdio: 'ignore' })
  const r = spawnSync('sh', ['-c', command], { env, encoding: 'utf8' })
  if (r.status !== 0)
    throw new Complaint(
      `could not install ${missing.join(', ')}; try: ${command}\n${(r.stderr ?? '').trim().split('\n').slice(-3).join('\n')}`,
    )
}
function run(what, command, args, env = {}) {
  const r = spawnSync(command, args, { cwd: ROOT, env: { ...process.env, ...env }, encoding: 'utf8', maxBuffer: 64 * 1024 * 1024 })
  if (r.status !== 0)
    throw new Complaint(`${what} failed:\n${`${r.stdout ?? ''}${r.stderr ?? ''}`.trim().split('\n').slice(-25).join('\n')}`)
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
    if (/\.test\.tsx?$|src\/kernels\/(layout|dispatch)\.ts$/.test(p)) continue
    h.update(p).update(readFileSync(p))
  }
  return h.digest('hex')
}
/** Runs `make` unless the stamp says that it ran with the same inputs and its output is there. */
function stamped(name, key, output, make) {
  const stamp = join(ROOT, 'dist', `.${name}`)
  if (existsSync(join(ROOT, output)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === key) return false
  make()
  mkdirSync(join(ROOT, 'dist'), { recursive: true })
  writeFileSync(stamp, key)
  return true
}
export function dependencies(log) {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex')
  const stamp = join(ROOT, 'node_modules', '.fox-ember')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  log('installing npm packages')
  run('npm ci', 'npm', ['ci', '--no-audit', '--no-fund', '--include=dev'], { NODE_ENV: '' })
  writeFileSync(stamp, lock)
}
export function build(log, { web = true } = {}) {
  const lock = readFileSync(join(ROOT, 'package-lock.json'), 'utf8')
  stamped(
    'kernels',
    digest(['src/kernels', 'src/engine/memory', 'src/engine/ops', 'scripts/kernels.mjs', 'scripts/kernelTables.mjs'], lock),
    'public/kernels.wasm',
    () => {
      log('building the kernels')
      run('the kernels', process.execPath, ['scripts/kernels.mjs'])
    },
  )
  stamped(
    'bundle',
    digest(['src/shot', 'src/engine', 'src/acts', 'src/formats', 'src/hosts', 'src/stage', 'src/server', 'scripts/bundle.mjs'], lock),
    'dist/ember.mjs',
    () => {
      log('bundling the command line and the worker')
      run('the bundle', process.execPath, ['scripts/bundle.mjs'])
    },
  )
  if (web)
    stamped('web', digest(['src', 'public', 'next.config.ts', 'postcss.config.mjs', 'tsconfig.json'], lock), '.next/BUILD_ID', () => {
      log('building the web application')
      run('the build', process.execPath, ['node_modules/next/dist/bin/next', 'build'], {
        NODE_ENV: 'production',
        NEXT_TELEMETRY_DISABLED: '1',
      })
    })
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
