import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { apartBakes, bakeBuild, bakeSettingsOf, bestBake } from '../bakes'
import type { Db, JobRow } from '../db'
import { frameFile, frameKinds, framesOf, jobFolder, MOVIES, presentShot, settingsOf } from '../jobs'
import type { BakeOrder } from './bakeJob'
import type { DrawOrder } from './drawJob'
import { JobMovies } from './movie'

/** What a job makes, and how. */
export interface Task {
  /** In order. */
  frames: readonly number[]
  /** Folders of its frames. */
  folders: readonly string[]
  frameMinutes: number
  program: 'drawjob' | 'bakejob'
  /** Whether all files of a frame are there beside the one that is entered. */
  isWhole(frame: number): boolean
  order(missing: number[]): Promise<DrawOrder | BakeOrder>
  /** A frame is there. */
  added(frame: number): void
  /** What is to be known of how it was made; null: nothing. */
  said: string | null
  /** What is said while it is finished; null: nothing is left to do. */
  finishing: string | null
  /** Names of the files that it made of all frames. */
  finish(): Promise<string[]>
  end(): void
}
/** Makes its folders, and takes away what one that was killed had begun to write. */
export function sweepParts(folders: readonly string[]): void {
  for (const folder of folders) {
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    for (const name of readdirSync(folder)) if (name.endsWith('.part')) rmSync(join(folder, name), { force: true })
  }
}
const KINDS = ['png', 'png16', 'exr'] as const
export const taskOf = (db: Db, data: string, job: JobRow, signal: AbortSignal): Task =>
  job.kind === 'bake' ? bakeTask(data, job) : renderTask(db, data, job, signal)

function renderTask(db: Db, data: string, job: JobRow, signal: AbortSignal): Task {
  const folder = jobFolder(data, job.id)
  const settings = settingsOf(job)
  const shot = presentShot(job.doc)
  const kinds = frameKinds(settings)
  const movies = new JobMovies(folder, settings, shot.rate, signal)
  const task: Task = {
    said: null,
    frames: framesOf(settings),
    folders: KINDS.filter((k) => kinds.includes(k)).map((k) => dirname(join(folder, frameFile(0, k)))),
    frameMinutes: settings.frameMinutes,
    program: 'drawjob',
    isWhole: (frame) => kinds.filter((k) => k !== 'png').every((k) => existsSync(join(folder, frameFile(frame, k)))),
    async order(frames) {
      const range = [settings.first, settings.last] as const
      const all = settings.last - settings.first + 1
      const best = await bestBake(db, job.shotId, shot, range)
      const bake = best && { folder: jobFolder(data, best.id), until: best.until }
      const single = best?.frames === all ? [] : await apartBakes(db, job.shotId, shot, range)
      const when = (made: Date) => `${made.toISOString().slice(0, 16).replace('T', ' ')} UTC`
      const names = (ids: readonly string[]) =>
        [...shot.systems, ...shot.gases].flatMap((e) => (ids.includes(e.id) ? [e.name] : [])).join(', ')
      task.said =
        [
          ...(best ? [`${best.frames} of ${all} frames by the bake of ${when(best.made)}`] : []),
          ...single.map((x) => `${names(x.ids)} by the bake of ${when(x.made)}`),
        ].join('; ') || null
      return { shot, settings, data, folder, frames, bake, apart: single.map((x) => ({ folder: jobFolder(data, x.id), ids: x.ids })) }
    },
    added: (frame) => movies.add(frame),
    finishing: MOVIES.some((m) => settings.formats.includes(m)) ? 'making the movie' : null,
    finish: () => movies.finish(),
    end: () => movies.end(),
  }
  return task
}
function bakeTask(data: string, job: JobRow): Task {
  const folder = jobFolder(data, job.id)
  const { first, last, frameMinutes, build, elements } = bakeSettingsOf(job)
  if (build !== bakeBuild())
    throw new Error('it was begun by another version of Fox Ember, whose frames may differ: delete it and bake anew')
  const shot = presentShot(job.doc)
  return {
    frames: Array.from({ length: last - first + 1 }, (_, i) => first + i),
    folders: [join(folder, 'frames'), join(folder, 'states')],
    frameMinutes,
    program: 'bakejob',
    said: null,
    isWhole: () => true,
    order: async (frames) => ({ shot, data, folder, frames, build, elements }),
    added: () => {},
    finishing: null,
    finish: async () => [],
    end: () => {},
  }
}
