// Trails: the points that a particle leaves behind, where its path bends.
import { col } from './columns'
import {
  AGE,
  DEAD,
  ID,
  JOB_CHUNK,
  JOB_COLUMNS,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_STOP,
  LIFE,
  NO_TRAIL,
  PHASE,
  PHASE_START,
  PX,
  PY,
  PZ,
  SEED,
  SX,
  SY,
  SZ,
  TOUCHED,
  TOUCHED_AGE,
  TRAILS_DT,
  TRAILS_GAP_M,
  TRAILS_GAP_S,
  TRAILS_INHERIT,
  TRAILS_KEEP_M,
  TRAILS_KEEP_S,
  TRAILS_MORE,
  TRAILS_MOST,
  TRAILS_NORMALS,
  TRAILS_NOW,
  TRAILS_RECORDS,
  TRAILS_RING,
  TRAILS_RINGS,
  TRAILS_SLOTS,
  TRAILS_TOLERANCE,
  TRAILS_VELOCITIES,
  TRAIL_BYTES,
  TRAIL_FIRST,
  TRAIL_HEAD,
  TRAIL_HEAD_M,
  TRAIL_KEPT,
  TRAIL_MORE_AGE,
  TRAIL_MORE_BYTES,
  TRAIL_MORE_FIRST_M,
  TRAIL_MORE_GONE,
  TRAIL_MORE_ID,
  TRAIL_MORE_LIFE,
  TRAIL_MORE_NORMAL,
  TRAIL_MORE_PHASE,
  TRAIL_MORE_REACH,
  TRAIL_MORE_SEED,
  TRAIL_TANGENT,
  TRAIL_TIP,
  TRAIL_VELOCITY,
  TX,
  TY,
  TZ,
  VX,
  VY,
  VZ,
} from './layout'
import { normalBefore, normalOf, takeNormal } from './trailNormals'
import { vec } from './vector'

// @ts-ignore: decorator
@inline function dot(a: v128, b: v128): f32 {
  const m = f32x4.mul(a, b)
  return f32x4.extract_lane(m, 0) + f32x4.extract_lane(m, 1) + f32x4.extract_lane(m, 2)
}
/** The square of the length of a cross product. */
// @ts-ignore: decorator
@inline function across(a: v128, b: v128): f32 {
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
@inline export function apart(a: v128, b: v128): f32 {
  const d = f32x4.sub(a, b)
  return Mathf.sqrt(dot(d, d))
}
/** Three words of a record; the fourth, which counts something, would be a denormal number and slow. */
// @ts-ignore: decorator
@inline function three(at: usize): v128 {
  return f32x4.replace_lane(v128.load(at), 3, 0)
}
// @ts-ignore: decorator
@inline function putThree(at: usize, v: v128): void {
  v128.store64_lane(at, v, 0)
  store<f32>(at, f32x4.extract_lane(v, 2), 8)
}
/** Gives up the first point of a ring. */
function drop(r: usize, more: usize, ring: usize, mask: u32): void {
  const first = load<u32>(r + TRAIL_FIRST)
  const a = v128.load(ring + ((<usize>(first & mask)) << 4)),
    b = v128.load(ring + ((<usize>((first + 1) & mask)) << 4))
  store<f32>(more + TRAIL_MORE_FIRST_M, load<f32>(more + TRAIL_MORE_FIRST_M) + apart(a, b))
  store<u32>(r + TRAIL_FIRST, first + 1)
}
/** What is too old, or too far behind, is no longer drawn; one point beyond that stays, to cut the end exactly. */
function expire(t: usize, r: usize, more: usize, ring: usize, mask: u32): void {
  const reach = load<f32>(more + TRAIL_MORE_REACH),
    head = load<u32>(r + TRAIL_HEAD)
  const cut = load<f32>(t + TRAILS_NOW) - load<f32>(t + TRAILS_DT) - load<f32>(t + TRAILS_KEEP_S) * reach,
    keepM = load<f32>(t + TRAILS_KEEP_M) * reach
  while (load<u32>(r + TRAIL_FIRST) + 1 < head) {
    const first = v128.load(ring + ((<usize>(load<u32>(r + TRAIL_FIRST) & mask)) << 4)),
      second = v128.load(ring + ((<usize>((load<u32>(r + TRAIL_FIRST) + 1) & mask)) << 4))
    const behind = load<f32>(r + TRAIL_HEAD_M) - load<f32>(more + TRAIL_MORE_FIRST_M) - apart(first, second)
    if (f32x4.extract_lane(second, 3) > cut && behind < keepM) return
    drop(r, more, ring, mask)
  }
}
/**
 * Keeps a point: x, y, z and when, with the tangent there. Old ones are looked for at every eighth alone: their ring is seldom in the cache.
 */
function keep(t: usize, r: usize, slot: u32, p: v128, tangent: v128): void {
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot),
    head = load<u32>(r + TRAIL_HEAD)
  if (head) store<f32>(r + TRAIL_HEAD_M, load<f32>(r + TRAIL_HEAD_M) + apart(v128.load(r + TRAIL_KEPT), p))
  if ((head & 7) == 7) expire(t, r, moreOf(t, slot), ring, mask)
  if (head - load<u32>(r + TRAIL_FIRST) > mask) drop(r, moreOf(t, slot), ring, mask)
  v128.store(ring + ((<usize>(head & mask)) << 4), p)
  const velocities = <usize>load<u32>(t + TRAILS_VELOCITIES)
  if (velocities)
    v128.store(
      velocities + (ring - <usize>load<u32>(t + TRAILS_RINGS)) + ((<usize>(head & mask)) << 4),
      f32x4.mul(tangent, f32x4.splat(load<f32>(t + TRAILS_INHERIT))),
    )
  const normals = <usize>load<u32>(t + TRAILS_NORMALS)
  if (normals)
    v128.store(
      normals + (ring - <usize>load<u32>(t + TRAILS_RINGS)) + ((<usize>(head & mask)) << 4),
      normalBefore(load<f32>(t + TRAILS_NOW) - f32x4.extract_lane(p, 3)),
    )
  store<u32>(r + TRAIL_HEAD, head + 1)
  v128.store(r + TRAIL_KEPT, p)
  putThree(r + TRAIL_TANGENT, tangent)
}
/** Where a cubic with given ends and tangents (Hermite) is at s, 0 to 1. Exact for a parabola. */
// @ts-ignore: decorator
@inline function alongCubic(a: v128, u: v128, b: v128, v: v128, h: f32, s: f32): v128 {
  const s2 = s * s,
    s3 = s2 * s
  return f32x4.add(
    f32x4.add(f32x4.mul(a, f32x4.splat(2 * s3 - 3 * s2 + 1)), f32x4.mul(u, f32x4.splat((s3 - 2 * s2 + s) * h))),
    f32x4.add(f32x4.mul(b, f32x4.splat(3 * s2 - 2 * s3)), f32x4.mul(v, f32x4.splat((s3 - s2) * h))),
  )
}
// @ts-ignore: decorator
@inline function cubicVelocity(a: v128, u: v128, b: v128, v: v128, h: f32, s: f32): v128 {
  const s2 = s * s
  return f32x4.add(
    f32x4.mul(f32x4.sub(b, a), f32x4.splat((6 * s - 6 * s2) / h)),
    f32x4.add(f32x4.mul(u, f32x4.splat(3 * s2 - 4 * s + 1)), f32x4.mul(v, f32x4.splat(3 * s2 - 2 * s))),
  )
}
/** Begins the trail of a particle: where it was emitted, if that was in this substep, else where its phase began, or where it is. Returns when. */
function begin(t: usize, r: usize, slot: u32, columns: usize, i: usize, p: v128, v: v128, age: f32): f32 {
  const now = load<f32>(t + TRAILS_NOW),
    dt = load<f32>(t + TRAILS_DT) * <f32>1.001
  const inPhase = age - load<f32>(col(columns, PHASE_START, 0) + i)
  let from = f32x4.replace_lane(p, 3, now),
    tangent = v,
    when = now
  if (age > 0 && age <= dt) {
    when = now - age
    from = vec(load<f32>(col(columns, SX, 0) + i), load<f32>(col(columns, SY, 0) + i), load<f32>(col(columns, SZ, 0) + i), when)
    tangent = f32x4.sub(f32x4.mul(f32x4.sub(p, from), f32x4.splat(<f32>2 / age)), v)
  } else if (inPhase > 0 && inPhase <= dt) {
    when = now - inPhase
    from = f32x4.replace_lane(f32x4.sub(p, f32x4.mul(v, f32x4.splat(inPhase))), 3, when)
  }
  keep(t, r, slot, from, tangent)
  putThree(r + TRAIL_TIP, from)
  putThree(r + TRAIL_VELOCITY, tangent)
  return when
}
/** A contact within the substep is a corner; one that rests meets its ground in every substep, and that is none. Returns whether it was one. */
function corner(t: usize, r: usize, slot: u32, columns: usize, i: usize, v: v128, h: f32, ago: f32): bool {
  const now = load<f32>(t + TRAILS_NOW),
    tolerance = load<f32>(t + TRAILS_TOLERANCE)
  const c = vec(load<f32>(col(columns, TX, 0) + i), load<f32>(col(columns, TY, 0) + i), load<f32>(col(columns, TZ, 0) + i), now - ago)
  const from = three(r + TRAIL_TIP),
    before = h - ago
  const inward = f32x4.mul(f32x4.sub(f32x4.replace_lane(c, 3, 0), from), f32x4.splat(before > 0 ? <f32>1 / before : 0))
  const turn = f32x4.sub(v, inward)
  if (dot(turn, turn) * h * h <= tolerance * tolerance) return false
  const way = f32x4.sub(c, v128.load(r + TRAIL_KEPT))
  if (<f32>16 * tolerance * tolerance * dot(inward, inward) < across(way, inward))
    keep(t, r, slot, f32x4.replace_lane(from, 3, now - h), three(r + TRAIL_VELOCITY))
  keep(t, r, slot, c, v)
  return true
}
/** A substep that bends more than the tolerance in itself is divided along its cubic. */
function divide(t: usize, r: usize, slot: u32, p: v128, v: v128, h: f32, bulge: f32): void {
  const began = load<f32>(t + TRAILS_NOW) - h
  const from = three(r + TRAIL_TIP),
    u = three(r + TRAIL_VELOCITY)
  const pieces = min(<f32>10, Mathf.ceil(Mathf.sqrt(bulge / load<f32>(t + TRAILS_TOLERANCE))))
  if (load<f32>(r + TRAIL_KEPT, 12) < began) keep(t, r, slot, f32x4.replace_lane(from, 3, began), u)
  for (let k: f32 = 1; k < pieces; k++) {
    const s = k / pieces
    keep(t, r, slot, f32x4.replace_lane(alongCubic(from, u, p, v, h, s), 3, began + s * h), cubicVelocity(from, u, p, v, h, s))
  }
}
/** Who is gone takes along what is drawn of it. */
function leave(t: usize, slot: u32, columns: usize, i: usize): void {
  const r = moreOf(t, slot)
  // Its tip drifts like all points: it sets out with as much.
  if (load<u32>(t + TRAILS_VELOCITIES)) {
    const at = <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES + TRAIL_VELOCITY
    putThree(at, f32x4.mul(three(at), f32x4.splat(load<f32>(t + TRAILS_INHERIT))))
  }
  store<f32>(r + TRAIL_MORE_GONE, load<f32>(t + TRAILS_NOW))
  if (load<u32>(t + TRAILS_NORMALS)) putThree(r + TRAIL_MORE_NORMAL, normalOf(columns, i))
  store<u32>(r + TRAIL_MORE_ID, load<u32>(col(columns, ID, 0) + i))
  store<u32>(r + TRAIL_MORE_SEED, load<u32>(col(columns, SEED, 0) + i))
  store<u32>(r + TRAIL_MORE_PHASE, load<u32>(col(columns, PHASE, 0) + i))
  const age = load<f32>(col(columns, AGE, 0) + i),
    life = load<f32>(col(columns, LIFE, 0) + i)
  store<f32>(r + TRAIL_MORE_AGE, age)
  // What ended a life leaves it no length.
  store<f32>(r + TRAIL_MORE_LIFE, life > 0 ? life : age)
}
/** Brings what is far apart in the memory into the cache, all at once: one miss after another costs more than all of the rest (160 to 108 ns a trail). */
// @ts-ignore: decorator
@inline function touch(slots: usize, records: usize, from: usize, end: usize): u32 {
  let sum: u32 = 0
  for (let i = from; i < end; i += 4) {
    const slot = load<u32>(slots + i)
    if (slot != NO_TRAIL) sum += load<u32>(records + <usize>slot * TRAIL_BYTES)
  }
  return sum
}
/** The same for the places in the rings where points are to be kept. */
// @ts-ignore: decorator
@inline function touchRings(t: usize, slots: usize, records: usize, list: usize, count: usize): u32 {
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1
  let sum: u32 = 0
  for (let k: usize = 0; k < count; k += 4) {
    const slot = load<u32>(slots + <usize>load<u32>(list + k))
    const head = load<u32>(records + <usize>slot * TRAIL_BYTES + TRAIL_HEAD)
    sum += load<u32>(ringOf(t, slot) + ((<usize>(head & mask)) << 4))
  }
  return sum
}
/** Particles of a block. */
const BLOCK: usize = 128
/**
 * A substep of all trails. On a smooth path the bulge over the chord from the kept point A to P is at most a quarter of the distance of P from
 * the tangent at A, and of A from the tangent at P (of a parabola it is just that); when that passes the tolerance the place before P is kept.
 */
export function recordTrails(job: usize, list: usize): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    columns = <usize>load<u32>(job + JOB_COLUMNS),
    t = <usize>load<u32>(job + JOB_RECORD)
  let most: u32 = 0
  while (atomic.load<u32>(<usize>load<u32>(job + JOB_STOP)) == 0) {
    const from = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (from >= count) break
    const end = (<usize>min(from + chunk, count)) << 2
    for (let i = (<usize>from) << 2; i < end; i += BLOCK << 2) most = max(most, block(t, columns, i, min(i + (BLOCK << 2), end), list))
  }
  let known = atomic.load<u32>(t + TRAILS_MOST)
  while (known < most) {
    const seen = atomic.cmpxchg<u32>(t + TRAILS_MOST, known, most)
    if (seen == known) break
    known = seen
  }
}
/** Of a block; returns the most points that a ring of it holds. `list`: room for its numbers and a word more. */
function block(t: usize, columns: usize, from: usize, end: usize, list: usize): u32 {
  const slots = <usize>load<u32>(t + TRAILS_SLOTS),
    records = <usize>load<u32>(t + TRAILS_RECORDS)
  const px = col(columns, PX, 0),
    py = col(columns, PY, 0),
    pz = col(columns, PZ, 0),
    vx = col(columns, VX, 0),
    vy = col(columns, VY, 0),
    vz = col(columns, VZ, 0),
    ages = col(columns, AGE, 0),
    dead = col(columns, DEAD, 0),
    touched = col(columns, TOUCHED, 0),
    touchedAge = col(columns, TOUCHED_AGE, 0)
  const now = load<f32>(t + TRAILS_NOW),
    dt = load<f32>(t + TRAILS_DT),
    tolerance = load<f32>(t + TRAILS_TOLERANCE),
    limit = <f32>16 * tolerance * tolerance,
    gapS = load<f32>(t + TRAILS_GAP_S),
    gap2 = load<f32>(t + TRAILS_GAP_M) * load<f32>(t + TRAILS_GAP_M)
  store<u32>(list + (BLOCK << 2), touch(slots, records, from, end))
  let keeping: usize = 0,
    most: u32 = 0
  for (let i = from; i < end; i += 4) {
    const slot = load<u32>(slots + i)
    if (slot == NO_TRAIL) continue
    const r = records + <usize>slot * TRAIL_BYTES
    const p = vec(load<f32>(px + i), load<f32>(py + i), load<f32>(pz + i), 0),
      v = vec(load<f32>(vx + i), load<f32>(vy + i), load<f32>(vz + i), 0)
    // Whatever became non-finite leaves its trail as it was.
    if (v128.any_true(v128.not(f32x4.lt(f32x4.add(f32x4.abs(p), f32x4.abs(v)), f32x4.splat(1e15))))) continue
    takeNormal(t, columns, i)
    let h = dt
    const fresh = load<u32>(r + TRAIL_HEAD) == 0
    if (fresh) h = now - begin(t, r, slot, columns, i, p, v, load<f32>(ages + i))
    const ago = touched && load<u32>(touched + i) ? load<f32>(ages + i) - load<f32>(touchedAge + i) : <f32>1e30
    if (!(ago >= 0 && ago < h && corner(t, r, slot, columns, i, v, h, ago))) {
      const u = three(r + TRAIL_VELOCITY),
        bend = f32x4.sub(v, u),
        bend2 = dot(bend, bend)
      const kept = v128.load(r + TRAIL_KEPT),
        keptAt = f32x4.extract_lane(kept, 3)
      if (bend2 * h * h > <f32>64 * tolerance * tolerance) divide(t, r, slot, p, v, h, Mathf.sqrt(bend2) * h * <f32>0.125)
      else {
        const chord = f32x4.sub(p, kept),
          tangent = three(r + TRAIL_TANGENT)
        if (
          across(chord, tangent) > limit * dot(tangent, tangent) ||
          across(chord, v) > limit * dot(v, v) ||
          now - keptAt > gapS ||
          dot(chord, chord) > gap2
        )
          if (!fresh && keptAt < now - h) {
            // Where it was is kept; that is done for the whole block at once.
            store<u32>(list + keeping, <u32>i)
            keeping += 4
            continue
          }
      }
    }
    putThree(r + TRAIL_TIP, p)
    putThree(r + TRAIL_VELOCITY, v)
    most = max(most, load<u32>(r + TRAIL_HEAD) - load<u32>(r + TRAIL_FIRST))
  }
  store<u32>(list + (BLOCK << 2), touchRings(t, slots, records, list, keeping))
  for (let k: usize = 0; k < keeping; k += 4) {
    const i = <usize>load<u32>(list + k),
      slot = load<u32>(slots + i),
      r = records + <usize>slot * TRAIL_BYTES
    takeNormal(t, columns, i)
    // Only one that was there as the substep began comes here: it was so long ago.
    keep(t, r, slot, f32x4.replace_lane(three(r + TRAIL_TIP), 3, now - dt), three(r + TRAIL_VELOCITY))
    putThree(r + TRAIL_TIP, vec(load<f32>(px + i), load<f32>(py + i), load<f32>(pz + i), 0))
    putThree(r + TRAIL_VELOCITY, vec(load<f32>(vx + i), load<f32>(vy + i), load<f32>(vz + i), 0))
    most = max(most, load<u32>(r + TRAIL_HEAD) - load<u32>(r + TRAIL_FIRST))
  }
  for (let i = from; i < end; i += 4)
    if (load<u32>(dead + i) && load<u32>(slots + i) != NO_TRAIL) leave(t, load<u32>(slots + i), columns, i)
  return most
}
