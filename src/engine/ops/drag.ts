import { f32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

/** `rate`: 1 / halving time. */
export const dragOp = defineOp({
  name: 'drag',
  code: 2,
  group: 'force',
  kernel: 'forces',
  uniform: true,
  byMass: true,
  words: { rate: f32() },
})
/** After `halvingS` seconds half of the speed is left. */
export const encodeDrag = (w: OpWriter, halvingS: number, seed = 0, share = FULL): void =>
  void w.write(dragOp, { rate: 1 / halvingS }, seed, share)
