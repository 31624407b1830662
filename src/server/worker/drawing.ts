import { type ChildProcess, fork } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { removeFolder, sweepLeftovers } from '../../hosts/node/leftovers'
import { bareEnv } from '../reader'
import type { BakeOrder } from './bakeJob'
import type { DrawNews, DrawOrder } from './drawJob'

/** How a process that drew has ended, or what it drew. */
export type DrawEnd =
  | { how: 'done' }
  | { how: 'failed'; message: string; full: boolean }
  /** It took longer over one frame than it may. */
  | { how: 'late' }
  /** It was ended from here. */
  | { how: 'ended' }
  /** It ended by itself and said nothing: out of memory, or killed. */
  | { how: 'crashed'; code: number | null; signal: string | null }

export interface Drawing {
  over: Promise<DrawEnd>
  /** Kills it, with the browser that it draws in. */
  end(): void
}
type Program = 'drawjob' | 'bakejob'
/** Folders in which browsers draw are named by the data folder and the worker's process, so that what a kill left can be swept. */
const drawFolderPrefix = (tag: string): string => `fox-ember-draw-${tag}-`

/** Removes the folders of browsers that were killed with their worker, and leaves those of workers that are alive. */
export const sweepDrawFolders = (tag: string): Promise<void> => sweepLeftovers(drawFolderPrefix(tag), true)

/** A process with a temporary folder of its own, which goes with it. */
interface Started {
  child: ChildProcess
  tag: string
  /** It has exited, and its folder is removed. */
  gone: Promise<void>
}
function start(program: Program, tag: string): Started {
  const temporary = mkdtempSync(join(tmpdir(), `${drawFolderPrefix(tag)}${process.pid}-`))
  const child = fork(join(process.env.EMBER_ROOT ?? process.cwd(), `dist/${program}.mjs`), {
    env: bareEnv({ TMPDIR: temporary }),
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  })
  // Without a job nobody hears of it; a job hears it as well.
  child.on('error', () => {})
  const gone = new Promise<void>((done) =>
    child.once('exit', () => {
      if (waiting?.child === child) waiting = null
      // Its browser ends a moment after it, and writes until then.
      void removeFolder(temporary).finally(done)
    }),
  )
  return { child, tag, gone }
}
/** How long a renderer waits for the next job: rendering a part of a picture again and again does not start a browser each time. */
const KEEP_MS = 30_000
/** The renderer that waits. */
let waiting: (Started & { timer: ReturnType<typeof setTimeout> }) | null = null

/** A renderer that waits does not keep the worker's process alive. */
function hold(child: ChildProcess, held: boolean): void {
  for (const x of [child, child.channel]) held ? x?.ref() : x?.unref()
}
function keep(started: Started): void {
  const { child } = started
  if (child.killed || !child.connected) return
  hold(child, false)
  const timer = setTimeout(() => void endWaiting(), KEEP_MS)
  timer.unref()
  waiting = { ...started, timer }
}
/** The renderer that waits, where it is one of the same data folder. */
function takeWaiting(tag: string): Started | null {
  if (waiting?.tag !== tag || waiting.child.killed || !waiting.child.connected) return null
  const { timer, ...started } = waiting
  clearTimeout(timer)
  waiting = null
  hold(started.child, true)
  return started
}
/** Ends the renderer that waits for another job. */
export async function endWaiting(): Promise<void> {
  const ends = waiting
  waiting = null
  if (!ends) return
  clearTimeout(ends.timer)
  hold(ends.child, true)
  ends.child.kill('SIGKILL')
  await ends.gone
}

/**
 * Starts drawing, by the renderer of the job before where it waits for another. `frame` is told of each frame in order and waited for, `frameMs` is
 * the time that each may take.
 */
export function startDrawing(
  order: DrawOrder | BakeOrder,
  o: { tag: string; frameMs: number; frame: (news: DrawNews & { kind: 'frame' }) => Promise<void>; program?: Program },
): Drawing {
  const program = o.program ?? 'drawjob'
  const started = (program === 'drawjob' ? takeWaiting(o.tag) : null) ?? start(program, o.tag)
  const { child } = started
  let end: DrawEnd | null = null
  let entered = Promise.resolve()
  let timer: ReturnType<typeof setTimeout> | undefined
  const over = (how: DrawEnd) => {
    end ??= how
    child.kill('SIGKILL')
  }
  const allow = () => {
    clearTimeout(timer)
    timer = setTimeout(() => over({ how: 'late' }), o.frameMs)
  }
  allow()
  const ended = new Promise<DrawEnd>((resolve, reject) => {
    const leave = () => {
      clearTimeout(timer)
      child.off('message', hear).off('error', reject).off('exit', exit)
    }
    const exit = (code: number | null, signal: string | null) => {
      const heard = () => {
        leave()
        entered.then(() => resolve(end ?? { how: 'crashed', code, signal }), reject)
      }
      clearTimeout(timer)
      // What it said last may still be on its way when it has ended.
      if (child.connected) child.once('disconnect', heard)
      else heard()
    }
    const hear = (news: DrawNews) => {
      if (news.kind === 'frame') {
        allow()
        entered = entered.then(() => o.frame(news))
        entered.catch(() => over({ how: 'ended' }))
      } else if (news.kind === 'failed') end ??= { how: 'failed', message: news.message, full: news.full }
      else {
        end ??= { how: 'done' }
        if (!news.waits) return
        leave()
        entered.then(() => {
          if (end?.how === 'done') keep(started)
          resolve(end as DrawEnd)
        }, reject)
      }
    }
    child.on('message', hear).once('error', reject).once('exit', exit)
  })
  // A child that is killed before it hears its order ends, and its exit says how. Without this the broken pipe would be an error of the job.
  child.send(order, () => {})
  return { end: () => over({ how: 'ended' }), over: ended }
}
