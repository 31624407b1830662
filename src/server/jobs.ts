import { randomUUID } from 'node:crypto'
import { existsSync, readFileSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { Op } from 'sequelize'
import { z } from 'zod'
import type { Shot } from '../shot'
import type { Db, JobRow } from './db'
import { Failure, notFound } from './failure'

export const renderSettings = z
  .strictObject({
    first: z.int().min(0),
    last: z.int().min(0),
    width: z.int().min(16).max(8192),
    height: z.int().min(16).max(8192),
    transparent: z.boolean(),
    formats: z.array(z.enum(['png', 'webm', 'mp4'])).min(1),
  })
  .refine((s) => s.last >= s.first, { error: 'the last frame must not be before the first', path: ['last'] })
  .refine((s) => !s.formats.some((f) => f !== 'png') || (s.width % 2 === 0 && s.height % 2 === 0), {
    error: 'movies need an even width and height',
    path: ['width'],
  })
export type RenderSettings = z.infer<typeof renderSettings>

export interface JobView {
  id: string
  shotId: string
  name: string
  state: JobRow['state']
  settings: RenderSettings
  message: string | null
  done: number
  total: number
  /** Frames that have a picture, in order. */
  frames: number[]
  files: { name: string; bytes: number }[]
  folder: string
  /** Seconds left at the pace so far, or null. */
  leftS: number | null
  created: string
}
export const jobFolder = (data: string, id: string): string => {
  if (!/^[A-Za-z0-9-]{1,40}$/.test(id)) throw notFound('this render')
  return join(data, 'renders', id)
}
export const frameName = (frame: number): string => `${String(frame).padStart(4, '0')}.png`

async function view(db: Db, data: string, job: JobRow): Promise<JobView> {
  const settings = JSON.parse(job.settings) as RenderSettings
  const frames = await db.JobFrame.findAll({ where: { jobId: job.id }, attributes: ['frame', 'ms'], order: [['frame', 'ASC']] })
  const total = settings.last - settings.first + 1
  const files = (JSON.parse(job.files) as string[]).map((name) => {
    const path = join(jobFolder(data, job.id), name)
    return { name, bytes: existsSync(path) ? statSync(path).size : 0 }
  })
  const pace = frames.length ? frames.slice(-8).reduce((s, f) => s + Number(f.ms), 0) / Math.min(8, frames.length) : null
  return {
    id: job.id,
    shotId: job.shotId,
    name: job.name,
    state: job.state,
    settings,
    message: job.message,
    done: frames.length,
    total,
    frames: frames.map((f) => f.frame),
    files,
    folder: jobFolder(data, job.id),
    leftS:
      pace !== null && (job.state === 'running' || job.state === 'queued') ? Math.round(((total - frames.length) * pace) / 1000) : null,
    created: (job.createdAt ?? new Date()).toISOString(),
  }
}
export async function createRender(db: Db, data: string, shotId: string, settings: RenderSettings): Promise<JobView> {
  const row = await db.Shot.findByPk(shotId)
  if (!row) throw notFound('this shot')
  const doc = JSON.parse(row.doc) as Shot
  if (settings.first < doc.range.first) throw new Failure(422, `the shot begins at frame ${doc.range.first}`)
  if (settings.last > doc.range.last) throw new Failure(422, `the shot ends at frame ${doc.range.last}`)
  const job = await db.Job.create({
    id: randomUUID(),
    shotId,
    name: row.name,
    state: 'queued',
    doc: row.doc,
    settings: JSON.stringify(settings),
    message: null,
    worker: null,
    lease: 0,
    startedAt: null,
    files: '[]',
  })
  return view(db, data, job)
}
export async function listJobs(db: Db, data: string, shotId?: string): Promise<JobView[]> {
  const jobs = await db.Job.findAll({ where: shotId ? { shotId } : {}, order: [['createdAt', 'DESC']], limit: 50 })
  return Promise.all(jobs.map((j) => view(db, data, j)))
}
export async function stopJob(db: Db, id: string): Promise<void> {
  const [queued] = await db.Job.update({ state: 'stopped' }, { where: { id, state: 'queued' } })
  if (queued) return
  const [running] = await db.Job.update({ state: 'stopping' }, { where: { id, state: 'running' } })
  if (!running && !(await db.Job.findByPk(id))) throw notFound('this render')
}
/** A stopped or failed job goes on where it was. */
export async function resumeJob(db: Db, id: string): Promise<void> {
  const [n] = await db.Job.update({ state: 'queued', message: null }, { where: { id, state: { [Op.in]: ['stopped', 'failed'] } } })
  if (!n && !(await db.Job.findByPk(id))) throw notFound('this render')
}
export async function deleteJob(db: Db, data: string, id: string): Promise<void> {
  const job = await db.Job.findByPk(id)
  if (!job) throw notFound('this render')
  if (job.state === 'running' || job.state === 'stopping') throw new Failure(409, 'stop the render before you delete it')
  await job.destroy()
  rmSync(jobFolder(data, id), { recursive: true, force: true })
}
/** A file of a job: a frame by number, or one of its movies by name. */
export async function jobFile(db: Db, data: string, id: string, name: string): Promise<{ bytes: Uint8Array; type: string }> {
  const job = await db.Job.findByPk(id)
  if (!job) throw notFound('this render')
  const frame = /^(\d{1,7})\.png$/.exec(name)
  let relative: string
  if (frame) {
    const row = await db.JobFrame.findOne({ where: { jobId: id, frame: Number(frame[1]) } })
    if (!row) throw notFound('this frame')
    relative = row.file
  } else {
    if (!(JSON.parse(job.files) as string[]).includes(name)) throw notFound('this file')
    relative = name
  }
  const path = join(jobFolder(data, id), relative)
  if (!existsSync(path)) throw notFound('this file')
  return { bytes: readFileSync(path), type: name.endsWith('.png') ? 'image/png' : name.endsWith('.webm') ? 'video/webm' : 'video/mp4' }
}

/** How long a worker holds a job without a sign of life. */
export const LEASE_MS = 12000
/** Moves the oldest waiting or abandoned job to this worker, or returns null. One statement: two workers never get the same. */
export async function claimJob(db: Db, worker: string, now: number): Promise<JobRow | null> {
  // A worker died before it could stop as it was asked: the job is stopped now.
  await db.Job.update({ state: 'stopped' }, { where: { state: 'stopping', lease: { [Op.lt]: now } } })
  const [count] = await db.Job.update({ state: 'running', worker, lease: now + LEASE_MS, startedAt: now }, {
    where: { [Op.or]: [{ state: 'queued' }, { state: 'running', lease: { [Op.lt]: now } }] },
    order: [['createdAt', 'ASC']],
    limit: 1,
  } as never)
  return count ? db.Job.findOne({ where: { worker, state: 'running' }, order: [['startedAt', 'DESC']] }) : null
}
/** Holds the lease; answers whether to go on. */
export async function holdJob(db: Db, id: string, worker: string, now: number): Promise<'go on' | 'stop' | 'lost'> {
  await db.Job.update({ lease: now + LEASE_MS }, { where: { id, worker } })
  const job = await db.Job.findByPk(id, { attributes: ['state', 'worker'] })
  if (!job || job.worker !== worker) return 'lost'
  return job.state === 'stopping' ? 'stop' : job.state === 'running' ? 'go on' : 'lost'
}
