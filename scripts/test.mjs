// Type check, lint, floors, unit and server tests, then the whole application in a real browser. Prints one count over all.
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { build, Complaint, dependencies, freePort, packages, ROOT } from './prepare.mjs'

const log = (text) => process.stdout.write(`${text}\n`)
const temporary = mkdtempSync(join(tmpdir(), 'fox-ember-test-'))
let passed = 0
let failed = 0
const children = new Set()
const node = (script, args = []) => [process.execPath, [join(ROOT, script), ...args]]
const clock = () => `${((performance.now() - began) / 1000).toFixed(0)} s`
const began = performance.now()

function run([command, args], env = {}) {
  return new Promise((done) => {
    const child = spawn(command, args, { cwd: ROOT, env: { ...process.env, CI: '1', ...env }, stdio: ['ignore', 'inherit', 'inherit'] })
    children.add(child)
    child.once('exit', (code) => {
      children.delete(child)
      done(code ?? 1)
    })
    child.once('error', () => done(1))
  })
}
/** A check that passes or fails as a whole. */
async function check(name, command) {
  const code = await run(command)
  log(`${code === 0 ? 'ok' : 'FAILED'}: ${name} (${clock()})`)
  if (code === 0) passed++
  else failed++
}
/** A suite that reports its own count; one that wrote no report has failed. */
async function suite(name, command, report, count, env) {
  const code = await run(command, env)
  if (!existsSync(report)) {
    failed++
    log(`FAILED: ${name} left no report`)
    return
  }
  const [p, f] = count(JSON.parse(readFileSync(report, 'utf8')))
  passed += p
  failed += f
  if (code !== 0 && f === 0) failed++
  log(`${code === 0 ? 'ok' : 'FAILED'}: ${name}, ${p} passed, ${f} failed (${clock()})`)
}
function vitest() {
  const report = join(temporary, 'unit.json')
  const args = ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${report}`]
  return suite('unit and server tests', node('node_modules/vitest/vitest.mjs', args), report, (r) => [r.numPassedTests, r.numFailedTests])
}
/** The application for the journeys; it is made ready while the unit tests run. */
async function application() {
  const port = await freePort()
  const server = spawn(
    process.execPath,
    [join(ROOT, 'scripts/start.mjs'), '--port', String(port), '--data', join(temporary, 'data'), '--no-ahead'],
    {
      cwd: ROOT,
      env: { ...process.env, DATABASE_URL: '' },
      stdio: ['ignore', 'pipe', 'inherit'],
    },
  )
  children.add(server)
  const ended = new Promise((done) => server.once('exit', done))
  const up = await new Promise((done) => {
    server.stdout.on('data', (d) => String(d).includes(`127.0.0.1:${port}`) && done(true))
    server.once('exit', () => done(false))
  })
  return { server, ended, port, up }
}
async function browser({ server, ended, port, up }) {
  if (!up) {
    failed++
    log('FAILED: the application did not start')
    return
  }
  const report = join(temporary, 'browser.json')
  await suite(
    'the application in a browser',
    node('node_modules/@playwright/test/cli.js', ['test']),
    report,
    (r) => [r.stats.expected, r.stats.unexpected + r.stats.flaky],
    { EMBER_URL: `http://127.0.0.1:${port}`, EMBER_DATA: join(temporary, 'data'), EMBER_E2E_REPORT: report },
  )
  server.kill('SIGTERM')
  await ended
  children.delete(server)
}
async function leave() {
  for (const c of children) c.kill('SIGTERM')
  rmSync(temporary, { recursive: true, force: true })
  log(`${passed} passed, ${failed} failed`)
  process.exit(failed ? 1 : 0)
}
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => {
    failed++
    void leave()
  })
try {
  packages(log)
  await dependencies(log)
  await build(log)
  spawnSync(...node('node_modules/next/dist/bin/next', ['typegen']), { cwd: ROOT, stdio: 'ignore' })
  await Promise.all([
    check('types', node('node_modules/typescript/bin/tsc', ['--noEmit', '-p', '.'])),
    check('lint', node('node_modules/@biomejs/biome/bin/biome', ['check', '.'])),
    check('format of the kernels', node('scripts/format-kernels.mjs', ['--check'])),
    check('floors', node('node_modules/dependency-cruiser/bin/dependency-cruise.mjs', ['src', '--output-type', 'err'])),
  ])
  const starting = application()
  await vitest()
  await browser(await starting)
} catch (error) {
  failed++
  process.stderr.write(`test: ${error instanceof Complaint ? error.message : (error.stack ?? error)}\n`)
}
await leave()
