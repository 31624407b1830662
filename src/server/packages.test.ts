import { readFileSync, rmSync } from 'node:fs'
import { unzipSync, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { assetPath } from './assets'
import { loadDemo } from './demo'
import { packProject, packShot, unpackShot } from './packages'
import { createProject, createShot, listProjects, readShot } from './shots'
import { openTestServer, type TestServer } from './testing/open'

let s: TestServer
beforeAll(async () => {
  s = await openTestServer()
  await loadDemo(s.db, s.data, 'demo')
})
afterAll(() => s.close())

const shotNamed = async (name: string) => {
  const found = (await listProjects(s.db, s.data)).flatMap((p) => p.shots).find((x) => x.name === name)
  if (!found) throw new Error(`no shot ${name}`)
  return found.id
}
const zipOf = async (id: string) => new Uint8Array(await new Response((await packShot(s.db, s.data, id)).stream).arrayBuffer())

describe('a package of the server', () => {
  it('is opened in another project as it was, and packed there again is the same file', async () => {
    const zip = await zipOf(await shotNamed('Anvil strike'))
    const other = await createProject(s.db, 'Elsewhere')
    const { doc } = await readShot(s.db, await shotNamed('Anvil strike'))
    const path = assetPath(s.data, doc.assets[0].hash)
    const bytes = readFileSync(path)
    // As on another machine: one asset is not there.
    rmSync(path)
    await s.db.Asset.destroy({ where: { hash: doc.assets[0].hash } })
    await expect(packShot(s.db, s.data, await shotNamed('Anvil strike'))).rejects.toThrow(`${doc.assets[0].name} is not there`)
    const { id, lost } = await unpackShot(s.db, s.data, other.id, zip)
    expect(lost).toEqual([])
    expect(readFileSync(path).equals(bytes)).toBe(true)
    expect((await readShot(s.db, id)).doc).toEqual(doc)
    expect(Buffer.from(await zipOf(id)).equals(Buffer.from(zip))).toBe(true)
  })
  it('of a project holds all its shots, each asset once; opened elsewhere they are as they were, and a damaged one is said', async () => {
    const small = await createProject(s.db, 'Two shots')
    const docs = await Promise.all(['Anvil strike', 'Kiln fire'].map(async (n) => (await readShot(s.db, await shotNamed(n))).doc))
    for (const doc of docs) await createShot(s.db, small.id, doc)
    const zip = new Uint8Array(await new Response((await packProject(s.db, s.data, small.id)).stream).arrayBuffer())
    const files = unzipSync(zip)
    const hashes = new Set(docs.flatMap((d) => d.assets.map((a) => a.hash)))
    expect(Object.keys(files).filter((n) => n.startsWith('assets/'))).toHaveLength(hashes.size)
    const other = await createProject(s.db, 'Two shots elsewhere')
    const { ids, lost } = await unpackShot(s.db, s.data, other.id, zip)
    expect(lost).toEqual([])
    const opened = await Promise.all(ids.map(async (id) => (await readShot(s.db, id)).doc))
    const byName = (a: { name: string }, b: { name: string }) => a.name.localeCompare(b.name)
    expect(opened.sort(byName)).toEqual([...docs].sort(byName))
    // The second of them has other letters than its hash says.
    const name = Object.keys(files).find((n) => n.startsWith('shots/')) as string
    files[name][200] ^= 1
    const broken = await createProject(s.db, 'One shot')
    const rest = await unpackShot(s.db, s.data, broken.id, zipSync(files, { level: 0 }))
    expect(rest.ids).toHaveLength(1)
    expect(rest.lost).toEqual([expect.stringMatching(/^the shot (Anvil strike|Kiln fire) is damaged$/)])
    const empty = await createProject(s.db, 'Nothing')
    await expect(packProject(s.db, s.data, empty.id)).rejects.toThrow('Nothing has no shot')
  })
  it('that is damaged opens with what is whole, and says the rest; nothing else is entered of one that is none', async () => {
    const zip = await zipOf(await shotNamed('Anvil strike'))
    const other = await createProject(s.db, 'Damaged')
    zip[zip.length - 4000] ^= 255
    const before = await s.db.Shot.count()
    const { lost } = await unpackShot(s.db, s.data, other.id, zip)
    expect(lost).toHaveLength(1)
    expect(lost[0]).toMatch(/ is damaged$/)
    expect(await s.db.Shot.count()).toBe(before + 1)
    const none = new Uint8Array(readFileSync('package.json'))
    await expect(unpackShot(s.db, s.data, other.id, none)).rejects.toThrow('this file is not a ZIP file')
    expect(await s.db.Shot.count()).toBe(before + 1)
  })
})
