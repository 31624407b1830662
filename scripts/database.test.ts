import { spawn, spawnSync } from 'node:child_process'
import { chmodSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
// @ts-expect-error: a plain script without types
import { startDatabase } from './database.mjs'
// @ts-expect-error: a plain script without types
import { freePort } from './prepare.mjs'

interface Database {
  url: string
  socket: string
  first: { pid: number; stop(): Promise<void> }
  clean(): void
}
const folders: string[] = []
const newFolder = () => {
  const f = mkdtempSync(join(tmpdir(), 'ember-db-'))
  folders.push(f)
  return f
}
afterAll(() => {
  for (const f of folders) rmSync(f, { recursive: true, force: true })
})
const begin = (folder: string): Promise<Database> => startDatabase(folder, () => {})
function ask(args: string[], statements: string) {
  const r = spawnSync('mariadb', ['--no-defaults', '-N', ...args], { encoding: 'utf8', input: statements })
  return r.status === 0 ? r.stdout.trim() : `refused: ${/ERROR \d+/.exec(r.stderr)?.[0]}`
}
async function closed(folder: string, database: Database) {
  const { port, username, password } = new URL(database.url)
  const tcp = (user: string, secret = '') => ['-h', '127.0.0.1', '-P', port, '-u', user, ...(secret ? [`-p${secret}`] : [])]
  for (const user of ['root', 'mysql', userInfo().username]) expect(ask(tcp(user), 'SELECT 1'), user).toMatch(/^refused/)
  expect(ask(tcp(username, 'wrong'), 'SELECT 1')).toMatch(/^refused/)
  const ours = tcp(username, password)
  expect(ask([...ours, 'fox_ember'], 'CREATE TABLE t (a INT); INSERT INTO t VALUES (7); SELECT a FROM t; DROP TABLE t')).toBe('7')
  for (const statement of [
    "SELECT 1 INTO OUTFILE '/tmp/ember-never'",
    'SELECT * FROM mysql.global_priv',
    'CREATE DATABASE other',
    "CREATE USER intruder IDENTIFIED BY 'x'",
    'SHUTDOWN',
  ])
    expect(ask(ours, statement), statement).toMatch(/^refused/)
  expect(ask(ours, "SELECT LOAD_FILE('/etc/hostname')")).toBe('NULL')
  expect(ask(['-S', database.socket, '-u', userInfo().username], "SELECT @@local_infile, @@secure_file_priv <> ''")).toBe('0\t1')
  expect(statSync(join(folder, 'db.secret')).mode & 0o777).toBe(0o600)
  expect(statSync(join(database.socket, '..')).mode & 0o777).toBe(0o700)
  expect(readFileSync(`/proc/${database.first.pid}/cmdline`, 'utf8')).not.toContain(password)
  expect(readFileSync(`/proc/${database.first.pid}/environ`, 'utf8')).not.toContain(password)
}
describe('the database', () => {
  it('lets in one account with rights on its own database, and the administrator by the socket', async () => {
    const folder = newFolder()
    const database = await begin(folder)
    await closed(folder, database)
    await database.first.stop()
    // The same password the next time, and another when it was lost.
    const again = await begin(folder)
    expect(new URL(again.url).password).toBe(new URL(database.url).password)
    await again.first.stop()
    rmSync(join(folder, 'db.secret'))
    const other = await begin(folder)
    expect(new URL(other.url).password).not.toBe(new URL(database.url).password)
    await closed(folder, other)
    await other.first.stop()
  })
  it('of before, open to everybody, is closed at the next start and keeps what it had', async () => {
    const folder = newFolder()
    chmodSync(folder, 0o755)
    const data = join(folder, 'db')
    const user = `--user=${userInfo().username}`
    spawnSync('mariadb-install-db', ['--no-defaults', user, `--datadir=${data}`, '--auth-root-authentication-method=normal'])
    const port = await freePort()
    const socket = join(folder, 'old.sock')
    const old = spawn(
      '/usr/sbin/mariadbd',
      ['--no-defaults', user, `--datadir=${data}`, `--port=${port}`, `--socket=${socket}`, `--pid-file=${folder}/old.pid`],
      {
        stdio: ['ignore', 'ignore', 'pipe'],
      },
    )
    await new Promise<void>((done) => old.stderr.on('data', (d) => String(d).includes('ready for connections') && done()))
    const open = ['-h', '127.0.0.1', '-P', String(port), '-u', 'root']
    expect(
      ask(open, 'CREATE DATABASE fox_ember; CREATE TABLE fox_ember.kept (a INT); INSERT INTO fox_ember.kept VALUES (3); SELECT 1'),
    ).toBe('1')
    const gone = new Promise((done) => old.once('exit', done))
    old.kill('SIGTERM')
    await gone
    const database = await begin(folder)
    await closed(folder, database)
    expect(ask(['-S', database.socket, '-u', userInfo().username], 'SELECT a FROM fox_ember.kept')).toBe('3')
    await database.first.stop()
  })
  it('stands in a folder that lies deep: its socket has a short path of its own', async () => {
    const folder = join(newFolder(), 'a'.repeat(60), 'b'.repeat(40))
    spawnSync('mkdir', ['-p', folder])
    const database = await begin(folder)
    expect(database.socket.length).toBeLessThan(100)
    await closed(folder, database)
    await database.first.stop()
    database.clean()
  })
})
