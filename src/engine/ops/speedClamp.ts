import { f32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const speedClampOp = defineOp({ name: 'speedClamp', code: 10, group: 'force', kernel: 'fields', words: { min: f32(), max: f32() } })
/** Keeps the speed between two bounds, m/s. */
export const encodeSpeedClamp = (w: OpWriter, min: number, max: number, seed = 0, share = FULL): void =>
  void w.write(speedClampOp, { min, max }, seed, share)
