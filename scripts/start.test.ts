import { type ChildProcess, spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
// @ts-expect-error: a plain script without types
import { freePort, portTaken } from './prepare.mjs'

const folder = mkdtempSync(join(tmpdir(), 'ember-start-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const start = (...args: string[]) => {
  const r = spawnSync('bin/start', args, { encoding: 'utf8', timeout: 60000 })
  return { code: r.status, err: r.stderr, out: r.stdout }
}
describe('bin/start says in one line what is wrong, and ends with another code than 0', () => {
  it('a port that is in use', async () => {
    const port = await freePort()
    const other = createServer()
    await new Promise<void>((done) => other.listen(port, '127.0.0.1', done))
    try {
      expect(await portTaken(port)).toBe(true)
      expect(start('--port', String(port), '--data', folder)).toEqual({
        code: 1,
        out: '',
        err: `start: port ${port} is in use; choose another with --port\n`,
      })
    } finally {
      other.close()
    }
  })
  it('a folder that cannot be written', () => {
    const file = join(folder, 'a-file')
    writeFileSync(file, '')
    expect(start('--data', file)).toEqual({ code: 1, out: '', err: `start: cannot write to ${file}; choose another folder with --data\n` })
    expect(start('--data', '/proc/ember').err).toBe('start: cannot write to /proc/ember; choose another folder with --data\n')
  })
  it.each([
    [['--port', '70000'], '--port: “70000” is not a port from 1 to 65535'],
    [['--port', 'x'], '--port: “x” is not a port from 1 to 65535'],
    [['--speed'], "Unknown option '--speed'"],
    [['shot.json'], "Unexpected argument 'shot.json'"],
  ])('%j', (args, message) => {
    const r = start(...args)
    expect(r.code).toBe(1)
    expect(r.err.trimEnd().split('\n')).toHaveLength(1)
    expect(r.err).toContain(message)
  })
})
describe('bin/start from nothing to stopped', () => {
  const up = (child: ChildProcess) =>
    new Promise<string>((done, fail) => {
      let said = ''
      child.stdout?.on('data', (d) => {
        said += d
        const m = /Fox Ember is at (http:\S+)/.exec(said)
        if (m) done(m[1])
      })
      child.once('exit', (code) => fail(new Error(`ended with ${code}: ${said}`)))
    })
  /** Numbers of the processes that run a database over this folder. */
  const database = (data: string): string[] =>
    readdirSync('/proc').filter((pid) => {
      if (!/^\d+$/.test(pid)) return false
      try {
        return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(`--datadir=${data}/db`)
      } catch {
        return false
      }
    })
  it('serves without the demo where that is not wanted, and leaves nothing running', async () => {
    const data = join(folder, 'empty')
    const port = await freePort()
    const child = spawn('bin/start', ['--port', String(port), '--data', data, '--no-demo'], { stdio: ['ignore', 'pipe', 'inherit'] })
    const url = await up(child)
    expect(url).toBe(`http://127.0.0.1:${port}`)
    expect(await (await fetch(`${url}/api/projects`)).json()).toEqual([])
    expect(database(data)).toHaveLength(1)
    const gone = new Promise((done) => child.once('exit', done))
    child.kill('SIGINT')
    expect(await gone).toBe(0)
    expect(database(data)).toEqual([])
    expect(await portTaken(port)).toBe(false)
  })
  it('refuses a second start on the same data, brings back what dies, and takes over after its own kill', async () => {
    const data = join(folder, 'hard')
    const port = await freePort()
    const begin = () => spawn('bin/start', ['--port', String(port), '--data', data, '--no-ahead'], { stdio: ['ignore', 'pipe', 'ignore'] })
    const demo = readdirSync('demo').filter((name) => existsSync(join('demo', name, 'shot.json'))).length
    const state = () => JSON.parse(readFileSync(join(data, 'start.lock'), 'utf8'))
    const answers = async () => {
      for (let i = 0; i < 200; i++) {
        const shots = await fetch(`http://127.0.0.1:${port}/api/projects`).then(
          async (r) => (r.ok ? ((await r.json()) as { shots: unknown[] }[])[0].shots.length : 0),
          () => 0,
        )
        if (shots === demo) return true
        await new Promise((r) => setTimeout(r, 100))
      }
      return false
    }
    // A folder as a kill leaves it while the database is made.
    mkdirSync(join(data, 'db.making', 'mysql'), { recursive: true })
    writeFileSync(join(data, 'db.making', 'ibdata1'), 'half')
    const first = begin()
    await up(first)
    const second = start('--port', String(await freePort()), '--data', data)
    expect(second.code).toBe(1)
    expect(second.err).toBe(
      `start: Fox Ember already runs on ${data}, at http://127.0.0.1:${port} (process ${first.pid}); stop that first, or choose another folder with --data\n`,
    )
    for (const name of ['the database', 'the web server', 'the job worker']) {
      const before = state().children[name].pid
      process.kill(before, 'SIGKILL')
      expect(await answers(), name).toBe(true)
      for (let i = 0; i < 100 && state().children[name].pid === before; i++) await new Promise((r) => setTimeout(r, 100))
      expect(state().children[name].pid, name).not.toBe(before)
    }
    first.kill('SIGKILL')
    const third = begin()
    await up(third)
    expect(await answers()).toBe(true)
    expect(database(data)).toHaveLength(1)
    const gone = new Promise((done) => third.once('exit', done))
    third.kill('SIGTERM')
    expect(await gone).toBe(0)
    expect(await portTaken(port)).toBe(false)
    expect(database(data)).toEqual([])
    expect(existsSync(join(data, 'start.lock'))).toBe(false)
  })
  it('uses a database that is there already, and says when it is not', async () => {
    const r = spawnSync('bin/start', ['--data', join(folder, 'other'), '--port', String(await freePort())], {
      encoding: 'utf8',
      env: { ...process.env, DATABASE_URL: `mariadb://root@127.0.0.1:${await freePort()}/none` },
      timeout: 60000,
    })
    expect(r.status).toBe(1)
    expect(r.stderr).toMatch(/^start: the database cannot be used: .*\n$/)
  })
})
