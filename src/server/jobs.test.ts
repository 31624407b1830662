import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { demoShot } from '../acts/testing/shots'
import {
  claimJob,
  createRender,
  deleteJob,
  frameName,
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
const settings = (o: Partial<RenderSettings> = {}): RenderSettings => ({
  first: 0,
  last: 3,
  width: 64,
  height: 36,
  transparent: false,
  formats: ['png'],
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
    [{ extra: 1 }, /Unrecognized key/],
  ])('refuses %j', (change, message) => {
    const r = renderSettings.safeParse({ ...settings(), ...change })
    expect(r.success).toBe(false)
    expect(r.error?.issues.map((i) => i.message).join()).toMatch(message)
  })
  it('refuses frames that the shot does not have, and a shot that is not there', async () => {
    await expect(make({ last: 73 })).rejects.toMatchObject({ status: 422, message: 'the shot ends at frame 72' })
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
    const first = await claimJob(s.db, 'w0', Date.now())
    expect(first?.id).toBe(ids[0])
    const rest = await Promise.all(['w1', 'w2', 'w3', 'w4'].map((w) => claimJob(s.db, w, Date.now())))
    expect(
      rest
        .filter((j) => j)
        .map((j) => j?.id)
        .sort(),
    ).toEqual(ids.slice(1).sort())
    expect(await claimJob(s.db, 'w5', Date.now())).toBeNull()
  })
  it('a job whose worker shows no sign of life goes to another; the first one learns that it lost it', async () => {
    const { id } = await make()
    const t = Date.now()
    await claimJob(s.db, 'a', t)
    expect(await claimJob(s.db, 'b', t + LEASE_MS - 1)).toBeNull()
    expect(await holdJob(s.db, id, 'a', t + 5000)).toBe('go on')
    expect(await claimJob(s.db, 'b', t + LEASE_MS + 1)).toBeNull()
    expect((await claimJob(s.db, 'b', t + 5000 + LEASE_MS + 1))?.id).toBe(id)
    expect(await holdJob(s.db, id, 'a', t + 20000)).toBe('lost')
    expect(await holdJob(s.db, id, 'b', t + 20000)).toBe('go on')
  })
  it('stops and goes on: waiting at once, running when the worker sees it', async () => {
    const { id } = await make()
    await stopJob(s.db, id)
    expect(await state(id)).toBe('stopped')
    expect(await claimJob(s.db, 'a', Date.now())).toBeNull()
    await resumeJob(s.db, id)
    expect((await claimJob(s.db, 'a', Date.now()))?.id).toBe(id)
    await stopJob(s.db, id)
    expect(await holdJob(s.db, id, 'a', Date.now())).toBe('stop')
    await resumeJob(s.db, id)
    expect(await state(id)).toBe('stopping')
    for (const f of [stopJob, resumeJob]) await expect(f(s.db, 'nobody')).rejects.toMatchObject({ status: 404 })
  })
  it('a job that was to stop stays stopped when its worker dies before', async () => {
    const { id } = await make()
    const t = Date.now()
    await claimJob(s.db, 'a', t)
    await stopJob(s.db, id)
    expect(await claimJob(s.db, 'b', t + LEASE_MS + 1)).toBeNull()
    expect(await state(id)).toBe('stopped')
  })
  it('is deleted with its files, but not while it runs', async () => {
    const { id } = await make()
    mkdirSync(jobFolder(s.data, id), { recursive: true })
    await claimJob(s.db, 'a', Date.now())
    await expect(deleteJob(s.db, s.data, id)).rejects.toMatchObject({ status: 409, message: 'stop the render before you delete it' })
    await s.db.Job.update({ state: 'done' }, { where: { id } })
    await deleteJob(s.db, s.data, id)
    await expect(deleteJob(s.db, s.data, id)).rejects.toMatchObject({ status: 404 })
  })
  it('tells how far it is and how long it will take at the pace of its last frames', async () => {
    const { id } = await make({ last: 9 })
    await claimJob(s.db, 'a', Date.now())
    for (let f = 0; f < 4; f++) await s.db.JobFrame.create({ jobId: id, frame: f, file: `frames/${frameName(f)}`, bytes: 10, ms: 2000 })
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
