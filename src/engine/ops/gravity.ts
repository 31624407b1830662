import { f32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const gravityOp = defineOp({
  name: 'gravity',
  code: 1,
  group: 'force',
  kernel: 'forces',
  uniform: true,
  flows: true,
  words: { a: f32(3) },
})
/** An even acceleration, m/s². */
export function encodeGravity(w: OpWriter, a: readonly [number, number, number], seed = 0, share = FULL): void {
  w.write(gravityOp, { a }, seed, share)
  for (let k = 0; k < 3; k++) w.weight[k] += a[k] * share.value
}
