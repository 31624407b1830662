import { f32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const squareDragOp = defineOp({ name: 'squareDrag', code: 11, group: 'force', kernel: 'fields', byMass: true, words: { c: f32() } })
/** dv/dt = −c·|v|·v, c in 1/m. */
export const encodeSquareDrag = (w: OpWriter, c: number, seed = 0, share = FULL): void => void w.write(squareDragOp, { c }, seed, share)
