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
  TRAILS_MOST,
  TRAILS_NORMALS,
  TRAILS_NOW,
  TRAILS_PARTED,
  TRAILS_PHASES,
  TRAILS_TOLERANCE,
  TRAILS_VELOCITIES,
  TRAIL_FRESH,
  TRAIL_GONE,
  TRAIL_MORE_AGE,
  TRAIL_MORE_ID,
  TRAIL_MORE_LIFE,
  TRAIL_MORE_NORMAL,
  TRAIL_MORE_PHASE,
  TRAIL_MORE_SEED,
  TRAIL_MORE_TIP,
  TRAIL_MORE_VELOCITY,
  TX,
  TY,
  TZ,
  VX,
  VY,
  VZ,
} from './layout'
import { normalOf, takeNormal } from './trailNormals'
import { across, apart, beginMost, dot, keep, keepFour, moreOf, mostHeld, newestOf, recordOf, settle, touch, writeLine } from './trailRings'
import {
  across4,
  heads,
  keptOf,
  keptT,
  keptX,
  keptY,
  keptZ,
  openRows,
  putTip,
  slots,
  tangentX,
  tangentY,
  tangentZ,
  three,
  tipOf,
  tipX,
  tipY,
  tipZ,
  velocityOf,
  velocityX,
  velocityY,
  velocityZ,
} from './trailRows'
import { dot as dot4, vec } from './vector'

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
function begin(t: usize, columns: usize, i: usize, p: v128, v: v128, age: f32): f32 {
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
  keep(t, i, from, tangent)
  putTip(i, from, tangent)
  return when
}
/** A contact within the substep is a corner; one that rests meets its ground in every substep, and that is none. Returns whether it was one. */
function corner(t: usize, columns: usize, i: usize, v: v128, h: f32, ago: f32): bool {
  const now = load<f32>(t + TRAILS_NOW),
    tolerance = load<f32>(t + TRAILS_TOLERANCE)
  const c = vec(load<f32>(col(columns, TX, 0) + i), load<f32>(col(columns, TY, 0) + i), load<f32>(col(columns, TZ, 0) + i), now - ago)
  const from = tipOf(i),
    before = h - ago
  const inward = f32x4.mul(f32x4.sub(f32x4.replace_lane(c, 3, 0), from), f32x4.splat(before > 0 ? <f32>1 / before : 0))
  const turn = f32x4.sub(v, inward)
  if (dot(turn, turn) * h * h <= tolerance * tolerance) return false
  const way = f32x4.sub(c, keptOf(i))
  if (<f32>16 * tolerance * tolerance * dot(inward, inward) < across(way, inward))
    keep(t, i, f32x4.replace_lane(from, 3, now - h), velocityOf(i))
  keep(t, i, c, v)
  return true
}
/** A substep that bends more than the tolerance in itself is divided along its cubic. */
function divide(t: usize, i: usize, p: v128, v: v128, h: f32, bulge: f32): void {
  const began = load<f32>(t + TRAILS_NOW) - h
  const from = tipOf(i),
    u = velocityOf(i)
  const pieces = min(<f32>10, Mathf.ceil(Mathf.sqrt(bulge / load<f32>(t + TRAILS_TOLERANCE))))
  if (load<f32>(keptT + i) < began) keep(t, i, f32x4.replace_lane(from, 3, began), u)
  for (let k: f32 = 1; k < pieces; k++) {
    const s = k / pieces
    keep(t, i, f32x4.replace_lane(alongCubic(from, u, p, v, h, s), 3, began + s * h), cubicVelocity(from, u, p, v, h, s))
  }
}
/** Who is gone takes along what is drawn of it. */
function leave(t: usize, columns: usize, i: usize): void {
  const slot = load<u32>(slots + i),
    more = moreOf(t, slot)
  settle(t, slot, i)
  // Its tip drifts like all points: it sets out with as much.
  const share: f32 = load<u32>(t + TRAILS_VELOCITIES) ? load<f32>(t + TRAILS_INHERIT) : 1
  putWords(more + TRAIL_MORE_TIP, tipOf(i))
  putWords(more + TRAIL_MORE_VELOCITY, f32x4.mul(velocityOf(i), f32x4.splat(share)))
  store<f32>(recordOf(t, slot) + TRAIL_GONE, load<f32>(t + TRAILS_NOW))
  if (load<u32>(t + TRAILS_NORMALS)) putWords(more + TRAIL_MORE_NORMAL, normalOf(columns, i))
  store<u32>(more + TRAIL_MORE_ID, load<u32>(col(columns, ID, 0) + i))
  store<u32>(more + TRAIL_MORE_SEED, load<u32>(col(columns, SEED, 0) + i))
  store<u32>(more + TRAIL_MORE_PHASE, load<u32>(col(columns, PHASE, 0) + i))
  const age = load<f32>(col(columns, AGE, 0) + i),
    life = load<f32>(col(columns, LIFE, 0) + i)
  store<f32>(more + TRAIL_MORE_AGE, age)
  // What ended a life leaves it no length.
  store<f32>(more + TRAIL_MORE_LIFE, life > 0 ? life : age)
}
// @ts-ignore: decorator
@inline function putWords(at: usize, v: v128): void {
  v128.store64_lane(at, v, 0)
  store<f32>(at, f32x4.extract_lane(v, 2), 8)
}
/** Whether a particle and its trail part: it is dead, or in none of the phases that leave one. */
// @ts-ignore: decorator
@inline function parts(columns: usize, i: usize, phases: u32): bool {
  return load<u32>(col(columns, DEAD, 0) + i) != 0 || (phases != 0xffffffff && !((phases >>> load<u32>(col(columns, PHASE, 0) + i)) & 1))
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
  openRows(t)
  beginMost()
  while (atomic.load<u32>(<usize>load<u32>(job + JOB_STOP)) == 0) {
    const from = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (from >= count) break
    const end = (<usize>min(from + chunk, count)) << 2
    for (let i = (<usize>from) << 2; i < end; i += BLOCK << 2) block(t, columns, i, min(i + (BLOCK << 2), end), list)
  }
  const most = mostHeld()
  let known = atomic.load<u32>(t + TRAILS_MOST)
  while (known < most) {
    const seen = atomic.cmpxchg<u32>(t + TRAILS_MOST, known, most)
    if (seen == known) break
    known = seen
  }
}
/** Keeps where a particle was as the substep began. */
function keepOne(t: usize, columns: usize, i: usize): void {
  takeNormal(t, columns, i)
  keep(t, i, f32x4.replace_lane(tipOf(i), 3, load<f32>(t + TRAILS_NOW) - load<f32>(t + TRAILS_DT)), velocityOf(i))
}
/** Of one particle, whatever happened to it. */
function one(t: usize, columns: usize, i: usize): void {
  const now = load<f32>(t + TRAILS_NOW),
    tolerance = load<f32>(t + TRAILS_TOLERANCE),
    limit = <f32>16 * tolerance * tolerance
  const p = three(col(columns, PX, 0), col(columns, PY, 0), col(columns, PZ, 0), i),
    v = three(col(columns, VX, 0), col(columns, VY, 0), col(columns, VZ, 0), i)
  const ages = col(columns, AGE, 0),
    touched = col(columns, TOUCHED, 0)
  takeNormal(t, columns, i)
  let h = load<f32>(t + TRAILS_DT)
  const fresh = load<f32>(keptT + i) == TRAIL_FRESH
  if (fresh) h = now - begin(t, columns, i, p, v, load<f32>(ages + i))
  const ago = touched && load<u32>(touched + i) ? load<f32>(ages + i) - load<f32>(col(columns, TOUCHED_AGE, 0) + i) : <f32>1e30
  if (!(ago >= 0 && ago < h && corner(t, columns, i, v, h, ago))) {
    const bend = f32x4.sub(v, velocityOf(i)),
      bend2 = dot(bend, bend)
    if (bend2 * h * h > <f32>64 * tolerance * tolerance) divide(t, i, p, v, h, Mathf.sqrt(bend2) * h * <f32>0.125)
    else if (!fresh && load<f32>(keptT + i) < now - h) {
      const chord = f32x4.sub(p, keptOf(i)),
        tangent = three(tangentX, tangentY, tangentZ, i),
        gapM = load<f32>(t + TRAILS_GAP_M)
      if (
        across(chord, tangent) > limit * dot(tangent, tangent) ||
        across(chord, v) > limit * dot(v, v) ||
        now - load<f32>(keptT + i) > load<f32>(t + TRAILS_GAP_S) ||
        dot(chord, chord) > gapM * gapM
      )
        keepOne(t, columns, i)
    }
  }
  putTip(i, p, v)
}
/** Of a block. `list`: room for its numbers and a word more. */
function block(t: usize, columns: usize, from: usize, end: usize, list: usize): void {
  const px = col(columns, PX, 0),
    py = col(columns, PY, 0),
    pz = col(columns, PZ, 0),
    vx = col(columns, VX, 0),
    vy = col(columns, VY, 0),
    vz = col(columns, VZ, 0),
    dead = col(columns, DEAD, 0),
    touched = col(columns, TOUCHED, 0),
    phases = load<u32>(t + TRAILS_PHASES),
    alone = load<u32>(t + TRAILS_VELOCITIES) != 0 || load<u32>(t + TRAILS_NORMALS) != 0
  const now = load<f32>(t + TRAILS_NOW),
    dt = load<f32>(t + TRAILS_DT),
    tolerance = load<f32>(t + TRAILS_TOLERANCE),
    limit = f32x4.splat(<f32>16 * tolerance * tolerance),
    bent = f32x4.splat(<f32>64 * tolerance * tolerance),
    dt4 = f32x4.splat(dt),
    now4 = f32x4.splat(now),
    began = f32x4.splat(now - dt),
    gapS = v128.load32_splat(t + TRAILS_GAP_S),
    gap2 = f32x4.splat(load<f32>(t + TRAILS_GAP_M) * load<f32>(t + TRAILS_GAP_M)),
    finite = f32x4.splat(1e15),
    fresh = f32x4.splat(TRAIL_FRESH)
  let full = list
  for (let i = from; i < end; i += 16) {
    let acts = i32x4.ne(v128.load(slots + i), i32x4.splat(-1))
    // Behind the last particle stands anything.
    if (i + 16 > end) acts = v128.and(acts, i32x4.lt_s(i32x4(0, 4, 8, 12), i32x4.splat(<i32>(end - i))))
    const x = v128.load(px + i),
      y = v128.load(py + i),
      z = v128.load(pz + i),
      u = v128.load(vx + i),
      v = v128.load(vy + i),
      w = v128.load(vz + i)
    // Whatever became non-finite leaves its trail as it was.
    acts = v128.and(acts, f32x4.lt(f32x4.add(f32x4.abs(x), f32x4.abs(u)), finite))
    acts = v128.and(acts, f32x4.lt(f32x4.add(f32x4.abs(y), f32x4.abs(v)), finite))
    acts = v128.and(acts, f32x4.lt(f32x4.add(f32x4.abs(z), f32x4.abs(w)), finite))
    const ux = v128.load(velocityX + i),
      uy = v128.load(velocityY + i),
      uz = v128.load(velocityZ + i)
    const bx = f32x4.sub(u, ux),
      by = f32x4.sub(v, uy),
      bz = f32x4.sub(w, uz),
      since = v128.load(keptT + i)
    let apart = v128.or(f32x4.eq(since, fresh), f32x4.gt(f32x4.mul(f32x4.mul(dot4(bx, by, bz, bx, by, bz), dt4), dt4), bent))
    if (touched) apart = v128.or(apart, i32x4.ne(v128.load(touched + i), i32x4.splat(0)))
    const cx = f32x4.sub(x, v128.load(keptX + i)),
      cy = f32x4.sub(y, v128.load(keptY + i)),
      cz = f32x4.sub(z, v128.load(keptZ + i)),
      tx = v128.load(tangentX + i),
      ty = v128.load(tangentY + i),
      tz = v128.load(tangentZ + i)
    const far = v128.or(
      v128.or(
        f32x4.gt(across4(cx, cy, cz, tx, ty, tz), f32x4.mul(limit, dot4(tx, ty, tz, tx, ty, tz))),
        f32x4.gt(across4(cx, cy, cz, u, v, w), f32x4.mul(limit, dot4(u, v, w, u, v, w))),
      ),
      v128.or(f32x4.gt(f32x4.sub(now4, since), gapS), f32x4.gt(dot4(cx, cy, cz, cx, cy, cz), gap2)),
    )
    const moves = v128.andnot(acts, apart),
      keeps = v128.and(v128.and(moves, far), f32x4.lt(since, began))
    if (v128.any_true(keeps)) {
      if (!alone) full = keepFour(t, i, keeps, began, full)
      else for (let bits = i32x4.bitmask(keeps); bits; bits &= bits - 1) keepOne(t, columns, i + ((<usize>ctz(bits)) << 2))
    }
    v128.store(tipX + i, v128.bitselect(x, v128.load(tipX + i), moves))
    v128.store(tipY + i, v128.bitselect(y, v128.load(tipY + i), moves))
    v128.store(tipZ + i, v128.bitselect(z, v128.load(tipZ + i), moves))
    v128.store(velocityX + i, v128.bitselect(u, ux, moves))
    v128.store(velocityY + i, v128.bitselect(v, uy, moves))
    v128.store(velocityZ + i, v128.bitselect(w, uz, moves))
    for (let bits = i32x4.bitmask(v128.and(acts, apart)); bits; bits &= bits - 1) one(t, columns, i + ((<usize>ctz(bits)) << 2))
  }
  // Lines of the whole block are written at once. Who is in the list is in it once, and its head has gone on by one.
  const count = full - list
  store<u32>(list + (BLOCK << 2), touch(t, list, count))
  for (let k: usize = 0; k < count; k += 4) {
    const i = <usize>load<u32>(list + k),
      slot = load<u32>(slots + i)
    writeLine(t, slot, load<u32>(heads + i) - 1, newestOf(t, slot))
  }
  for (let i = from; i < end; i += 16) {
    if (phases == 0xffffffff && i + 16 <= end && !v128.any_true(v128.load(dead + i))) continue
    for (let k = i, last = min(i + 16, end); k < last; k += 4)
      if (load<u32>(slots + k) != NO_TRAIL && parts(columns, k, phases)) leave(t, columns, k)
  }
}
/**
 * Trails of the dead, and of those who left their phase, go on alone: lists them in order (`gone`, room for all), and where the living stand (`map`,
 * room for all and three more). Returns how many live.
 */
export function partTrails(t: usize, columns: usize, count: i32, map: usize, gone: usize): i32 {
  openRows(t)
  const dead = col(columns, DEAD, 0),
    phases = load<u32>(t + TRAILS_PHASES)
  let live = map,
    parted = gone
  for (let k = 0; k < count; k += 4) {
    const i = (<usize>k) << 2
    if (phases == 0xffffffff && k + 4 <= count && !v128.any_true(v128.load(dead + i))) {
      v128.store(live, i32x4.add(i32x4(0, 1, 2, 3), i32x4.splat(k)))
      live += 16
      continue
    }
    for (let n = k, last = min(k + 4, count); n < last; n++) {
      const row = (<usize>n) << 2
      if (load<u32>(slots + row) != NO_TRAIL && parts(columns, row, phases)) {
        store<u32>(parted, load<u32>(slots + row))
        store<u32>(slots + row, NO_TRAIL)
        parted += 4
      }
      store<u32>(live, n)
      if (load<u32>(dead + row) == 0) live += 4
    }
  }
  store<i32>(t + TRAILS_PARTED, <i32>((parted - gone) >> 2))
  return <i32>((live - map) >> 2)
}
/** Settles all trails of particles, before what reads their rings. */
export function settleTrails(t: usize, count: i32): void {
  openRows(t)
  for (let i: usize = 0, end = (<usize>count) << 2; i < end; i += 4)
    if (load<u32>(slots + i) != NO_TRAIL) settle(t, load<u32>(slots + i), i)
}
