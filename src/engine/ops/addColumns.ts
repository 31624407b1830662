import { u32 } from '../memory'
import { defineOp } from './define'
import type { Share } from './share'
import type { OpWriter, PassRequest } from './writer'

/** `stride`: bytes from one of its columns to the next. */
export const addColumnsOp = defineOp({
  name: 'addColumns',
  code: 17,
  group: 'force',
  kernel: 'targets',
  words: { columns: u32(), stride: u32() },
})
/** Adds the accelerations that a pass over neighbours leaves. */
export function encodePass(w: OpWriter, pass: Omit<PassRequest, 'at'>, seed: number, share: Share): void {
  const start = w.write(addColumnsOp, { columns: 0, stride: 0 }, seed, share)
  w.passes.push({ ...pass, at: w.wordOf(start, addColumnsOp, 'columns') })
}
