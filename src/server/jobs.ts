import { randomUUID } from 'node:crypto'
import { existsSync, readFileSync, rmSync, statSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { literal, Op, QueryTypes } from 'sequelize'
import * as z from 'zod'
import { checkShot } from '../acts'
import { zipStream } from '../formats/zip'
import { contactSheet } from '../hosts/node/movie'
import { PASS_NAMES } from '../protocol'
import type { Shot } from '../shot'
import type { Db, JobFrameRow, JobRow } from './db'
import { Failure, notFound } from './failure'
import { bareEnv, turn } from './reader'

export const MOVIES = ['webm', 'mp4', 'mov'] as const
export type Movie = (typeof MOVIES)[number]
/** Minutes a frame may take unless the artist says otherwise. */
const FRAME_MINUTES = 10

export const renderSettings = z
  .strictObject({
    first: z.int().min(0),
    last: z.int().min(0),
    width: z.int().min(16).max(8192),
    height: z.int().min(16).max(8192),
    transparent: z.boolean(),
    formats: z.array(z.enum(['png', 'png16', 'exr', 'webm', 'mp4', 'mov'])).min(1),
    /** Only every nth frame. */
    every: z.int().min(1).max(1000).default(1),
    /** Of EXR files: how light is stored, and what they hold beside the picture. */
    exrType: z.enum(['half', 'float']).default('half'),
    passes: z.array(z.enum(PASS_NAMES)).default([]),
    /** Only this part of the picture, pixels from its upper left corner. */
    region: z
      .strictObject({ left: z.int().min(0), top: z.int().min(0), width: z.int().min(1).max(8192), height: z.int().min(1).max(8192) })
      .nullable()
      .default(null),
    /** How long one frame may take, run-up of the first one included, before the render is given up. */
    frameMinutes: z.number().min(0.1).max(1440).default(FRAME_MINUTES),
  })
  .refine((s) => s.last >= s.first, { error: 'the last frame must not be before the first', path: ['last'] })
  .refine((s) => !s.region || (s.region.left + s.region.width <= s.width && s.region.top + s.region.height <= s.height), {
    error: 'the part must lie within the picture',
    path: ['region'],
  })
  .refine(
    (s) => !s.formats.some((f) => MOVIES.includes(f as Movie)) || [s.region ?? s].every((r) => r.width % 2 === 0 && r.height % 2 === 0),
    {
      error: 'movies need an even width and height',
      path: ['width'],
    },
  )
export type RenderSettings = z.infer<typeof renderSettings>
/** Frames of a render, in order. */
export const framesOf = (s: Pick<RenderSettings, 'first' | 'last' | 'every'>): number[] =>
  Array.from({ length: Math.floor((s.last - s.first) / s.every) + 1 }, (_, i) => s.first + i * s.every)
/** Kinds of file that a frame has; PNG always, by which it is looked at. */
export const frameKinds = (s: Pick<RenderSettings, 'formats'>): FrameKind[] => [
  'png',
  ...(['png16', 'exr'] as const).filter((k) => s.formats.includes(k)),
]
export type FrameKind = 'png' | 'png16' | 'exr'

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
  /** Mean bytes of its PNG files; null before the first. */
  frameBytes: number | null
  /** How many wait that will be drawn before it, of one that waits itself. */
  ahead: number | null
  folder: string
  /** Seconds left at the pace so far, or null. */
  leftS: number | null
  created: string
}
/** Seconds left at the pace of the last frames, of a job that waits or runs. */
export function secondsLeft(job: Pick<JobRow, 'state'>, frames: readonly Pick<JobFrameRow, 'ms'>[], total: number): number | null {
  if (!frames.length || (job.state !== 'running' && job.state !== 'queued')) return null
  const last = frames.slice(-8)
  const pace = last.reduce((s, f) => s + Number(f.ms), 0) / last.length
  return Math.round(((total - frames.length) * pace) / 1000)
}
/** Settings as they were stored, with what has been added since. */
export const settingsOf = (job: JobRow): RenderSettings => renderSettings.parse(JSON.parse(job.settings))
export const jobFolder = (data: string, id: string): string => {
  if (!/^[A-Za-z0-9-]{1,40}$/.test(id)) throw notFound('this render')
  return join(data, 'renders', id)
}
const FOLDERS = { png: ['frames', '.png'], png16: ['png16', '.png'], exr: ['exr', '.exr'] } as const
/** Where a frame's file of a kind lies in the folder of its job. */
export const frameFile = (frame: number, kind: FrameKind = 'png'): string =>
  `${FOLDERS[kind][0]}/${String(frame).padStart(4, '0')}${FOLDERS[kind][1]}`

/** A stored document, checked and of the present version. */
export function presentShot(doc: string): Shot {
  const r = checkShot(JSON.parse(doc))
  if (!r.ok) throw new Failure(422, `this shot cannot be drawn: ${r.problems[0].path}: ${r.problems[0].message}`, { problems: r.problems })
  return r.shot
}
const waitingBefore = (db: Db, job: JobRow): Promise<number> =>
  db.Job.count({
    where: {
      state: 'queued',
      [Op.or]: [{ rank: { [Op.lt]: job.rank } }, { rank: job.rank, createdAt: { [Op.lt]: job.createdAt } }],
    } as never,
  })
async function view(db: Db, data: string, job: JobRow): Promise<JobView> {
  const settings = settingsOf(job)
  const frames = await db.JobFrame.findAll({ where: { jobId: job.id }, attributes: ['frame', 'ms', 'bytes'], order: [['frame', 'ASC']] })
  const total = framesOf(settings).length
  const files = (JSON.parse(job.files) as string[]).map((name) => {
    const path = join(jobFolder(data, job.id), name)
    return { name, bytes: existsSync(path) ? statSync(path).size : 0 }
  })
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
    frameBytes: frames.length ? frames.reduce((sum, f) => sum + Number(f.bytes), 0) / frames.length : null,
    ahead: job.state === 'queued' ? await waitingBefore(db, job) : null,
    leftS: secondsLeft(job, frames, total),
    created: (job.createdAt ?? new Date()).toISOString(),
  }
}
/** The shot is checked and brought up to the present version first: what waits in the queue can be drawn. */
export async function createRender(db: Db, data: string, shotId: string, asked: z.input<typeof renderSettings>): Promise<JobView> {
  const settings = renderSettings.parse(asked)
  const row = await db.Shot.findByPk(shotId)
  if (!row) throw notFound('this shot')
  const doc = presentShot(row.doc)
  if (settings.first < doc.range.first) throw new Failure(422, `the shot begins at frame ${doc.range.first}: begin there or later`)
  if (settings.last > doc.range.last)
    throw new Failure(422, `the shot ends at frame ${doc.range.last}: end there or earlier, or make the shot longer`)
  const job = await db.Job.create({
    id: randomUUID(),
    shotId,
    name: row.name,
    kind: 'render',
    state: 'queued',
    doc: JSON.stringify(doc),
    settings: JSON.stringify(settings),
    message: null,
    worker: null,
    lease: 0,
    startedAt: null,
    attempts: 0,
    rank: 0,
    files: '[]',
  })
  return view(db, data, job)
}
export async function listJobs(db: Db, data: string, shotId?: string): Promise<JobView[]> {
  const jobs = await db.Job.findAll({ where: { kind: 'render', ...(shotId ? { shotId } : {}) }, order: [['createdAt', 'DESC']], limit: 50 })
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
  const [n] = await db.Job.update(
    { state: 'queued', message: null, attempts: 0 },
    { where: { id, state: { [Op.in]: ['stopped', 'failed'] } } },
  )
  if (!n && !(await db.Job.findByPk(id))) throw notFound('this render')
}
/** A waiting job is drawn before all others that wait. */
export async function hastenJob(db: Db, id: string): Promise<void> {
  const first = (await db.Job.min('rank', { where: { state: 'queued' } })) as number | null
  const [n] = await db.Job.update({ rank: Number(first ?? 0) - 1 }, { where: { id, state: 'queued' } })
  if (!n && !(await db.Job.findByPk(id))) throw notFound('this render')
}
/** A PNG file of the frames that are there, side by side with their numbers. */
export async function jobSheet(db: Db, data: string, id: string): Promise<{ name: string; bytes: Uint8Array }> {
  const job = await db.Job.findByPk(id)
  if (!job) throw notFound('this render')
  const frames = await db.JobFrame.findAll({ where: { jobId: id }, attributes: ['frame', 'file'], order: [['frame', 'ASC']] })
  const there = frames.filter((f) => existsSync(join(jobFolder(data, id), f.file)))
  if (!there.length) throw notFound('frames of this render')
  const to = join(jobFolder(data, id), 'contact-sheet.png')
  await turn(() =>
    contactSheet(
      there.map((f) => ({ file: join(jobFolder(data, id), f.file), label: `${f.frame}` })),
      to,
      { env: bareEnv() },
    ),
  )
  return { name: `${job.name} contact sheet.png`, bytes: await readFile(to) }
}
/** One that runs ends: its worker finds the row gone and takes away what it wrote since. */
export async function deleteJob(db: Db, data: string, id: string): Promise<void> {
  const job = await db.Job.findByPk(id)
  if (!job) throw notFound('this render')
  await job.destroy()
  rmSync(jobFolder(data, id), { recursive: true, force: true })
}
/** A file of a job: a frame by number, or one of its movies by name. */
export async function jobFile(db: Db, data: string, id: string, name: string): Promise<{ bytes: Uint8Array; type: string }> {
  const job = await db.Job.findByPk(id)
  if (!job) throw notFound('this render')
  const frame = /^(\d{1,7})\.(png|exr|16\.png)$/.exec(name)
  let relative: string
  let bytes: number | null = null
  if (frame) {
    const row = await db.JobFrame.findOne({ where: { jobId: id, frame: Number(frame[1]) } })
    if (!row) throw notFound('this frame')
    relative = frame[2] === 'png' ? row.file : frameFile(row.frame, frame[2] === 'exr' ? 'exr' : 'png16')
    bytes = frame[2] === 'png' ? Number(row.bytes) : null
  } else {
    if (!(JSON.parse(job.files) as string[]).includes(name)) throw notFound('this file')
    relative = name
  }
  const path = join(jobFolder(data, id), relative)
  if (!existsSync(path)) throw notFound('this file')
  if (bytes !== null && statSync(path).size !== bytes)
    throw new Failure(410, `${name} is damaged on the disk; go on with the render and it is drawn again`)
  return { bytes: readFileSync(path), type: TYPES[name.slice(name.lastIndexOf('.') + 1)] ?? 'application/octet-stream' }
}
const TYPES: Record<string, string> = { png: 'image/png', exr: 'image/x-exr', webm: 'video/webm', mp4: 'video/mp4', mov: 'video/quicktime' }
/** All frames of a job that are there, of one kind, as one ZIP file that is made while it is sent. */
export async function jobZip(
  db: Db,
  data: string,
  id: string,
  kind: FrameKind,
): Promise<{ name: string; stream: ReadableStream<Uint8Array> }> {
  const job = await db.Job.findByPk(id)
  if (!job) throw notFound('this render')
  const frames = await db.JobFrame.findAll({ where: { jobId: id }, attributes: ['frame'], order: [['frame', 'ASC']] })
  const files = frames.map((f) => frameFile(f.frame, kind)).filter((f) => existsSync(join(jobFolder(data, id), f)))
  if (!files.length) throw notFound(`frames of this render as ${kind}`)
  const stream = zipStream(files.map((f) => ({ name: f.slice(f.indexOf('/') + 1), read: () => readFile(join(jobFolder(data, id), f)) })))
  return { name: `${job.name} ${kind}.zip`, stream }
}

/** How long a worker holds a job without a sign of life. */
export const LEASE_MS = 12000
/** A renderer that ends this often on the same frame is not started again. */
export const MAX_ATTEMPTS = 3
/** By the database's clock, which all workers share. */
const NOW = 'ROUND(UNIX_TIMESTAMP(NOW(3)) * 1000)'
const until = () => literal(`${NOW} + ${LEASE_MS}`) as never
/** A lease that ran out; also one that reaches further ahead than any: the clock went back since. */
const abandoned = { [Op.or]: [{ [Op.lt]: literal(NOW) }, { [Op.gt]: until() }] }

/** Moves the first waiting or abandoned job, by rank and then by age, to this worker, or returns null. One statement: two workers never get the same. */
export async function claimJob(db: Db, worker: string): Promise<JobRow | null> {
  // A worker died before it could stop as it was asked: the job is stopped now.
  await db.Job.update({ state: 'stopped' }, { where: { state: 'stopping', lease: abandoned } })
  // In words of the database: the query builder leaves the order of an update out.
  const [, count] = (await db.sequelize.query(
    `UPDATE jobs SET state = 'running', worker = :worker, lease = ${NOW} + ${LEASE_MS}, started_at = ${NOW}
      WHERE state = 'queued' OR (state = 'running' AND (lease < ${NOW} OR lease > ${NOW} + ${LEASE_MS}))
      ORDER BY \`rank\`, created_at LIMIT 1`,
    { replacements: { worker }, type: QueryTypes.UPDATE },
  )) as [unknown, number]
  return count ? db.Job.findOne({ where: { worker, state: 'running' }, order: [['startedAt', 'DESC']] }) : null
}
/** Holds the lease; answers whether to go on. */
export async function holdJob(db: Db, id: string, worker: string): Promise<'go on' | 'stop' | 'lost'> {
  await db.Job.update({ lease: until() }, { where: { id, worker } })
  const job = await db.Job.findByPk(id, { attributes: ['state', 'worker'] })
  if (!job || job.worker !== worker) return 'lost'
  return job.state === 'stopping' ? 'stop' : job.state === 'running' ? 'go on' : 'lost'
}
