import { f32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const massByOp = defineOp({ name: 'massBy', code: 59, group: 'force', kernel: 'individual', words: { factor: f32() } })
/** Particles weigh `factor` times as much, for the forces behind it that move heavy particles less. A share of it is that part of the way there. */
export const encodeMassBy = (w: OpWriter, factor: number, seed = 0, share = FULL): void => void w.write(massByOp, { factor }, seed, share)
