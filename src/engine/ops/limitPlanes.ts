import { i32, u32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

/** The planes follow, x, y, z, d each. */
export const limitPlanesOp = defineOp({
  name: 'limitPlanes',
  code: 52,
  group: 'limit',
  kernel: 'limits',
  tail: true,
  words: { count: i32(), outside: u32() },
})
/** They act inside all of some planes, where x·px + y·py + z·pz + d ≥ 0, or outside any of them. */
export function encodeLimitPlanes(w: OpWriter, planes: readonly (readonly number[])[], outside: boolean): void {
  w.write(limitPlanesOp, { count: planes.length, outside: outside ? 1 : 0 }, 0, FULL, planes.flat())
}
