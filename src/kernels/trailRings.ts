// The rings in which trails keep their points.
import {
  TRAILS_DT,
  TRAILS_INHERIT,
  TRAILS_KEEP_M,
  TRAILS_KEEP_S,
  TRAILS_MORE,
  TRAILS_NEWEST,
  TRAILS_NORMALS,
  TRAILS_NOW,
  TRAILS_RECORDS,
  TRAILS_RING,
  TRAILS_RINGS,
  TRAILS_VELOCITIES,
  TRAIL_BYTES,
  TRAIL_FIRST,
  TRAIL_FIRST_M,
  TRAIL_HEAD,
  TRAIL_LAST,
  TRAIL_LINE_M,
  TRAIL_METRES,
  TRAIL_MORE_BYTES,
  TRAIL_REACH,
} from './layout'
import { normalBefore } from './trailNormals'
import {
  heads,
  keptOf,
  keptT,
  keptX,
  keptY,
  keptZ,
  putThree,
  slots,
  tangentX,
  tangentY,
  tangentZ,
  tipX,
  tipY,
  tipZ,
  velocityX,
  velocityY,
  velocityZ,
} from './trailRows'

// @ts-ignore: decorator
@inline export function dot(a: v128, b: v128): f32 {
  const m = f32x4.mul(a, b)
  return f32x4.extract_lane(m, 0) + f32x4.extract_lane(m, 1) + f32x4.extract_lane(m, 2)
}
/** The square of the length of a cross product. */
// @ts-ignore: decorator
@inline export function across(a: v128, b: v128): f32 {
  const c = f32x4.sub(
    f32x4.mul(v128.shuffle<f32>(a, a, 1, 2, 0, 3), v128.shuffle<f32>(b, b, 2, 0, 1, 3)),
    f32x4.mul(v128.shuffle<f32>(a, a, 2, 0, 1, 3), v128.shuffle<f32>(b, b, 1, 2, 0, 3)),
  )
  return dot(c, c)
}
// @ts-ignore: decorator
@inline export function ringOf(t: usize, slot: u32): usize {
  return <usize>load<u32>(t + TRAILS_RINGS) + <usize>slot * ((<usize>load<i32>(t + TRAILS_RING)) << 4)
}
// @ts-ignore: decorator
@inline export function moreOf(t: usize, slot: u32): usize {
  return <usize>load<u32>(t + TRAILS_MORE) + <usize>slot * TRAIL_MORE_BYTES
}
// @ts-ignore: decorator
@inline export function recordOf(t: usize, slot: u32): usize {
  return <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES
}
// @ts-ignore: decorator
@inline export function apart(a: v128, b: v128): f32 {
  const d = f32x4.sub(a, b)
  return Mathf.sqrt(dot(d, d))
}
/** Most points that a ring holds which was added to; of this thread. */
let most: u32 = 0
export function beginMost(): void {
  most = 0
}
export function mostHeld(): u32 {
  return most
}
/** The points of a trail that are not in its ring yet; 0 where they are written at once. */
// @ts-ignore: decorator
@inline export function newestOf(t: usize, slot: u32): usize {
  return load<u32>(t + TRAILS_VELOCITIES) ? 0 : <usize>load<u32>(t + TRAILS_NEWEST) + ((<usize>slot) << 6)
}
/** A point by its number, of a trail that has `head` of them. */
// @ts-ignore: decorator
@inline function pointOf(ring: usize, mask: u32, newest: usize, head: u32, k: u32): v128 {
  return v128.load(newest && k >= (head & ~3) ? newest + ((<usize>(k & 3)) << 4) : ring + ((<usize>(k & mask)) << 4))
}
/**
 * Writes the points of the trail of row i that are not in its ring yet into it, and how many and how long it is into its record. They stay where
 * they are too, for the line to be written whole.
 */
export function settle(t: usize, slot: u32, i: usize): void {
  const r = recordOf(t, slot),
    newest = newestOf(t, slot),
    ring = ringOf(t, slot),
    mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    head = load<u32>(heads + i)
  let metres = load<f32>(r + TRAIL_LINE_M),
    last = v128.load(r + TRAIL_LAST)
  if (newest)
    for (let k = head & ~3; k < head; k++) {
      const p = v128.load(newest + ((<usize>(k & 3)) << 4))
      if (k) metres += apart(last, p)
      last = p
      v128.store(ring + ((<usize>(k & mask)) << 4), p)
    }
  store<u32>(r + TRAIL_HEAD, head)
  store<f32>(r + TRAIL_METRES, metres)
}
/** Gives up the first point of the ring of a trail that has `head` of them. */
function drop(r: usize, ring: usize, mask: u32, newest: usize, head: u32): void {
  const first = load<u32>(r + TRAIL_FIRST)
  const a = pointOf(ring, mask, newest, head, first),
    b = pointOf(ring, mask, newest, head, first + 1)
  store<f32>(r + TRAIL_FIRST_M, load<f32>(r + TRAIL_FIRST_M) + apart(a, b))
  store<u32>(r + TRAIL_FIRST, first + 1)
}
/** What is too old, or too far behind, is no longer drawn; one point beyond that stays, to cut the end exactly. */
function expire(t: usize, r: usize, ring: usize, mask: u32, newest: usize, head: u32): void {
  const reach = load<f32>(r + TRAIL_REACH),
    metres = load<f32>(r + TRAIL_LINE_M)
  const cut = load<f32>(t + TRAILS_NOW) - load<f32>(t + TRAILS_DT) - load<f32>(t + TRAILS_KEEP_S) * reach,
    keepM = load<f32>(t + TRAILS_KEEP_M) * reach
  let k = load<u32>(r + TRAIL_FIRST),
    firstM = load<f32>(r + TRAIL_FIRST_M),
    first = pointOf(ring, mask, newest, head, k)
  while (k + 1 < head) {
    const second = pointOf(ring, mask, newest, head, k + 1),
      step = apart(first, second)
    if (f32x4.extract_lane(second, 3) > cut && metres - firstM - step < keepM) break
    firstM += step
    first = second
    k++
  }
  store<u32>(r + TRAIL_FIRST, k)
  store<f32>(r + TRAIL_FIRST_M, firstM)
}
/** Writes a line that is full, of a trail with `head` points before its last one. Old ones are looked for at every second line alone. */
export function writeLine(t: usize, slot: u32, head: u32, newest: usize): void {
  const r = recordOf(t, slot),
    ring = ringOf(t, slot),
    mask = <u32>load<i32>(t + TRAILS_RING) - 1
  let metres = load<f32>(r + TRAIL_LINE_M),
    last = v128.load(r + TRAIL_LAST)
  for (let k: u32 = 0; k < 4; k++) {
    const p = v128.load(newest + ((<usize>k) << 4))
    if (head - 3 + k) metres += apart(last, p)
    last = p
  }
  store<f32>(r + TRAIL_LINE_M, metres)
  v128.store(r + TRAIL_LAST, last)
  if ((head & 7) == 7) expire(t, r, ring, mask, newest, head)
  // There is room for what comes before the next line is written.
  while (head + 4 - load<u32>(r + TRAIL_FIRST) > mask + 1) drop(r, ring, mask, newest, head)
  memory.copy(ring + ((<usize>(head & mask & ~3)) << 4), newest, 64)
  most = max(most, head + 4 - load<u32>(r + TRAIL_FIRST))
}
/** Writes a point that drifts, with its velocity. */
function writePoint(t: usize, slot: u32, head: u32, p: v128, tangent: v128, last: v128): void {
  const r = recordOf(t, slot),
    ring = ringOf(t, slot),
    mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    at = (<usize>(head & mask)) << 4
  if (head) store<f32>(r + TRAIL_LINE_M, load<f32>(r + TRAIL_LINE_M) + apart(last, p))
  if ((head & 7) == 7) expire(t, r, ring, mask, 0, head)
  if (head - load<u32>(r + TRAIL_FIRST) > mask) drop(r, ring, mask, 0, head)
  v128.store(ring + at, p)
  v128.store(
    <usize>load<u32>(t + TRAILS_VELOCITIES) + (ring - <usize>load<u32>(t + TRAILS_RINGS)) + at,
    f32x4.mul(tangent, f32x4.splat(load<f32>(t + TRAILS_INHERIT))),
  )
  store<u32>(r + TRAIL_HEAD, head + 1)
  most = max(most, head + 1 - load<u32>(r + TRAIL_FIRST))
}
/** Keeps a point of the trail of row i: x, y, z and when, with the tangent there. */
export function keep(t: usize, i: usize, p: v128, tangent: v128): void {
  const slot = load<u32>(slots + i),
    head = load<u32>(heads + i),
    newest = newestOf(t, slot)
  if (newest) {
    v128.store(newest + ((<usize>(head & 3)) << 4), p)
    if ((head & 3) == 3) writeLine(t, slot, head, newest)
  } else writePoint(t, slot, head, p, tangent, keptOf(i))
  const normals = <usize>load<u32>(t + TRAILS_NORMALS)
  if (normals)
    v128.store(
      normals + (ringOf(t, slot) - <usize>load<u32>(t + TRAILS_RINGS)) + ((<usize>(head & (<u32>load<i32>(t + TRAILS_RING) - 1))) << 4),
      normalBefore(load<f32>(t + TRAILS_NOW) - f32x4.extract_lane(p, 3)),
    )
  store<u32>(heads + i, head + 1)
  putThree(keptX, keptY, keptZ, i, p)
  store<f32>(keptT + i, f32x4.extract_lane(p, 3))
  putThree(tangentX, tangentY, tangentZ, i, tangent)
}
/** Brings what is far apart in the memory into the cache, all at once: one miss after another costs more than all of the rest. */
// @ts-ignore: decorator
@inline export function touch(t: usize, list: usize, count: usize): u32 {
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1
  let sum: u32 = 0
  for (let k: usize = 0; k < count; k += 4) {
    const i = <usize>load<u32>(list + k),
      slot = load<u32>(slots + i)
    sum += load<u32>(recordOf(t, slot)) + load<u32>(ringOf(t, slot) + ((<usize>((load<u32>(heads + i) - 1) & mask)) << 4))
  }
  for (let k: usize = 0; k < count; k += 4) {
    const slot = load<u32>(slots + <usize>load<u32>(list + k))
    sum += load<u32>(ringOf(t, slot) + ((<usize>(load<u32>(recordOf(t, slot) + TRAIL_FIRST) & mask)) << 4))
  }
  return sum
}
/**
 * Keeps where four particles were as the substep began, of those that `keeps` has: all but what is written into rings. Returns where the list of
 * rows ends whose lines are full.
 */
// @ts-ignore: decorator
@inline export function keepFour(t: usize, i: usize, keeps: v128, began: v128, list: usize): usize {
  const x = v128.load(tipX + i),
    y = v128.load(tipY + i),
    z = v128.load(tipZ + i),
    count = v128.load(heads + i)
  // By points in place of by axes.
  const xy = v128.shuffle<i32>(x, y, 0, 4, 1, 5),
    zt = v128.shuffle<i32>(z, began, 0, 4, 1, 5),
    xy2 = v128.shuffle<i32>(x, y, 2, 6, 3, 7),
    zt2 = v128.shuffle<i32>(z, began, 2, 6, 3, 7)
  const bits = i32x4.bitmask(keeps)
  if (bits & 1) list = putNewest(t, i, v128.shuffle<i64>(xy, zt, 0, 2), list)
  if (bits & 2) list = putNewest(t, i + 4, v128.shuffle<i64>(xy, zt, 1, 3), list)
  if (bits & 4) list = putNewest(t, i + 8, v128.shuffle<i64>(xy2, zt2, 0, 2), list)
  if (bits & 8) list = putNewest(t, i + 12, v128.shuffle<i64>(xy2, zt2, 1, 3), list)
  v128.store(heads + i, i32x4.sub(count, keeps))
  v128.store(keptX + i, v128.bitselect(x, v128.load(keptX + i), keeps))
  v128.store(keptY + i, v128.bitselect(y, v128.load(keptY + i), keeps))
  v128.store(keptZ + i, v128.bitselect(z, v128.load(keptZ + i), keeps))
  v128.store(keptT + i, v128.bitselect(began, v128.load(keptT + i), keeps))
  v128.store(tangentX + i, v128.bitselect(v128.load(velocityX + i), v128.load(tangentX + i), keeps))
  v128.store(tangentY + i, v128.bitselect(v128.load(velocityY + i), v128.load(tangentY + i), keeps))
  v128.store(tangentZ + i, v128.bitselect(v128.load(velocityZ + i), v128.load(tangentZ + i), keeps))
  return list
}
// @ts-ignore: decorator
@inline function putNewest(t: usize, i: usize, p: v128, list: usize): usize {
  const head = load<u32>(heads + i)
  v128.store(newestOf(t, load<u32>(slots + i)) + ((<usize>(head & 3)) << 4), p)
  if ((head & 3) != 3) return list
  store<u32>(list, <u32>i)
  return list + 4
}
