// Whom of a block a turn is for: by phases, and then those alone for whom its conditions hold.
import { SCRATCH_FROM, SCRATCH_MAY, SCRATCH_PHASES, SCRATCH_ROW } from './layout'

/** The place, in bytes of a column of the block, of the k-th particle that the turn at hand is for. */
// @ts-ignore: decorator
@inline export function nth(scratch: usize, k: i32): usize {
  return <usize>load<u32>(scratch + SCRATCH_MAY + ((<usize>k) << 2))
}
/** The list at hand. */
// @ts-ignore: decorator
@inline export function listAt(scratch: usize): usize {
  return scratch + SCRATCH_MAY
}
/** Words of four particles at once, by their places: where the list ends some of the block stand that nobody asks for. */
// @ts-ignore: decorator
@inline export function gatherFour(column: usize, a: usize, b: usize, c: usize, d: usize): v128 {
  let v = v128.load32_zero(column + a)
  v = v128.load32_lane(column + b, v, 1)
  v = v128.load32_lane(column + c, v, 2)
  return v128.load32_lane(column + d, v, 3)
}
// @ts-ignore: decorator
@inline export function scatterFour(column: usize, a: usize, b: usize, c: usize, d: usize, v: v128): void {
  v128.store32_lane(column + a, v, 0)
  v128.store32_lane(column + b, v, 1)
  v128.store32_lane(column + c, v, 2)
  v128.store32_lane(column + d, v, 3)
}
/** What the scratch of motion holds here: where the list of each phase ends. */
const ENDS: usize = SCRATCH_FROM
const PHASES: usize = 32
// @ts-ignore: decorator
@inline function bucketOf(phase: usize, scratch: usize): usize {
  return scratch + SCRATCH_PHASES + phase * SCRATCH_ROW
}
/** Sorts the block by phases as they are now, in one pass, for each has room for all: who turns later has had its turn. */
export function sortByPhase(phases: usize, n: i32, scratch: usize): void {
  const ends = scratch + ENDS
  for (let p: usize = 0; p < PHASES; p++) store<u32>(ends + (p << 2), <u32>bucketOf(p, scratch))
  for (let o: usize = 0, bytes = (<usize>n) << 2; o < bytes; o += 4) {
    const end = ends + ((<usize>load<u32>(phases + o)) << 2),
      to = <usize>load<u32>(end)
    store<u32>(to, <u32>o)
    store<u32>(end, <u32>to + 4)
  }
}
/** Lists those of the block who are in a phase; returns how many. */
export function listOf(phase: u32, scratch: usize): i32 {
  const bucket = bucketOf(phase, scratch),
    bytes = <usize>load<u32>(scratch + ENDS + ((<usize>phase) << 2)) - bucket,
    list = scratch + SCRATCH_MAY
  for (let o: usize = 0; o < bytes; o += 16) v128.store(list + o, v128.load(bucket + o))
  // To whole vectors.
  if (bytes) for (let o = bytes; o & 15; o += 4) store<u32>(list + o, load<u32>(list))
  return <i32>(bytes >> 2)
}
/** Where the list ends that a condition is narrowing; 0: none is. Of this thread. */
let leftTo: usize = 0
export function beginNarrowing(scratch: usize): void {
  leftTo = listAt(scratch)
}
/** How many a condition has left in the list, or −1. */
export function takeLeft(scratch: usize): i32 {
  const count = leftTo ? <i32>((leftTo - listAt(scratch)) >> 2) : -1
  leftTo = 0
  return count
}
/** Leaves of the four at a place in the list, which ends behind `end`, those alone for whom a condition holds. In the order of the list, from its beginning on. */
// @ts-ignore: decorator
@inline export function narrowFour(at: usize, end: usize, holds: v128): void {
  let bits = i32x4.bitmask(holds),
    to = leftTo
  if (at + 16 > end) bits &= (1 << (<i32>(end - at) >> 2)) - 1
  // While all hold the list stays as it is. Else without a branch: a wrong guess would wait for what the condition draws.
  if (bits == 15 && to == at) {
    leftTo = to + 16
    return
  }
  store<u32>(to, load<u32>(at))
  to += (<usize>(bits & 1)) << 2
  store<u32>(to, load<u32>(at, 4))
  to += (<usize>(bits & 2)) << 1
  store<u32>(to, load<u32>(at, 8))
  to += <usize>(bits & 4)
  store<u32>(to, load<u32>(at, 12))
  leftTo = to + (<usize>(bits & 8) >> 1)
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
