import { ALL_PHASES, i32, u32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

const MAX_PLANES = 16
/** The planes follow, x, y, z, d each. */
export const boundsOp = defineOp({
  name: 'bounds',
  code: 5,
  group: 'other',
  kernel: 'endings',
  tail: true,
  words: { count: i32(), phases: u32() },
})
/** Lives in some phases, a bit each, end outside any of some planes, at most 16: inside is where x·px + y·py + z·pz + d ≥ 0. */
export function encodeBounds(w: OpWriter, planes: readonly (readonly number[])[], phases = ALL_PHASES): void {
  const list = planes.slice(0, MAX_PLANES)
  w.write(boundsOp, { count: list.length, phases }, 0, FULL, list.flat())
}
