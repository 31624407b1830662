import { f32, u32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const spinOp = defineOp({
  name: 'spin',
  code: 24,
  group: 'force',
  kernel: 'turn',
  words: { speed: f32(), vary: f32(), ownAxis: u32(), axis: f32(3), rate: f32(), heads: u32(), response: f32(), flat: f32() },
})
/**
 * Spin: speed with its ± (radians a second) about an axis (unit) or one of each particle's own (null), halved in so many seconds (Infinity:
 * never); heading along the motion within a response (s), or not (null); and drag across the flat side, 1/s.
 */
export function encodeSpin(
  w: OpWriter,
  p: { speed: number; vary: number; axis: readonly [number, number, number] | null; halvingS: number; heads: number | null; flat: number },
  seed: number,
  share = FULL,
): void {
  const { speed, vary, flat } = p
  const about = { ownAxis: p.axis ? 0 : 1, axis: p.axis ?? [0, 1, 0] }
  w.write(
    spinOp,
    { speed, vary, ...about, rate: 1 / p.halvingS, heads: p.heads === null ? 0 : 1, response: p.heads ?? 0, flat },
    seed,
    share,
  )
}
