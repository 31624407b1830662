import { createHash } from 'node:crypto'
import { existsSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { type Db, databaseFailure, type JobRow } from '../db'
import { holdJob, jobFolder, MAX_ATTEMPTS } from '../jobs'
import { type Drawing, startDrawing } from './drawing'
import { sweepParts, type Task, taskOf } from './task'

const HOLD_EVERY_MS = 1000
/** Held for the data folder by all workers on it. */
export const tagOf = (data: string): string => createHash('sha256').update(data).digest('hex').slice(0, 8)

/** Frames whose file is on the disk as long as it was when it was entered; the others' entries are taken out. */
async function framesThere(db: Db, job: JobRow, folder: string, task: Task): Promise<Set<number>> {
  const there = new Set<number>()
  for (const f of await db.JobFrame.findAll({ where: { jobId: job.id } })) {
    const path = join(folder, f.file)
    if (task.isWhole(f.frame) && existsSync(path) && statSync(path).size === Number(f.bytes)) there.add(f.frame)
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
  let task: Task | null = null
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
    task = taskOf(db, data, job, ended.signal)
    const { frameMinutes, folders, program } = task
    sweepParts(folders)
    const there = await framesThere(db, job, folder, task)
    const missing = task.frames.filter((f) => !there.has(f))
    for (const f of there) task.added(f)
    let attempts = Number(job.attempts)
    while (missing.length && !why) {
      const order = await task.order(missing)
      if (why) break
      drawing = startDrawing(order, {
        ...{ tag: tagOf(data), frameMs: frameMinutes * 60000, program },
        frame: async ({ frame, file, bytes, ms }) => {
          await db.JobFrame.upsert({ jobId: job.id, frame, file, bytes, ms })
          task?.added(frame)
          missing.splice(missing.indexOf(frame), 1)
          if (attempts) await set({ attempts: 0 })
          attempts = 0
        },
      })
      const over = await drawing.over
      sweepParts(folders)
      drawing = null
      if (why || over.how === 'done') continue
      if (over.how === 'late')
        return void (await set({
          state: 'failed',
          message: `frame ${missing[0]} took more than ${frameMinutes} min and was given up. Allow more minutes a frame, or lower the run-up, the substeps or the size`,
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
            message: `${program === 'bakejob' ? 'what computes' : 'the renderer'} ended ${attempts} times at frame ${missing[0]} (${over.signal ?? `code ${over.code}`}); is there enough memory for this size?`,
          }))
      }
    }
    if (!why && task.finishing) await set({ message: task.finishing })
    const files = why ? [] : await task.finish()
    if (!why) await set({ state: 'done', message: task.said, files: JSON.stringify(files) })
  } catch (error) {
    // A database that is away fails no render: the job goes on when its lease has run out.
    if (databaseFailure(error)) throw error
    if (!why) await set({ state: 'failed', message: error instanceof Error ? error.message.split('\n')[0] : String(error) })
  } finally {
    task?.end()
    clearInterval(beat)
    leaving.removeEventListener('abort', leave)
    if (why === 'stop') await set({ state: 'stopped', message: null })
    // Leaving on purpose: the next worker need not wait for the lease, and it was no failed attempt.
    if (why === 'leave') await db.Job.update({ lease: 0, attempts: 0 }, { where: { id: job.id, worker, state: 'running' } })
    if (why === 'lost' && !(await db.Job.findByPk(job.id, { attributes: ['id'] }))) rmSync(folder, { recursive: true, force: true })
  }
}
