import { f32, i32 } from '../memory'
import { defineOp } from './define'
import { type Falloff, falloffIndex } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

/** The points follow its operands, xyz each. */
export const pathOp = defineOp({
  name: 'path',
  code: 9,
  group: 'force',
  kernel: 'fields',
  tail: true,
  words: { count: i32(), speed: f32(), perReach: f32(), falloff: i32(), response: f32(), gather: f32() },
})
/** Along straight pieces through `points` (xyz each, at least two): speed m/s, reach m or Infinity, response and gathering in s. */
export function encodePath(
  w: OpWriter,
  p: { points: Float32Array; speed: number; reach: number; falloff: Falloff; responseS: number; gatherS: number },
  seed = 0,
  share = FULL,
): void {
  const words = {
    count: p.points.length / 3,
    speed: p.speed,
    perReach: 1 / p.reach,
    falloff: falloffIndex(p.falloff),
    response: p.responseS,
    gather: p.gatherS,
  }
  w.write(pathOp, words, seed, share, p.points)
}
