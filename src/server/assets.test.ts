import { execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ASSET_LIMIT_BYTES, assetPath, assetStream, cleanName, storeAsset, sweepAssets } from './assets'
import { Failure } from './failure'
import { openTestServer, type TestServer } from './testing/open'

let s: TestServer
beforeAll(async () => {
  s = await openTestServer()
})
afterAll(() => s.close())

async function* parts(...list: (string | Uint8Array)[]): AsyncGenerator<Uint8Array> {
  for (const p of list) yield typeof p === 'string' ? new TextEncoder().encode(p) : p
}
const files = () => (existsSync(join(s.data, 'assets')) ? readdirSync(join(s.data, 'assets')) : [])
const refused = async (name: string, ...list: (string | Uint8Array)[]): Promise<Failure> => {
  const before = files()
  const rows = await s.db.Asset.count()
  try {
    await storeAsset(s.db, s.data, name, parts(...list))
  } catch (error) {
    // Nothing is stored, and nothing is left behind.
    expect(files()).toEqual(before)
    expect(await s.db.Asset.count()).toBe(rows)
    if (error instanceof Failure) return error
    throw error
  }
  throw new Error('it was taken')
}
const TRIANGLE = 'v 0 0 0\nv 1 0 0\nv 0 2 0\ng Sail\nf 1 2 3\n'

describe('storing an asset', () => {
  it('keeps it under its hash, says what it holds, and takes the same file again for nothing', async () => {
    const a = await storeAsset(s.db, s.data, 'C:\\ferry\\sail.obj', parts(TRIANGLE.slice(0, 20), TRIANGLE.slice(20)))
    expect(a).toMatchObject({
      hash: createHash('sha256').update(TRIANGLE).digest('hex'),
      name: 'sail.obj',
      bytes: TRIANGLE.length,
      info: { triangles: 1, closed: false, parts: ['Sail'], bounds: { max: [1, 2, 0] } },
    })
    expect(readFileSync(assetPath(s.data, a.hash), 'utf8')).toBe(TRIANGLE)
    const before = files()
    expect(await storeAsset(s.db, s.data, 'again.obj', parts(TRIANGLE))).toMatchObject({ hash: a.hash, name: 'again.obj' })
    expect(files()).toEqual(before)
    const { stream, bytes } = await assetStream(s.db, s.data, a.hash)
    expect(bytes).toBe(TRIANGLE.length)
    stream.destroy()
  })
  it.each([
    ['broken.obj', ['v 0 0 0\nf 1 2 9\n'], 'broken.obj: line 2: corner “2” names a vertex that is not there; the file has 1 so far'],
    ['nan.obj', ['v 0 NaN 0\n'], 'nan.obj: line 1: “NaN” is not a finite number'],
    [
      'sail.glb',
      ['glTF', new Uint8Array([2, 0, 0, 0, 0xff, 0xff, 0xff, 0x7f, 0, 0, 0, 0, 0, 0, 0, 0])],
      'sail.glb: byte 8: cut short: the header says 2147483647 bytes, the file has 20',
    ],
    [
      'picture.obj',
      [new Uint8Array([0x89, 0x50, 0, 1])],
      'picture.obj: not a mesh that can be read: bring GLB (glTF 2.0), OBJ, PLY, STL or VDB, or a picture (PNG, JPEG, WebP, HDR, EXR)',
    ],
    ['empty.obj', [], 'empty.obj: the file is empty'],
    [
      '<img src=x onerror=alert(1)>.obj',
      ['hello'],
      '<img src=x onerror=alert(1)>.obj: not a mesh that can be read: bring GLB (glTF 2.0), OBJ, PLY, STL or VDB, or a picture (PNG, JPEG, WebP, HDR, EXR)',
    ],
  ])('refuses %s and says where', async (name, list, message) => {
    const f = await refused(name, ...list)
    expect([f.status, f.message]).toEqual([422, message])
  })
  it('stops reading at the limit', async () => {
    let sent = 0
    async function* endless() {
      const block = new Uint8Array(8 * 1024 * 1024)
      for (;;) {
        sent += block.length
        yield block
      }
    }
    await expect(storeAsset(s.db, s.data, 'flood.obj', endless())).rejects.toMatchObject({
      status: 413,
      message: 'flood.obj is larger than 256 MB; give it fewer triangles or smaller pictures and bring it again',
    })
    expect(sent).toBeLessThan(ASSET_LIMIT_BYTES + 32 * 1024 * 1024)
    expect(files().filter((f) => f.endsWith('.part'))).toEqual([])
  })
  it('leaves nothing when the sender breaks off', async () => {
    async function* broken() {
      yield new TextEncoder().encode('v 0 0 0\n')
      throw new Error('the line went dead')
    }
    await expect(storeAsset(s.db, s.data, 'x.obj', broken())).rejects.toThrow('the line went dead')
    expect(files().filter((f) => f.endsWith('.part'))).toEqual([])
  })
  it('killed between write and rename, the remains are swept and nothing half is ever served', async () => {
    const folder = join(s.data, 'killed')
    mkdirSync(folder)
    // A process that is killed while the file is being written: as storeAsset does it, to a temporary name.
    const child = spawn(process.execPath, [
      '-e',
      `const fs=require('fs');fs.mkdirSync(${JSON.stringify(`${folder}/assets`)});const f=fs.openSync(${JSON.stringify(`${folder}/assets/incoming-1.part`)},'wx');fs.writeSync(f,'v 0 0');console.log('half');setInterval(()=>{},1000)`,
    ])
    await new Promise((done) => child.stdout.once('data', done))
    child.kill('SIGKILL')
    await new Promise((done) => child.once('exit', done))
    expect(readdirSync(join(folder, 'assets'))).toEqual(['incoming-1.part'])
    expect(sweepAssets(folder)).toBe(1)
    expect(readdirSync(join(folder, 'assets'))).toEqual([])
    expect(sweepAssets(folder)).toBe(0)
  })
  it('a file without its row, or a row without its file, is not there', async () => {
    const hash = 'a'.repeat(64)
    writeFileSync(assetPath(s.data, hash), 'x')
    await expect(assetStream(s.db, s.data, hash)).rejects.toMatchObject({ status: 404 })
    const lost = 'b'.repeat(64)
    await s.db.Asset.create({ hash: lost, name: 'lost.obj', bytes: 3, kind: 'mesh', info: '{}' })
    await expect(assetStream(s.db, s.data, lost)).rejects.toMatchObject({ status: 404 })
  })
})
describe('names and paths', () => {
  it.each([
    ['../../etc/passwd', 'passwd'],
    ['a/b\\c.obj', 'c.obj'],
    ['  ', 'mesh'],
    ['x\u0000\u001f.obj', 'x.obj'],
    ['é'.repeat(300), 'é'.repeat(180)],
  ])('%j is called %j', (name, clean) => {
    expect(cleanName(name)).toBe(clean)
  })
  it('only a hash leads to a file', () => {
    for (const hash of ['', '..', '../../etc/passwd', 'A'.repeat(64), 'g'.repeat(64), `${'a'.repeat(64)}/..`])
      expect(() => assetPath(s.data, hash)).toThrow(Failure)
  })
})
describe('the reader in its process of its own', () => {
  it('answers in JSON, or in one line with exit code 1', () => {
    const file = join(s.data, 'sail.obj')
    writeFileSync(file, TRIANGLE)
    const out = execFileSync(process.execPath, ['dist/ember.mjs', 'inspect', file], { encoding: 'utf8' })
    expect(JSON.parse(out)).toMatchObject({ triangles: 1, vertices: 3 })
    writeFileSync(file, 'v 1\n')
    try {
      execFileSync(process.execPath, ['dist/ember.mjs', 'inspect', file], { encoding: 'utf8', stdio: 'pipe' })
      throw new Error('it was taken')
    } catch (error) {
      expect((error as { status: number }).status).toBe(1)
      expect((error as { stderr: string }).stderr).toBe('line 1: “v” needs three numbers\n')
    }
  })
})
