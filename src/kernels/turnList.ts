// Whom of a block a turn is for: by phases, and then those alone for whom its conditions hold.
import { SCRATCH_FROM, SCRATCH_MAY, SCRATCH_ROW } from './layout'

/** The place, in bytes of a column of the block, of the k-th particle that the turn at hand is for. */
// @ts-ignore: decorator
@inline export function nth(scratch: usize, k: i32): usize {
  return <usize>load<u32>(scratch + SCRATCH_MAY + ((<usize>k) << 2))
}
/** Words of four particles at once, from k on: where the list ends some of the block stand that nobody asks for. */
// @ts-ignore: decorator
@inline export function gatherFour(column: usize, scratch: usize, k: i32): v128 {
  let v = v128.load32_zero(column + nth(scratch, k))
  v = v128.load32_lane(column + nth(scratch, k + 1), v, 1)
  v = v128.load32_lane(column + nth(scratch, k + 2), v, 2)
  return v128.load32_lane(column + nth(scratch, k + 3), v, 3)
}
// @ts-ignore: decorator
@inline export function scatterFour(column: usize, scratch: usize, k: i32, v: v128): void {
  v128.store32_lane(column + nth(scratch, k), v, 0)
  v128.store32_lane(column + nth(scratch, k + 1), v, 1)
  v128.store32_lane(column + nth(scratch, k + 2), v, 2)
  v128.store32_lane(column + nth(scratch, k + 3), v, 3)
}
/** What the scratch of motion holds here: the block's particles by their phases, and behind them where each phase begins. */
const BY_PHASE: usize = SCRATCH_FROM
const BEGINS: usize = SCRATCH_FROM + SCRATCH_ROW
const PHASES: usize = 32
/** Sorts the block by phases as they are now: who turns later has had its turn. */
export function sortByPhase(phases: usize, n: i32, scratch: usize): void {
  // Counted one further on, and in the end each phase ends where the next one begins.
  const begins = scratch + BEGINS,
    bytes = (<usize>n) << 2
  for (let o: usize = 0; o < (PHASES + 4) << 2; o += 16) v128.store(begins + o, i32x4.splat(0))
  for (let o: usize = 0; o < bytes; o += 4) {
    const c = begins + 8 + ((<usize>load<u32>(phases + o)) << 2)
    store<u32>(c, load<u32>(c) + 4)
  }
  for (let k: usize = 8; k < (PHASES + 2) << 2; k += 4) store<u32>(begins + k, load<u32>(begins + k) + load<u32>(begins + k - 4))
  for (let o: usize = 0; o < bytes; o += 4) {
    const c = begins + 4 + ((<usize>load<u32>(phases + o)) << 2),
      to = load<u32>(c)
    store<u32>(scratch + BY_PHASE + <usize>to, <u32>o)
    store<u32>(c, to + 4)
  }
}
/** Lists those of the block who are in a phase; returns how many. */
export function listOf(phase: u32, scratch: usize): i32 {
  const begins = scratch + BEGINS + ((<usize>phase) << 2)
  const from = <usize>load<u32>(begins),
    bytes = <usize>load<u32>(begins, 4) - from,
    list = scratch + SCRATCH_MAY
  for (let o: usize = 0; o < bytes; o += 16) v128.store(list + o, v128.load(scratch + BY_PHASE + from + o))
  // To whole vectors.
  if (bytes) for (let o = bytes; o & 15; o += 4) store<u32>(list + o, load<u32>(list))
  return <i32>(bytes >> 2)
}
/** Leaves in the list those alone for whom a row holds; returns how many. What comes behind asks no others. */
export function narrow(row: usize, n: i32, scratch: usize): i32 {
  const list = scratch + SCRATCH_MAY
  let count: usize = 0
  for (let k = 0; k < n; k++) {
    const o = load<u32>(list + ((<usize>k) << 2))
    store<u32>(list + count, o)
    count += load<f32>(row + o) == Infinity ? 0 : 4
  }
  return <i32>(count >> 2)
}
