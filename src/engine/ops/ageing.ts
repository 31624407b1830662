import { f32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const ageingOp = defineOp({ name: 'ageing', code: 60, group: 'force', kernel: 'individual', words: { factor: f32() } })
/** Takes from the rest of a life `factor` times as much as goes by, 1 or more. A share of it is that part of the way there. */
export const encodeAgeing = (w: OpWriter, factor: number, seed = 0, share = FULL): void => void w.write(ageingOp, { factor }, seed, share)
