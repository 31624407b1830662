import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { existsSync, readdirSync, readFileSync, statSync, unlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { ConnectionRefusedError } from 'sequelize'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import type { JobRow } from '../db'
import { loadDemo } from '../demo'
import {
  claimJob,
  createRender,
  deleteJob,
  jobFolder,
  jobSheet,
  jobZip,
  listJobs,
  MAX_ATTEMPTS,
  type RenderSettings,
  resumeJob,
  stopJob,
} from '../jobs'
import { createShot, listProjects } from '../shots'
import { childrenOf } from '../testing/children'
import { openTestServer, type TestServer } from '../testing/open'
import { endWaiting } from './drawing'
import { workOn } from './work'

let s: TestServer
let shot: string
const workers = new Set<ChildProcess>()
beforeAll(async () => {
  s = await openTestServer()
  await loadDemo(s.db, s.data, 'demo')
  const [project] = await listProjects(s.db, s.data)
  const doc = demoShot()
  // What is seen is tested elsewhere: a renderer that draws little starts sooner.
  // Its frames take a while all the same, so that it can be stopped between them.
  doc.systems[0].birth[0].count = 400
  doc.substeps = 64
  for (const o of doc.objects) o.seen = false
  for (const l of doc.layers) l.finish = []
  shot = (await createShot(s.db, project.id, doc)).id
})
// A test that failed leaves no worker to the next, and none leaves it work.
afterEach(async ({ task }) => {
  if (task.result?.state === 'fail') await endAll('SIGKILL')
  await s.db.Job.destroy({ where: {} })
})
afterAll(async () => {
  await endAll('SIGTERM')
  await s.close()
})
const endAll = async (signal: 'SIGKILL' | 'SIGTERM') => {
  for (const w of workers) await end(w, signal)
}
/** The worker of the test before, with the renderer that waits there, or a new one. */
const someWorker = (): ChildProcess => [...workers][0] ?? startWorker()
function startWorker(): ChildProcess {
  const w = spawn(process.execPath, ['dist/worker.mjs'], {
    env: { ...process.env, DATABASE_URL: s.url, EMBER_DATA: s.data, EMBER_ROOT: process.cwd() },
    stdio: ['ignore', 'inherit', 'inherit'],
  })
  workers.add(w)
  return w
}
async function end(w: ChildProcess, signal: 'SIGKILL' | 'SIGTERM'): Promise<void> {
  const gone = new Promise((done) => w.once('exit', done))
  w.kill(signal)
  await gone
  workers.delete(w)
}
const job = async (id: string) => {
  const found = (await listJobs(s.db, s.data, shot)).find((j) => j.id === id)
  if (!found) throw new Error('the job is gone')
  return found
}
async function until(
  id: string,
  good: (j: Awaited<ReturnType<typeof job>>) => boolean,
  seconds = 150,
): Promise<Awaited<ReturnType<typeof job>>> {
  for (let i = 0; i < seconds * 10; i++) {
    const j = await job(id)
    if (good(j)) return j
    if (j.state === 'failed') throw new Error(`the render failed: ${j.message}`)
    await new Promise((r) => setTimeout(r, 100))
  }
  throw new Error(`still ${JSON.stringify(await job(id))}`)
}
const make = (o: Partial<RenderSettings>) =>
  createRender(s.db, s.data, shot, { first: 6, last: 17, width: 96, height: 54, transparent: false, formats: ['png'], ...o })
const probe = (file: string) =>
  JSON.parse(
    execFileSync(
      'ffprobe',
      [
        '-v',
        'error',
        '-count_frames',
        '-select_streams',
        'v:0',
        '-show_entries',
        'stream=codec_name,pix_fmt,width,height,nb_read_frames,r_frame_rate',
        '-of',
        'json',
        file,
      ],
      { encoding: 'utf8' },
    ),
  ).streams[0]

describe('the job worker', () => {
  it('killed in the middle, another goes on where it was; what was done stays as it was; then come the movies', async () => {
    const { id } = await make({ last: 17, formats: ['png', 'exr', 'webm', 'mp4', 'mov'], passes: ['depth'], transparent: true })
    const frames = join(jobFolder(s.data, id), 'frames')
    const first = startWorker()
    await until(id, (j) => j.done >= 3)
    await end(first, 'SIGKILL')
    const half = await job(id)
    expect(half.state).toBe('running')
    expect(half.done).toBeLessThan(12)
    // Every frame that the database knows is there and whole.
    const before = half.frames.map((f) => {
      const path = join(frames, `${String(f).padStart(4, '0')}.png`)
      expect([...readFileSync(path).subarray(0, 4)]).toEqual([137, 80, 78, 71])
      return [path, statSync(path).mtimeMs] as const
    })
    // Nobody waits for the lease in a test.
    await s.db.Job.update({ lease: 0 }, { where: { id } })
    startWorker()
    const done = await until(id, (j) => j.state === 'done')
    expect(done.frames).toEqual(Array.from({ length: 12 }, (_, i) => i + 6))
    for (const [path, mtime] of before) expect(statSync(path).mtimeMs).toBe(mtime)
    expect(readdirSync(frames).filter((n) => n.endsWith('.part'))).toEqual([])
    expect(done.files.map((f) => f.name)).toEqual(['movie.webm', 'movie.mp4', 'movie.mov'])
    for (const f of done.frames) {
      const exr = readFileSync(join(jobFolder(s.data, id), 'exr', `${String(f).padStart(4, '0')}.exr`))
      expect(exr.readUInt32LE(0)).toBe(0x01312f76)
    }
    const folder = jobFolder(s.data, id)
    expect(probe(join(folder, 'movie.webm'))).toMatchObject({
      codec_name: 'vp9',
      width: 96,
      height: 54,
      nb_read_frames: '12',
      r_frame_rate: '24/1',
    })
    expect(probe(join(folder, 'movie.mp4'))).toMatchObject({
      codec_name: 'h264',
      width: 96,
      height: 54,
      nb_read_frames: '12',
      r_frame_rate: '24/1',
    })
    expect(probe(join(folder, 'movie.mov'))).toMatchObject({ codec_name: 'prores', pix_fmt: 'yuva444p12le', nb_read_frames: '12' })
  })
  it('of every nth frame the movie is as slow as they are, and its frames are one ZIP', async () => {
    const { id, total } = await make({ every: 4, formats: ['png', 'png16', 'mp4', 'mov'] })
    expect(total).toBe(3)
    someWorker()
    const done = await until(id, (j) => j.state === 'done')
    expect(done.frames).toEqual([6, 10, 14])
    const folder = jobFolder(s.data, id)
    expect(probe(join(folder, 'movie.mp4'))).toMatchObject({ nb_read_frames: '3', r_frame_rate: '6/1' })
    expect(probe(join(folder, 'movie.mov'))).toMatchObject({ codec_name: 'prores', nb_read_frames: '3', r_frame_rate: '6/1' })
    for (const kind of ['png', 'png16'] as const) {
      const { stream } = await jobZip(s.db, s.data, id, kind)
      const files = unzipSync(new Uint8Array(await new Response(stream).arrayBuffer()))
      expect(Object.keys(files)).toEqual(['0006.png', '0010.png', '0014.png'])
      // Bits of a channel.
      for (const f of Object.values(files)) expect(f[24]).toBe(kind === 'png' ? 8 : 16)
    }
    const { name, bytes } = await jobSheet(s.db, s.data, id)
    expect(name).toMatch(/contact sheet\.png$/)
    const sheet = Buffer.from(bytes)
    // Two by two places of 320 pixels, six between them and ten around.
    expect([sheet.readUInt32BE(16), sheet.readUInt32BE(20)]).toEqual([2 * 320 + 6 + 20, 2 * 180 + 6 + 20])
    await expect(jobSheet(s.db, s.data, 'nobody')).rejects.toMatchObject({ status: 404 })
    await expect(jobZip(s.db, s.data, id, 'exr')).rejects.toThrow('frames of this render as exr')
  })
  it('a stopped render keeps its frames and goes on later; a frame whose file was lost is drawn again, the same', async () => {
    // The worker hears of a stop within a second: so many frames are never drawn until then.
    const { id } = await make({ last: 35 })
    someWorker()
    await until(id, (j) => j.done >= 2)
    await stopJob(s.db, id)
    const stopped = await until(id, (j) => j.state === 'stopped')
    const begun = join(jobFolder(s.data, id), 'frames', '.0099.png-0a1b2c3d.part')
    writeFileSync(begun, 'half')
    expect(stopped.done).toBeLessThan(30)
    const path = join(jobFolder(s.data, id), 'frames', '0006.png')
    const bytes = readFileSync(path)
    unlinkSync(path)
    await resumeJob(s.db, id)
    await until(id, (j) => j.state === 'done')
    expect(existsSync(path)).toBe(true)
    expect(existsSync(begun)).toBe(false)
    expect(readFileSync(path).equals(bytes)).toBe(true)
  })
  it('a mesh that is missing fails the render with its name, and the worker goes on with the next', async () => {
    const doc = demoShot()
    doc.objects[0].shape = { kind: 'mesh', asset: 'c'.repeat(64), unit: 1, up: 'y', poses: [], rate: 24, start: 0, speed: 1, after: 'hold' }
    doc.assets.push({ hash: 'c'.repeat(64), name: 'lost bell.glb' })
    const [project] = await listProjects(s.db, s.data)
    const broken = await createShot(s.db, project.id, doc)
    const { id: bad } = await createRender(s.db, s.data, broken.id, {
      first: 0,
      last: 0,
      width: 64,
      height: 36,
      transparent: false,
      formats: ['png'],
    })
    const { id: good } = await make({ last: 6 })
    someWorker()
    await until(good, (j) => j.state === 'done')
    const row = await s.db.Job.findByPk(bad)
    expect(row?.state).toBe('failed')
    expect(row?.message).toContain('asset lost bell.glb')
  })
  it('a frame that takes too long ends the render and says so; one that is heavy is stopped, deleted and left at once', async () => {
    const doc = demoShot()
    // 86,400 frames of run-up, 64 substeps each: nobody waits for that.
    doc.warm = 3600
    doc.substeps = 64
    const [project] = await listProjects(s.db, s.data)
    const heavy = (await createShot(s.db, project.id, doc)).id
    const ask = (o: Partial<RenderSettings>) =>
      createRender(s.db, s.data, heavy, { first: 0, last: 1, width: 64, height: 36, transparent: false, formats: ['png'], ...o })
    const late = await ask({ frameMinutes: 0.1 })
    const w = someWorker()
    const row = async (id: string) => s.db.Job.findByPk(id)
    const wait = async (good: () => Promise<boolean>, seconds: number) => {
      for (let i = 0; i < seconds * 20; i++) {
        if (await good()) return
        await new Promise((r) => setTimeout(r, 50))
      }
      throw new Error('it did not come')
    }
    await wait(async () => (await row(late.id))?.state === 'failed', 60)
    expect((await row(late.id))?.message).toMatch(/^frame 0 took more than 0.1 min and was given up. Allow more minutes/)
    const drawing = async (id: string) => {
      await wait(async () => (await row(id))?.state === 'running', 30)
      await new Promise((r) => setTimeout(r, 1200))
    }
    const stopped = await ask({})
    await drawing(stopped.id)
    await stopJob(s.db, stopped.id)
    await wait(async () => (await row(stopped.id))?.state === 'stopped', 30)
    const deleted = await ask({})
    await drawing(deleted.id)
    await deleteJob(s.db, s.data, deleted.id)
    await wait(async () => !existsSync(jobFolder(s.data, deleted.id)), 30)
    const left = await ask({})
    await drawing(left.id)
    const began = Date.now()
    await end(w, 'SIGTERM')
    expect(Date.now() - began).toBeLessThan(30000)
    expect(await row(left.id)).toMatchObject({ state: 'running', lease: 0 })
  })
  it('a renderer that is killed is started again on the same frame, and given up after three times without one', async () => {
    const { id } = await make({ last: 65 })
    const w = someWorker()
    const renderers = () => childrenOf(w.pid, 'drawjob.mjs')
    await until(id, (j) => j.done >= 1)
    const first = renderers()
    for (const pid of first) process.kill(Number(pid), 'SIGKILL')
    // What the first one still finished is written by the time another is there: the next frame is that one's, and tries are counted from it on.
    for (let i = 0; i < 600 && !renderers().some((pid) => !first.includes(pid)); i++) await new Promise((r) => setTimeout(r, 50))
    const before = (await job(id)).done
    await until(id, (j) => j.done > before)
    const killed = new Set<string>()
    for (let i = 0; i < 600 && (await s.db.Job.findByPk(id))?.state === 'running'; i++) {
      for (const pid of renderers()) {
        killed.add(pid)
        process.kill(Number(pid), 'SIGKILL')
      }
      await new Promise((r) => setTimeout(r, 50))
    }
    const failed = await s.db.Job.findByPk(id)
    expect([failed?.state, failed?.message, killed.size]).toEqual([
      'failed',
      expect.stringMatching(/^the renderer ended 3 times at frame \d+ \(SIGKILL\)/),
      MAX_ATTEMPTS,
    ])
  })
  it('a database that is away in the middle fails no render: it goes on when its lease has run out', async () => {
    await endAll('SIGTERM')
    const { id } = await make({ last: 8 })
    const claimed = await claimJob(s.db, 'here')
    let frames = 0
    s.db.JobFrame.addHook('beforeUpsert', 'away', () => {
      if (++frames === 2) throw new ConnectionRefusedError(new Error('connect ECONNREFUSED'))
    })
    process.env.EMBER_ROOT ??= process.cwd()
    await expect(workOn(s.db, s.data, claimed as JobRow, 'here', new AbortController().signal)).rejects.toThrow('ECONNREFUSED')
    s.db.JobFrame.removeHook('beforeUpsert', 'away')
    expect(await job(id)).toMatchObject({ state: 'running', done: 1 })
    await s.db.Job.update({ lease: 0 }, { where: { id } })
    startWorker()
    await until(id, (j) => j.state === 'done')
    // The renderer of the first try waits in this process.
    await endWaiting()
  })
})
