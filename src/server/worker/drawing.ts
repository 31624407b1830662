import { fork } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { removeFolder, sweepLeftovers } from '../../hosts/node/leftovers'
import { bareEnv } from '../reader'
import type { BakeOrder } from './bakeJob'
import type { DrawNews, DrawOrder } from './drawJob'

/** How a process that drew has ended. */
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
/** Folders in which browsers draw are named by the data folder and the worker's process, so that what a kill left can be swept. */
const drawFolderPrefix = (tag: string): string => `fox-ember-draw-${tag}-`

/** Removes the folders of browsers that were killed with their worker, and leaves those of workers that are alive. */
export const sweepDrawFolders = (tag: string): Promise<void> => sweepLeftovers(drawFolderPrefix(tag), true)

/** Starts drawing. `frame` is told of each frame in order and waited for, `frameMs` is the time that each may take. */
export function startDrawing(
  order: DrawOrder | BakeOrder,
  o: { tag: string; frameMs: number; frame: (news: DrawNews & { kind: 'frame' }) => Promise<void>; program?: 'drawjob' | 'bakejob' },
): Drawing {
  const temporary = mkdtempSync(join(tmpdir(), `${drawFolderPrefix(o.tag)}${process.pid}-`))
  const child = fork(join(process.env.EMBER_ROOT ?? process.cwd(), `dist/${o.program ?? 'drawjob'}.mjs`), {
    env: bareEnv({ TMPDIR: temporary }),
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  })
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
  child.on('message', (news: DrawNews) => {
    if (news.kind === 'frame') {
      allow()
      entered = entered.then(() => o.frame(news))
      entered.catch(() => over({ how: 'ended' }))
    } else end ??= news.kind === 'done' ? { how: 'done' } : { how: 'failed', message: news.message, full: news.full }
  })
  // A child that is killed before it hears its order ends, and its exit says how. Without this the broken pipe would be an error of the job.
  child.send(order, () => {})
  return {
    end: () => over({ how: 'ended' }),
    over: new Promise((resolve, reject) => {
      child.once('error', reject)
      child.once('exit', (code, signal) => {
        clearTimeout(timer)
        // Its browser ends a moment after it, and writes until then.
        void removeFolder(temporary)
        const heard = () => entered.then(() => resolve(end ?? { how: 'crashed', code, signal }), reject)
        // What it said last may still be on its way when it has ended.
        if (child.connected) child.once('disconnect', heard)
        else void heard()
      })
    }),
  }
}
