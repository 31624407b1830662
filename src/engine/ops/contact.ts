import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

export const contactOp = defineOp({
  name: 'contact',
  code: 4,
  group: 'other',
  kernel: 'contact',
  words: { colliders: u32(), count: i32(), radius: f32(), vary: f32(), most: f32() },
})
/** Colliders at their records; the particles' own radius with its ±, m, and the largest factor in the column `girth`. */
export const encodeContact = (w: OpWriter, colliders: number, count: number, radius = 0, vary = 0, most = 1, seed = 0): void =>
  void w.write(contactOp, { colliders, count, radius, vary, most }, seed)
