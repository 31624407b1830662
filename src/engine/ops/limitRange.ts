import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { perSoft } from './falloff'
import type { OpWriter } from './writer'

const OF = ['age', 'life', 'speed'] as const
export const limitRangeOp = defineOp({
  name: 'limitRange',
  code: 12,
  group: 'limit',
  kernel: 'limits',
  words: { of: i32(), from: f32(), to: f32(), perSoft: f32(), outside: u32() },
})
/** The forces up to the end of the limits act between two values of age (s), share of life or speed (m/s), with a soft edge inside. */
export function encodeLimitRange(
  w: OpWriter,
  p: { of: (typeof OF)[number]; from: number; to: number; soft: number; outside: boolean },
): void {
  w.write(limitRangeOp, { of: OF.indexOf(p.of), from: p.from, to: p.to, perSoft: perSoft(p.soft), outside: p.outside ? 1 : 0 })
}
