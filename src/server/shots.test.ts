import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoDocument, demoShot } from '../acts/testing/shots'
import { checkStore } from './check'
import { loadDemo } from './demo'
import { Failure } from './failure'
import { createRender, jobFolder } from './jobs'
import { migrateDatabase } from './migrate'
import { MIGRATIONS } from './migrations'
import {
  createProject,
  createShot,
  deleteProject,
  deleteShot,
  listProjects,
  listVersions,
  nameVersion,
  picturePath,
  readPicture,
  readShot,
  readVersion,
  renameProject,
  savePicture,
  saveShot,
} from './shots'
import { openTestServer, type TestServer } from './testing/open'

let s: TestServer
beforeAll(async () => {
  s = await openTestServer()
})
afterAll(() => s.close())
const failure = async (p: Promise<unknown>): Promise<Failure> => {
  try {
    await p
  } catch (error) {
    if (error instanceof Failure) return error
    throw error
  }
  throw new Error('it did not fail')
}
const freshShot = async (name = 'Bell toll') => {
  const project = await createProject(s.db, 'Quay tests')
  return createShot(s.db, project.id, { ...demoShot(), name })
}

/** The shots that come with the application, each with its picture. */
const filesIn = (folder: string) =>
  existsSync(folder)
    ? readdirSync(folder).map((n) =>
        createHash('sha256')
          .update(readFileSync(join(folder, n)))
          .digest('hex'),
      )
    : []
const DEMO = readdirSync('demo')
  .filter((name) => existsSync(join('demo', name, 'shot.json')))
  .sort()

describe('migrations', () => {
  it('have run in order, and run again they do nothing', async () => {
    expect(await migrateDatabase(s.db)).toEqual([])
    const names = MIGRATIONS.map((m) => m.name)
    expect(names).toEqual([...names].sort())
    expect(names.map((n) => Number(n.slice(0, 4)))).toEqual(names.map((_, i) => i + 1))
  })
})
describe('projects and shots', () => {
  it('are made, listed, renamed and deleted', async () => {
    const p = await createProject(s.db, 'Thistlewick “<b>Quay</b>” ‘; DROP TABLE shots')
    const shot = await createShot(s.db, p.id, demoShot())
    await renameProject(s.db, p.id, 'Ferry')
    const listed = (await listProjects(s.db, s.data)).find((x) => x.id === p.id)
    expect(listed).toMatchObject({
      name: 'Ferry',
      shots: [{ id: shot.id, name: 'Anvil strike', frames: 72, seconds: 3, rate: 24, picture: false, baked: false, revision: 1 }],
    })
    await deleteProject(s.db, s.data, p.id)
    expect((await failure(readShot(s.db, shot.id))).status).toBe(404)
    expect((await failure(renameProject(s.db, p.id, 'x'))).status).toBe(404)
    expect((await failure(deleteProject(s.db, s.data, p.id))).status).toBe(404)
  })
  it('come back word for word', async () => {
    const { id } = await freshShot('Glocke 鐘 🔔')
    const back = await readShot(s.db, id)
    expect(back.doc).toEqual({ ...demoShot(), name: 'Glocke 鐘 🔔' })
    expect(back).toMatchObject({ revision: 1, project: 'Quay tests' })
  })
  it('a document that is wrong is refused with every place, and nothing is stored', async () => {
    const project = await createProject(s.db, 'Empty')
    const doc = demoDocument() as { systems: { birth: { rate?: number; count?: number }[] }[] }
    doc.systems[0].birth[0].count = -4
    doc.systems[0].birth[1].rate = -1
    const f = await failure(createShot(s.db, project.id, doc))
    expect(f.status).toBe(422)
    expect(f.details.problems?.map((p) => p.path)).toEqual(['systems[0].birth[0].count', 'systems[0].birth[1].rate'])
    expect((await listProjects(s.db, s.data)).find((p) => p.id === project.id)?.shots).toEqual([])
    expect((await failure(createShot(s.db, 'nobody', demoShot()))).status).toBe(404)
  })
  it('the demo comes whole or not at all, and one that was left empty is filled', async () => {
    const other = await openTestServer()
    try {
      // Cut off in the middle of its shots.
      let n = 0
      other.db.Shot.addHook('beforeCreate', 'cut', () => {
        if (++n > 3) throw new Error('killed')
      })
      await expect(loadDemo(other.db, other.data, 'demo')).rejects.toThrow('killed')
      other.db.Shot.removeHook('beforeCreate', 'cut')
      expect(await other.db.Project.count()).toBe(0)
      await createProject(other.db, 'Lantern Night')
      expect(await loadDemo(other.db, other.data, 'demo')).toHaveLength(DEMO.length)
      expect((await listProjects(other.db, other.data)).map((p) => [p.name, p.shots.length])).toEqual([['Lantern Night', DEMO.length]])
      expect(await checkStore(other.db, other.data)).toEqual([])
    } finally {
      await other.close()
    }
  })
  it('an emptied project of a person is no demo that was left', async () => {
    const other = await openTestServer()
    try {
      await createProject(other.db, 'Mine')
      expect(await loadDemo(other.db, other.data, 'demo')).toEqual([])
    } finally {
      await other.close()
    }
  })
  it('the demo is loaded once, into a database without projects', async () => {
    const other = await openTestServer()
    try {
      expect(await loadDemo(other.db, other.data, 'demo')).toEqual(DEMO)
      expect(await loadDemo(other.db, other.data, 'demo')).toEqual([])
      const [project] = await listProjects(other.db, other.data)
      expect(project).toMatchObject({ name: 'Lantern Night' })
      expect(project.shots.map((s) => [s.name, s.picture]).sort()).toEqual(
        DEMO.map((name) => [JSON.parse(readFileSync(join('demo', name, 'shot.json'), 'utf8')).name, true]).sort(),
      )
      // Each file once, however many shots have it.
      const files = DEMO.flatMap((name) => filesIn(join('demo', name, 'assets')))
      expect(await other.db.Asset.count()).toBe(new Set(files).size)
      await deleteProject(other.db, other.data, project.id)
    } finally {
      await other.close()
    }
  })
})
describe('saving', () => {
  it('raises the revision, and a stale write is a 409 that overwrites nothing', async () => {
    const { id } = await freshShot()
    const a = { ...demoShot(), name: 'first' }
    const b = { ...demoShot(), name: 'second' }
    expect(await saveShot(s.db, id, 1, a)).toMatchObject({ revision: 2 })
    const f = await failure(saveShot(s.db, id, 1, b))
    expect([f.status, f.details.revision]).toEqual([409, 2])
    expect(await readShot(s.db, id)).toMatchObject({ revision: 2, doc: { name: 'first' } })
  })
  it('of twenty writes of one revision at once exactly one comes through', async () => {
    const { id } = await freshShot()
    const results = await Promise.allSettled(
      Array.from({ length: 20 }, (_, i) => saveShot(s.db, id, 1, { ...demoShot(), name: `writer ${i}` })),
    )
    const won = results.flatMap((r, i) => (r.status === 'fulfilled' ? [i] : []))
    expect(won).toHaveLength(1)
    for (const r of results) if (r.status === 'rejected') expect(r.reason).toMatchObject({ status: 409, details: { revision: 2 } })
    expect(await readShot(s.db, id)).toMatchObject({ revision: 2, doc: { name: `writer ${won[0]}` } })
  })
  it('a refusal always names a revision that is newer than the one sent', async () => {
    const { id } = await freshShot()
    let conflicts = 0
    const writer = async (name: string) => {
      for (let revision = 1, n = 0; n < 25; n++) {
        try {
          revision = (await saveShot(s.db, id, revision, { ...demoShot(), name: `${name} ${n}` })).revision
        } catch (error) {
          const there = Number((error as Failure).details.revision)
          expect(there).toBeGreaterThan(revision)
          conflicts++
          revision = there
        }
      }
    }
    await Promise.all(['a', 'b', 'c'].map(writer))
    expect(conflicts).toBeGreaterThan(0)
  })
  it('the same write again, since its answer was lost, is answered again and counted once', async () => {
    const { id } = await freshShot()
    const doc = { ...demoShot(), name: 'twice' }
    expect((await saveShot(s.db, id, 1, doc)).revision).toBe(2)
    expect((await saveShot(s.db, id, 1, doc)).revision).toBe(2)
    expect((await readShot(s.db, id)).revision).toBe(2)
  })
  it('a wrong document changes nothing, and a shot that is gone is a 404', async () => {
    const { id } = await freshShot()
    expect((await failure(saveShot(s.db, id, 1, { ...demoShot(), camera: 'nobody' }))).status).toBe(422)
    expect((await readShot(s.db, id)).revision).toBe(1)
    expect((await failure(saveShot(s.db, 'gone', 1, demoShot()))).status).toBe(404)
  })
  it('keeps what was there before as a version, but not one for every save', async () => {
    const { id } = await freshShot('zero')
    for (let r = 1; r <= 5; r++) await saveShot(s.db, id, r, { ...demoShot(), name: `save ${r}` })
    const [only, ...more] = await listVersions(s.db, id)
    expect(more).toEqual([])
    expect((await readVersion(s.db, id, only.id)).doc.name).toBe('zero')
    await nameVersion(s.db, id, 'good spread')
    const named = (await listVersions(s.db, id)).find((v) => v.name === 'good spread')
    expect((await readVersion(s.db, id, named?.id ?? '')).doc.name).toBe('save 5')
    expect((await failure(readVersion(s.db, 'other', only.id))).status).toBe(404)
  })
  it('automatic versions thin out with age; named ones stay', async () => {
    const { id } = await freshShot()
    const hour = 3600_000
    const doc = JSON.stringify(demoShot())
    const at = (ms: number, name: string | null = null) =>
      s.db.Version.create({ id: `${name ?? 'auto'}-${ms}`, shotId: id, revision: 1, name, doc, createdAt: new Date(Date.now() - ms) })
    for (let m = 5; m < 50; m += 5) await at(m * 60_000 + hour * 0)
    for (let m = 0; m < 12; m++) await at(5.1 * hour + m * 60_000)
    for (let h = 0; h < 10; h++) await at(60 * hour + h * 600_000)
    await at(61 * hour, 'keep me')
    await saveShot(s.db, id, 1, demoShot())
    const left = await listVersions(s.db, id)
    const old = (from: number, to: number) =>
      left.filter((v) => v.name === null && Date.now() - Date.parse(v.at) >= from && Date.now() - Date.parse(v.at) < to).length
    expect(old(0, hour)).toBe(10)
    expect(old(hour, 24 * hour)).toBeLessThanOrEqual(2)
    expect(old(24 * hour, 1e12)).toBeLessThanOrEqual(2)
    expect(left.some((v) => v.name === 'keep me')).toBe(true)
  })
})
describe('pictures and files of a shot', () => {
  it('only JPEG of a small size is taken', async () => {
    const { id } = await freshShot()
    expect(readPicture(s.data, id)).toBeNull()
    await savePicture(s.db, s.data, id, new Uint8Array([0xff, 0xd8, 1, 2]))
    expect([...(readPicture(s.data, id) ?? [])]).toEqual([0xff, 0xd8, 1, 2])
    expect((await failure(savePicture(s.db, s.data, id, new Uint8Array([1, 2])))).status).toBe(422)
    expect((await failure(savePicture(s.db, s.data, id, new Uint8Array(600_000).fill(0xff)))).status).toBe(422)
    expect((await failure(savePicture(s.db, s.data, 'nobody', new Uint8Array([0xff, 0xd8])))).status).toBe(404)
  })
  it('no id leads out of the data folder', () => {
    for (const id of ['../x', 'a/b', '', '..', 'a\0b', `${'a'.repeat(41)}`]) {
      expect(() => picturePath(s.data, id)).toThrow(Failure)
      expect(() => jobFolder(s.data, id)).toThrow(Failure)
    }
  })
  it('deleting a shot takes its picture, its renders and their files with it', async () => {
    const { id } = await freshShot()
    await savePicture(s.db, s.data, id, new Uint8Array([0xff, 0xd8]))
    const job = await createRender(s.db, s.data, id, { first: 0, last: 1, width: 64, height: 36, transparent: false, formats: ['png'] })
    mkdirSync(join(jobFolder(s.data, job.id), 'frames'), { recursive: true })
    writeFileSync(join(jobFolder(s.data, job.id), 'frames', '0000.png'), 'x')
    await deleteShot(s.db, s.data, id)
    expect(existsSync(picturePath(s.data, id))).toBe(false)
    expect(existsSync(jobFolder(s.data, job.id))).toBe(false)
    expect(await s.db.Job.count({ where: { shotId: id } })).toBe(0)
  })
})
