import { f32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const radiusByOp = defineOp({ name: 'radiusBy', code: 61, group: 'force', kernel: 'individual', words: { factor: f32() } })
/** Multiplies the contact radius, by the column `girth`. A share of it, 0 to 1, is that part of the way there. */
export const encodeRadiusBy = (w: OpWriter, factor: number, seed = 0, share = FULL): void =>
  void w.write(radiusByOp, { factor }, seed, share)
