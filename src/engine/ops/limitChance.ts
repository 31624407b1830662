import { f32, u32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

export const limitChanceOp = defineOp({
  name: 'limitChance',
  code: 14,
  group: 'limit',
  kernel: 'limits',
  words: { share: f32(), outside: u32() },
})
/** They act on a share of the particles, 0 to 1. */
export const encodeLimitChance = (w: OpWriter, share: number, outside: boolean, seed: number): void =>
  void w.write(limitChanceOp, { share, outside: outside ? 1 : 0 }, seed)
