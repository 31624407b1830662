import { f32, i32 } from '../memory'
import { defineOp } from './define'
import { type Falloff, falloffIndex } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const segmentOp = defineOp({
  name: 'segment',
  code: 29,
  group: 'force',
  kernel: 'segment',
  words: {
    from: f32(3),
    /** From one end to the other. */
    span: f32(3),
    /** 1 / squared length; 0 where both ends are one point. */
    perLength: f32(),
    strength: f32(),
    perReach: f32(),
    falloff: i32(),
  },
})
/** Towards the nearest point of the segment from `from` to `to` (m) at `strength` m/s², or away from it; reach in m, or Infinity. */
export function encodeSegment(
  w: OpWriter,
  p: { from: readonly [number, number, number]; to: readonly [number, number, number]; strength: number; reach: number; falloff: Falloff },
  seed = 0,
  share = FULL,
): void {
  const span: [number, number, number] = [p.to[0] - p.from[0], p.to[1] - p.from[1], p.to[2] - p.from[2]]
  const squared = span[0] * span[0] + span[1] * span[1] + span[2] * span[2]
  const words = {
    from: p.from,
    span,
    perLength: squared > 1e-12 ? 1 / squared : 0,
    strength: p.strength,
    perReach: 1 / p.reach,
    falloff: falloffIndex(p.falloff),
  }
  w.write(segmentOp, words, seed, share)
}
