import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { type Db, databaseFailure, type JobRow } from '../db'
import { type FrameKind, frameFile, frameKinds, framesOf, holdJob, jobFolder, MAX_ATTEMPTS, MOVIES, presentShot, settingsOf } from '../jobs'
import { type Drawing, startDrawing } from './drawing'
import { JobMovies } from './movie'

const HOLD_EVERY_MS = 1000
const KINDS = ['png', 'png16', 'exr'] as const
/** Held for the data folder by all workers on it. */
export const tagOf = (data: string): string => createHash('sha256').update(data).digest('hex').slice(0, 8)

/** What a drawing that was killed had begun to write. */
function sweepParts(folder: string): void {
  for (const frames of KINDS.map((k) => dirname(join(folder, frameFile(0, k)))))
    for (const name of existsSync(frames) ? readdirSync(frames) : [])
      if (name.endsWith('.part')) rmSync(join(frames, name), { force: true })
}
/** Frames whose file is on the disk as long as it was when it was entered; the others' entries are taken out. */
async function framesThere(db: Db, job: JobRow, folder: string, kinds: readonly FrameKind[]): Promise<Set<number>> {
  const there = new Set<number>()
  for (const f of await db.JobFrame.findAll({ where: { jobId: job.id } })) {
    const path = join(folder, f.file)
    const others = kinds.filter((k) => k !== 'png').every((k) => existsSync(join(folder, frameFile(f.frame, k))))
    if (others && existsSync(path) && statSync(path).size === Number(f.bytes)) there.add(f.frame)
    else await f.destroy()
  }
  return there
}

/**
 * Works on one job until it is done, fails, is stopped or deleted, goes to another worker, or this one leaves. Every frame is on
 * the disk and in the database before it counts, so a job that was cut off at any moment goes on with its first missing frame.
 */
export async function workOn(db: Db, data: string, job: JobRow, worker: string, leaving: AbortSignal): Promise<void> {
  const folder = jobFolder(data, job.id)
  const ours = { where: { id: job.id, worker } }
  const set = (values: Parameters<typeof db.Job.update>[0]) => db.Job.update(values, ours)
  const ended = new AbortController()
  let drawing: Drawing | null = null
  let movies: JobMovies | null = null
  let why: 'stop' | 'lost' | 'leave' | null = null
  const end = (reason: 'stop' | 'lost' | 'leave') => {
    why ??= reason
    ended.abort()
    drawing?.end()
  }
  const leave = () => end('leave')
  leaving.addEventListener('abort', leave)
  // A database that is away for a moment loses nobody a job: the lease decides.
  const beat = setInterval(() => {
    holdJob(db, job.id, worker).then(
      (answer) => answer !== 'go on' && end(answer),
      () => {},
    )
  }, HOLD_EVERY_MS)
  try {
    if (leaving.aborted) end('leave')
    const s = settingsOf(job)
    const shot = presentShot(job.doc)
    for (const kind of frameKinds(s)) mkdirSync(dirname(join(folder, frameFile(0, kind))), { recursive: true, mode: 0o700 })
    sweepParts(folder)
    const there = await framesThere(db, job, folder, frameKinds(s))
    const missing = framesOf(s).filter((f) => !there.has(f))
    movies = new JobMovies(folder, s, shot.rate, ended.signal)
    for (const f of there) movies.add(f)
    let attempts = Number(job.attempts)
    while (missing.length && !why) {
      drawing = startDrawing(
        { shot, settings: s, data, folder, frames: missing },
        {
          tag: tagOf(data),
          frameMs: s.frameMinutes * 60000,
          frame: async ({ frame, file, bytes, ms }) => {
            await db.JobFrame.upsert({ jobId: job.id, frame, file, bytes, ms })
            movies?.add(frame)
            missing.splice(missing.indexOf(frame), 1)
            if (attempts) await set({ attempts: 0 })
            attempts = 0
          },
        },
      )
      const over = await drawing.over
      sweepParts(folder)
      drawing = null
      if (why || over.how === 'done') continue
      if (over.how === 'late')
        return void (await set({
          state: 'failed',
          message: `frame ${missing[0]} took more than ${s.frameMinutes} min and was given up. Allow more minutes a frame, or lower the run-up, the substeps or the size`,
        }))
      if (over.how === 'failed')
        return void (await set({
          state: 'failed',
          message: over.full ? `the disk is full at frame ${missing[0]}; free some space and go on` : over.message,
        }))
      if (over.how === 'crashed') {
        await set({ attempts: ++attempts })
        if (attempts >= MAX_ATTEMPTS)
          return void (await set({
            state: 'failed',
            message: `the renderer ended ${attempts} times at frame ${missing[0]} (${over.signal ?? `code ${over.code}`}); is there enough memory for this size?`,
          }))
      }
    }
    if (!why && MOVIES.some((m) => s.formats.includes(m))) await set({ message: 'making the movie' })
    const files = why ? [] : await movies.finish()
    if (!why) await set({ state: 'done', message: null, files: JSON.stringify(files) })
  } catch (error) {
    // A database that is away fails no render: the job goes on when its lease has run out.
    if (databaseFailure(error)) throw error
    if (!why) await set({ state: 'failed', message: error instanceof Error ? error.message.split('\n')[0] : String(error) })
  } finally {
    movies?.end()
    clearInterval(beat)
    leaving.removeEventListener('abort', leave)
    if (why === 'stop') await set({ state: 'stopped', message: null })
    // Leaving on purpose: the next worker need not wait for the lease, and it was no failed attempt.
    if (why === 'leave') await db.Job.update({ lease: 0, attempts: 0 }, { where: { id: job.id, worker, state: 'running' } })
    if (why === 'lost' && !(await db.Job.findByPk(job.id, { attributes: ['id'] }))) rmSync(folder, { recursive: true, force: true })
  }
}
