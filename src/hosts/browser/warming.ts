import { warmFrames } from '../../acts'
import type { Run } from '../../engine'
import type { SimStatus } from '../../protocol'
import type { Shot } from '../../shot'

/** How far a warm start has come, in seconds; null: there is none, or it is done. */
export function warming(run: Run, shot: Shot): SimStatus['warm'] {
  if (run.world.frame >= shot.range.first || run.history.isReady(shot.range.first)) return null
  const frames = warmFrames(shot)
  const s = (n: number) => (n * shot.rate.den) / shot.rate.num
  return { done: s(frames - (shot.range.first - run.world.frame)), of: s(frames) }
}
