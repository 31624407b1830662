import { randomUUID } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, truncateSync, unlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import { storeAsset } from '../assets'
import { checkStore } from '../check'
import { writeWhole } from '../files'
import { createRender, frameFile, jobFolder } from '../jobs'
import { createProject, createShot, listProjects, listVersions, nameVersion, readShot, savePicture, saveShot } from '../shots'
import { openTestServer, type TestServer } from '../testing/open'
import { backup, restore } from './backup'

let s: TestServer
let shot: string
let job: string
const file = () => join(s.data, `${randomUUID()}.tar`)
const obj = (n: number) => new TextEncoder().encode(`v 0 0 0\nv ${n} 0 0\nv 0 1 0\nf 1 2 3\n`)
async function* once(bytes: Uint8Array) {
  yield bytes
}
async function addFrame(frame: number, bytes = Buffer.from(`picture ${frame}`)) {
  await writeWhole(join(jobFolder(s.data, job), frameFile(frame)), bytes)
  await s.db.JobFrame.upsert({ jobId: job, frame, file: frameFile(frame), bytes: bytes.length, ms: 5 })
}
beforeAll(async () => {
  s = await openTestServer()
  const project = await createProject(s.db, 'Quay 鐘')
  shot = (await createShot(s.db, project.id, demoShot())).id
  await nameVersion(s.db, shot, 'first light')
  await savePicture(s.db, s.data, shot, new Uint8Array([0xff, 0xd8, 1, 2, 3]))
  await storeAsset(s.db, s.data, 'sail.obj', once(obj(1)))
  job = (await createRender(s.db, s.data, shot, { first: 0, last: 9, width: 64, height: 36, transparent: false, formats: ['png'] })).id
  await addFrame(0)
  await addFrame(1)
})
afterAll(() => s.close())

describe('a backup', () => {
  it('comes back whole into an empty place', async () => {
    const to = file()
    const made = await backup(s.db, s.data, to)
    expect(made.missing).toEqual([])
    expect(Object.keys(made.files)).toHaveLength(4)
    const other = await openTestServer({ migrated: false })
    try {
      await restore(other.db, other.data, to)
      const strip = async (t: TestServer) => JSON.stringify(await listProjects(t.db, t.data))
      expect(await strip(other)).toBe(await strip(s))
      expect(await readShot(other.db, shot)).toEqual(await readShot(s.db, shot))
      expect(await listVersions(other.db, shot)).toEqual(await listVersions(s.db, shot))
      for (const path of Object.keys(made.files))
        expect(readFileSync(join(other.data, path)).equals(readFileSync(join(s.data, path)))).toBe(true)
      expect(await checkStore(other.db, other.data)).toEqual([])
      expect(readdirSync(other.data).filter((n) => n.startsWith('restore'))).toEqual([])
    } finally {
      await other.close()
    }
  })
  it('is of one moment while shots are saved, files brought and frames drawn', async () => {
    const to = file()
    let going = true
    const write = (async () => {
      for (let r = (await readShot(s.db, shot)).revision, n = 2; going; n++) {
        r = (await saveShot(s.db, shot, r, { ...demoShot(), name: `save ${n}` })).revision
        await addFrame(n % 10)
        if (n % 5 === 0) await storeAsset(s.db, s.data, 'sail.obj', once(obj(n)))
      }
    })()
    await new Promise((r) => setTimeout(r, 300))
    const made = await backup(s.db, s.data, to)
    going = false
    await write
    expect(made.missing).toEqual([])
    const other = await openTestServer({ migrated: false })
    try {
      await restore(other.db, other.data, to)
      expect(await checkStore(other.db, other.data)).toEqual([])
    } finally {
      await other.close()
    }
  })
  it('that is damaged, or is none, puts nothing anywhere', async () => {
    const to = file()
    await backup(s.db, s.data, to)
    const bytes = readFileSync(to)
    const wrong = file()
    const spoiled = Buffer.from(bytes)
    spoiled.set(Buffer.from('PICTURE 0'), bytes.indexOf('picture 0'))
    for (const [what, message] of [
      [bytes.subarray(0, bytes.length / 2), /tar: |damaged|not a backup/],
      [spoiled, /is damaged: renders\/.*0000.png is not what it was/],
      [Buffer.from('no tar at all'), /tar: /],
    ] as const) {
      writeFileSync(wrong, what)
      const other = await openTestServer({ migrated: false })
      try {
        await expect(restore(other.db, other.data, wrong)).rejects.toThrow(message)
        expect(readdirSync(other.data)).toEqual([])
        expect(await other.db.sequelize.getQueryInterface().showAllTables()).toEqual([])
      } finally {
        await other.close()
      }
    }
  })
  it('that cannot be written leaves no part of itself', async () => {
    const to = join(s.data, 'nowhere', 'x.tar')
    await expect(backup(s.db, s.data, to)).rejects.toThrow(/ENOENT/)
    expect(existsSync(join(s.data, 'nowhere'))).toBe(false)
  })
})
describe('the check at the start', () => {
  it('says what is missing or not whole, forgets such frames, and sets aside what no row knows', async () => {
    await s.db.Job.update({ state: 'done' }, { where: { id: job } })
    await addFrame(0)
    await addFrame(1)
    truncateSync(join(jobFolder(s.data, job), frameFile(1)), 3)
    const asset = await storeAsset(s.db, s.data, 'rope.obj', once(obj(77)))
    unlinkSync(join(s.data, 'assets', asset.hash))
    writeFileSync(join(s.data, 'assets', 'f'.repeat(64)), 'nobody knows me')
    mkdirSync(join(s.data, 'renders', 'lost'), { recursive: true })
    const said = await checkStore(s.db, s.data)
    expect(said).toContain(`the file of rope.obj (${asset.hash.slice(0, 12)}) is missing; bring it into a shot again`)
    expect(said.some((l) => /^render of .*: 1 frame was not whole on the disk; go on to draw them again$/.test(l))).toBe(true)
    expect(said).toContain('1 in assets that no row knows was set aside in unknown/')
    expect(said).toContain('1 in renders that no row knows was set aside in unknown/')
    expect(await s.db.JobFrame.count({ where: { jobId: job, frame: 1 } })).toBe(0)
    expect((await s.db.Job.findByPk(job))?.state).toBe('stopped')
    const [aside] = readdirSync(join(s.data, 'unknown', 'assets'))
    expect(readFileSync(join(s.data, 'unknown', 'assets', aside), 'utf8')).toBe('nobody knows me')
    await s.db.Asset.destroy({ where: { hash: asset.hash } })
    expect(await checkStore(s.db, s.data)).toEqual([])
    rmSync(join(s.data, 'unknown'), { recursive: true })
  })
})
