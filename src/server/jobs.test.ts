import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import {
  claimJob,
  createRender,
  deleteJob,
  frameFile,
  hastenJob,
  holdJob,
  jobFile,
  jobFolder,
  LEASE_MS,
  listJobs,
  type RenderSettings,
  renderSettings,
  resumeJob,
  stopJob,
} from './jobs'
import { createProject, createShot } from './shots'
import { openTestServer, type TestServer } from './testing/open'

let s: TestServer
let shot: string
beforeAll(async () => {
  s = await openTestServer()
  shot = (await createShot(s.db, (await createProject(s.db, 'Quay')).id, demoShot())).id
})
afterAll(() => s.close())
beforeEach(async () => {
  await s.db.Job.destroy({ where: {} })
})
const settings = (o: Partial<RenderSettings> = {}) => ({
  first: 0,
  last: 3,
  width: 64,
  height: 36,
  transparent: false,
  formats: ['png'] as RenderSettings['formats'],
  ...o,
})
const make = (o: Partial<RenderSettings> = {}) => createRender(s.db, s.data, shot, settings(o))
const state = async (id: string) => (await s.db.Job.findByPk(id))?.state

describe('asking for a render', () => {
  it.each([
    [{ last: -1 }, /Too small/],
    [{ first: 5, last: 3 }, /the last frame must not be before the first/],
    [{ width: 15 }, /Too small/],
    [{ width: 9000 }, /Too big/],
    [{ width: 65, formats: ['mp4'] }, /movies need an even width and height/],
    [{ formats: [] }, /Too small/],
    [{ formats: ['gif'] }, /Invalid option/],
    [{ region: { left: 40, top: 0, width: 32, height: 8 } }, /the part must lie within the picture/],
    [{ region: { left: 0, top: 0, width: 31, height: 8 }, formats: ['mov'] }, /movies need an even width and height/],
    [{ extra: 1 }, /Unrecognized key/],
  ])('refuses %j', (change, message) => {
    const r = renderSettings.safeParse({ ...settings(), ...change })
    expect(r.success).toBe(false)
    expect(r.error?.issues.map((i) => i.message).join()).toMatch(message)
  })
  it('refuses frames that the shot does not have, and a shot that is not there', async () => {
    await expect(make({ last: 73 })).rejects.toMatchObject({
      status: 422,
      message: 'the shot ends at frame 72: end there or earlier, or make the shot longer',
    })
    await expect(createRender(s.db, s.data, 'nobody', settings())).rejects.toMatchObject({ status: 404 })
  })
  it('keeps the shot as it is now: later changes do not reach it', async () => {
    const job = await make()
    const row = await s.db.Job.findByPk(job.id)
    expect(JSON.parse(row?.doc ?? '{}')).toEqual(demoShot())
    expect(job).toMatchObject({ state: 'queued', done: 0, total: 4, frames: [], leftS: null })
  })
})
describe('the queue', () => {
  it('gives each job to one worker only, the oldest first', async () => {
    const ids: string[] = []
    for (let i = 0; i < 3; i++) {
      ids.push((await make()).id)
      await s.db.Job.update({ createdAt: new Date(Date.now() + i * 1000) } as never, { where: { id: ids[i] }, silent: true } as never)
    }
    const first = await claimJob(s.db, 'w0')
    expect(first?.id).toBe(ids[0])
    const rest = await Promise.all(['w1', 'w2', 'w3', 'w4'].map((w) => claimJob(s.db, w)))
    expect(
      rest
        .filter((j) => j)
        .map((j) => j?.id)
        .sort(),
    ).toEqual(ids.slice(1).sort())
    expect(await claimJob(s.db, 'w5')).toBeNull()
  })
  it('draws first what is hastened, and says how many wait before each', async () => {
    const ids: string[] = []
    for (let i = 0; i < 3; i++) {
      ids.push((await make()).id)
      await s.db.Job.update({ createdAt: new Date(Date.now() + i * 1000) } as never, { where: { id: ids[i] }, silent: true } as never)
    }
    const ahead = async () => {
      const jobs = await listJobs(s.db, s.data, shot)
      return ids.map((id) => jobs.find((j) => j.id === id)?.ahead)
    }
    expect(await ahead()).toEqual([0, 1, 2])
    await hastenJob(s.db, ids[2])
    expect(await ahead()).toEqual([1, 2, 0])
    await hastenJob(s.db, ids[1])
    expect(await ahead()).toEqual([2, 0, 1])
    expect((await claimJob(s.db, 'w'))?.id).toBe(ids[1])
    expect(await ahead()).toEqual([1, null, 0])
    await expect(hastenJob(s.db, 'nobody')).rejects.toMatchObject({ status: 404 })
  })
  /** As if so many milliseconds had passed on the database's clock since the lease was taken. */
  const pass = (id: string, ms: number) => s.db.Job.increment({ lease: -ms }, { where: { id } })
  it('a job whose worker shows no sign of life goes to another; the first one learns that it lost it', async () => {
    const { id } = await make()
    await claimJob(s.db, 'a')
    await pass(id, LEASE_MS - 3000)
    expect(await claimJob(s.db, 'b')).toBeNull()
    expect(await holdJob(s.db, id, 'a')).toBe('go on')
    await pass(id, LEASE_MS - 3000)
    expect(await claimJob(s.db, 'b')).toBeNull()
    await pass(id, 3001)
    expect((await claimJob(s.db, 'b'))?.id).toBe(id)
    expect(await holdJob(s.db, id, 'a')).toBe('lost')
    expect(await holdJob(s.db, id, 'b')).toBe('go on')
  })
  it('a clock that went back leaves no job with a worker that is dead', async () => {
    const { id } = await make()
    await claimJob(s.db, 'a')
    await pass(id, -3600000)
    expect((await claimJob(s.db, 'b'))?.id).toBe(id)
    await stopJob(s.db, id)
    await pass(id, -3600000)
    expect(await claimJob(s.db, 'c')).toBeNull()
    expect(await state(id)).toBe('stopped')
  })
  it('stops and goes on: waiting at once, running when the worker sees it', async () => {
    const { id } = await make()
    await stopJob(s.db, id)
    expect(await state(id)).toBe('stopped')
    expect(await claimJob(s.db, 'a')).toBeNull()
    await resumeJob(s.db, id)
    expect((await claimJob(s.db, 'a'))?.id).toBe(id)
    await stopJob(s.db, id)
    expect(await holdJob(s.db, id, 'a')).toBe('stop')
    await resumeJob(s.db, id)
    expect(await state(id)).toBe('stopping')
    for (const f of [stopJob, resumeJob]) await expect(f(s.db, 'nobody')).rejects.toMatchObject({ status: 404 })
  })
  it('a job that was to stop stays stopped when its worker dies before', async () => {
    const { id } = await make()
    await claimJob(s.db, 'a')
    await stopJob(s.db, id)
    await pass(id, LEASE_MS + 1)
    expect(await claimJob(s.db, 'b')).toBeNull()
    expect(await state(id)).toBe('stopped')
  })
  it('is deleted with its files, also while it runs: its worker learns that it lost it', async () => {
    const { id } = await make()
    mkdirSync(jobFolder(s.data, id), { recursive: true })
    await claimJob(s.db, 'a')
    await deleteJob(s.db, s.data, id)
    expect(existsSync(jobFolder(s.data, id))).toBe(false)
    expect(await holdJob(s.db, id, 'a')).toBe('lost')
    await expect(deleteJob(s.db, s.data, id)).rejects.toMatchObject({ status: 404 })
  })
  it('a document of before is brought up to the present one, and one that is broken is refused', async () => {
    const old = JSON.parse(readFileSync('demo/anvil-strike/shot.json', 'utf8'))
    expect(old.version).toBeLessThan(demoShot().version)
    await s.db.Shot.update({ doc: JSON.stringify(old) }, { where: { id: shot } })
    const row = await s.db.Job.findByPk((await make()).id)
    expect(JSON.parse(row?.doc ?? '{}').version).toBe(demoShot().version)
    await s.db.Shot.update({ doc: JSON.stringify({ ...old, rate: { num: 0, den: 0 } }) }, { where: { id: shot } })
    await expect(make()).rejects.toMatchObject({ status: 422, message: expect.stringContaining('rate') })
    await s.db.Shot.update({ doc: JSON.stringify(demoShot()) }, { where: { id: shot } })
  })
  it('tells how far it is and how long it will take at the pace of its last frames', async () => {
    const { id } = await make({ last: 9 })
    await claimJob(s.db, 'a')
    for (let f = 0; f < 4; f++) await s.db.JobFrame.create({ jobId: id, frame: f, file: frameFile(f), bytes: 10, ms: 2000 })
    const [job] = await listJobs(s.db, s.data, shot)
    expect(job).toMatchObject({ id, done: 4, total: 10, frames: [0, 1, 2, 3], leftS: 12, state: 'running' })
  })
})
describe('files of a job', () => {
  it('are its frames and its movies, and nothing else', async () => {
    const { id } = await make()
    const folder = jobFolder(s.data, id)
    mkdirSync(join(folder, 'frames'), { recursive: true })
    writeFileSync(join(folder, 'frames', '0002.png'), 'picture')
    writeFileSync(join(folder, 'movie.mp4'), 'movie')
    writeFileSync(join(folder, 'secret.txt'), 'secret')
    writeFileSync(join(s.data, 'outside.png'), 'outside')
    await s.db.JobFrame.create({ jobId: id, frame: 2, file: 'frames/0002.png', bytes: 7, ms: 1 })
    await s.db.Job.update({ files: JSON.stringify(['movie.mp4']) }, { where: { id } })
    expect(Buffer.from((await jobFile(s.db, s.data, id, '0002.png')).bytes).toString()).toBe('picture')
    expect(await jobFile(s.db, s.data, id, 'movie.mp4')).toMatchObject({ type: 'video/mp4' })
    writeFileSync(join(folder, 'frames', '0002.png'), 'pict')
    await expect(jobFile(s.db, s.data, id, '0002.png')).rejects.toMatchObject({ status: 410 })
    for (const name of [
      '0003.png',
      'secret.txt',
      '../../outside.png',
      'frames/0002.png',
      '..',
      '',
      'movie.mp4/../secret.txt',
      '0002.png\0',
    ])
      await expect(jobFile(s.db, s.data, id, name), name).rejects.toMatchObject({ status: 404 })
  })
})
