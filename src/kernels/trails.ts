// Trails: the points that a particle leaves behind, where its path bends, and the strips that a frame is built of.
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
  TRAILS_FADE_S,
  TRAILS_GAP_M,
  TRAILS_GAP_S,
  TRAILS_INHERIT,
  TRAILS_KEEP_M,
  TRAILS_KEEP_S,
  TRAILS_LIVE,
  TRAILS_MOST,
  TRAILS_NOW,
  TRAILS_OFFSETS,
  TRAILS_POINT_COLUMNS,
  TRAILS_POINT_COUNT,
  TRAILS_RECORDS,
  TRAILS_RING,
  TRAILS_RINGS,
  TRAILS_ROWS,
  TRAILS_SLOTS,
  TRAILS_STRIPS,
  TRAILS_STRIP_COLUMNS,
  TRAILS_TOLERANCE,
  TRAILS_VELOCITIES,
  TRAIL_AGE,
  TRAIL_BYTES,
  TRAIL_FIRST,
  TRAIL_FIRST_M,
  TRAIL_GONE,
  TRAIL_HEAD,
  TRAIL_HEAD_M,
  TRAIL_ID,
  TRAIL_KEPT,
  TRAIL_LIFE,
  TRAIL_PHASE,
  TRAIL_REACH,
  TRAIL_SEED,
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

/** Four lanes: x, y, z and something. */
// @ts-ignore: decorator
@inline function vec(x: f32, y: f32, z: f32, w: f32): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(x), 1, y), 2, z), 3, w)
}
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
@inline function ringOf(t: usize, slot: u32): usize {
  return <usize>load<u32>(t + TRAILS_RINGS) + <usize>slot * ((<usize>load<i32>(t + TRAILS_RING)) << 4)
}
// @ts-ignore: decorator
@inline function apart(a: v128, b: v128): f32 {
  const d = f32x4.sub(a, b)
  return Mathf.sqrt(dot(d, d))
}
/** Gives up the first point of a ring. */
function drop(r: usize, ring: usize, mask: u32): void {
  const first = load<u32>(r + TRAIL_FIRST)
  const a = v128.load(ring + ((<usize>(first & mask)) << 4)),
    b = v128.load(ring + ((<usize>((first + 1) & mask)) << 4))
  store<f32>(r + TRAIL_FIRST_M, load<f32>(r + TRAIL_FIRST_M) + apart(a, b))
  store<u32>(r + TRAIL_FIRST, first + 1)
}
/** Keeps a point: x, y, z and when. `velocity`: of the particle there. */
function keep(t: usize, r: usize, slot: u32, p: v128, velocity: v128): void {
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot)
  const head = load<u32>(r + TRAIL_HEAD)
  const reach = load<f32>(r + TRAIL_REACH),
    keepS = load<f32>(t + TRAILS_KEEP_S) * reach,
    keepM = load<f32>(t + TRAILS_KEEP_M) * reach
  if (head) {
    const last = v128.load(ring + ((<usize>((head - 1) & mask)) << 4))
    store<f32>(r + TRAIL_HEAD_M, load<f32>(r + TRAIL_HEAD_M) + apart(last, p))
  }
  // What is too old, or too far behind, is no longer drawn; one point beyond that stays, to cut the end exactly.
  const cut = load<f32>(t + TRAILS_NOW) - load<f32>(t + TRAILS_DT) - keepS
  while (load<u32>(r + TRAIL_FIRST) + 1 < head) {
    const second = v128.load(ring + ((<usize>((load<u32>(r + TRAIL_FIRST) + 1) & mask)) << 4))
    const first = v128.load(ring + ((<usize>(load<u32>(r + TRAIL_FIRST) & mask)) << 4))
    const behind = load<f32>(r + TRAIL_HEAD_M) - load<f32>(r + TRAIL_FIRST_M) - apart(first, second)
    if (f32x4.extract_lane(second, 3) > cut && behind < keepM) break
    drop(r, ring, mask)
  }
  if (head - load<u32>(r + TRAIL_FIRST) > mask) drop(r, ring, mask)
  v128.store(ring + ((<usize>(head & mask)) << 4), p)
  const velocities = <usize>load<u32>(t + TRAILS_VELOCITIES)
  if (velocities)
    v128.store(
      velocities + (ring - <usize>load<u32>(t + TRAILS_RINGS)) + ((<usize>(head & mask)) << 4),
      f32x4.mul(velocity, f32x4.splat(load<f32>(t + TRAILS_INHERIT))),
    )
  store<u32>(r + TRAIL_HEAD, head + 1)
}
/** Where a cubic with given ends and tangents (Hermite) is at s, 0 to 1, and its tangent. Exact for a parabola. */
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
/** The last kept point, and the tangent there. */
// @ts-ignore: decorator
@inline function anchor(t: usize, r: usize, slot: u32, p: v128, tangent: v128): void {
  keep(t, r, slot, p, tangent)
  v128.store(r + TRAIL_KEPT, p)
  v128.store(r + TRAIL_TANGENT, tangent)
}
/** Begins the trail of a particle: where it was emitted, if that was in this substep, else where its phase began, or where it is. */
function begin(t: usize, r: usize, slot: u32, columns: usize, i: usize, p: v128, v: v128, age: f32): void {
  const now = load<f32>(t + TRAILS_NOW),
    dt = load<f32>(t + TRAILS_DT) * <f32>1.001
  const inPhase = age - load<f32>(col(columns, PHASE_START, 0) + i)
  let from = vec(f32x4.extract_lane(p, 0), f32x4.extract_lane(p, 1), f32x4.extract_lane(p, 2), now),
    tangent = v
  if (age > 0 && age <= dt) {
    from = vec(load<f32>(col(columns, SX, 0) + i), load<f32>(col(columns, SY, 0) + i), load<f32>(col(columns, SZ, 0) + i), now - age)
    tangent = f32x4.sub(f32x4.mul(f32x4.sub(p, from), f32x4.splat(<f32>2 / age)), v)
  } else if (inPhase > 0 && inPhase <= dt) {
    from = f32x4.replace_lane(f32x4.sub(p, f32x4.mul(v, f32x4.splat(inPhase))), 3, now - inPhase)
  }
  anchor(t, r, slot, from, tangent)
  v128.store(r + TRAIL_TIP, from)
  v128.store(r + TRAIL_VELOCITY, tangent)
}
/**
 * One substep of a trail. On a smooth path the bulge over the chord from the kept point A to P is at most a quarter of the distance of P from
 * the tangent at A, and of A from the tangent at P (of a parabola it is just that); when that passes the tolerance the place before P is
 * kept. A substep that bends more than that in itself is divided along its cubic; a contact is a corner.
 */
function record(t: usize, slot: u32, columns: usize, i: usize): void {
  const r = <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES
  const now = load<f32>(t + TRAILS_NOW),
    tolerance = load<f32>(t + TRAILS_TOLERANCE)
  const age = load<f32>(col(columns, AGE, 0) + i)
  const p = vec(load<f32>(col(columns, PX, 0) + i), load<f32>(col(columns, PY, 0) + i), load<f32>(col(columns, PZ, 0) + i), now)
  const v = vec(load<f32>(col(columns, VX, 0) + i), load<f32>(col(columns, VY, 0) + i), load<f32>(col(columns, VZ, 0) + i), 0)
  // Whatever became non-finite leaves its trail as it was.
  if (!(Mathf.abs(f32x4.extract_lane(p, 0)) + Mathf.abs(f32x4.extract_lane(p, 1)) + Mathf.abs(f32x4.extract_lane(p, 2)) < <f32>1e15)) return
  if (load<u32>(r + TRAIL_HEAD) == 0) begin(t, r, slot, columns, i, p, v, age)
  let from = v128.load(r + TRAIL_TIP),
    u = v128.load(r + TRAIL_VELOCITY)
  let h = now - f32x4.extract_lane(from, 3)
  const touched = load<u32>(columns + (TOUCHED << 2))
  const ago = touched && load<u32>(col(columns, TOUCHED, 0) + i) ? age - load<f32>(col(columns, TOUCHED_AGE, 0) + i) : <f32>1e30
  if (ago >= 0 && ago < h) {
    const c = vec(load<f32>(col(columns, TX, 0) + i), load<f32>(col(columns, TY, 0) + i), load<f32>(col(columns, TZ, 0) + i), now - ago)
    const before = h - ago
    const way = f32x4.sub(c, v128.load(r + TRAIL_KEPT))
    // One that rests meets its ground in every substep; that is no corner.
    const inward = f32x4.mul(f32x4.sub(c, from), f32x4.splat(before > 0 ? <f32>1 / before : 0))
    const turn = f32x4.sub(v, inward)
    if (dot(turn, turn) * h * h > tolerance * tolerance) {
      if (<f32>16 * tolerance * tolerance * dot(inward, inward) < across(way, inward)) anchor(t, r, slot, from, u)
      anchor(t, r, slot, c, v)
      v128.store(r + TRAIL_TIP, p)
      v128.store(r + TRAIL_VELOCITY, v)
      return
    }
  }
  const bend = f32x4.sub(v, u)
  const bulge = Mathf.sqrt(dot(bend, bend)) * h * <f32>0.125
  const kept = v128.load(r + TRAIL_KEPT)
  if (bulge > tolerance && h > 0) {
    const pieces = min(<f32>10, Mathf.ceil(Mathf.sqrt(bulge / tolerance)))
    if (f32x4.extract_lane(kept, 3) < f32x4.extract_lane(from, 3)) anchor(t, r, slot, from, u)
    for (let k: f32 = 1; k < pieces; k++) {
      const s = k / pieces
      const q = f32x4.replace_lane(alongCubic(from, u, p, v, h, s), 3, f32x4.extract_lane(from, 3) + s * h)
      anchor(t, r, slot, q, f32x4.replace_lane(cubicVelocity(from, u, p, v, h, s), 3, 0))
    }
  } else {
    const chord = f32x4.sub(p, kept),
      tangent = v128.load(r + TRAIL_TANGENT)
    const limit = <f32>16 * tolerance * tolerance
    const gap = load<f32>(t + TRAILS_GAP_M)
    if (
      across(chord, tangent) > limit * dot(tangent, tangent) ||
      across(chord, v) > limit * dot(v, v) ||
      now - f32x4.extract_lane(kept, 3) > load<f32>(t + TRAILS_GAP_S) ||
      dot(chord, chord) > gap * gap
    )
      if (f32x4.extract_lane(kept, 3) < f32x4.extract_lane(from, 3)) anchor(t, r, slot, from, u)
  }
  v128.store(r + TRAIL_TIP, p)
  v128.store(r + TRAIL_VELOCITY, v)
}
/** Who is gone takes along what is drawn of it. */
function leave(t: usize, slot: u32, columns: usize, i: usize): void {
  const r = <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES
  store<f32>(r + TRAIL_GONE, load<f32>(t + TRAILS_NOW))
  store<u32>(r + TRAIL_ID, load<u32>(col(columns, ID, 0) + i))
  store<u32>(r + TRAIL_SEED, load<u32>(col(columns, SEED, 0) + i))
  store<u32>(r + TRAIL_PHASE, load<u32>(col(columns, PHASE, 0) + i))
  const age = load<f32>(col(columns, AGE, 0) + i),
    life = load<f32>(col(columns, LIFE, 0) + i)
  store<f32>(r + TRAIL_AGE, age)
  // What ended a life leaves it no length.
  store<f32>(r + TRAIL_LIFE, life > 0 ? life : age)
}
/** A substep of all trails. */
export function recordTrails(job: usize): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    columns = <usize>load<u32>(job + JOB_COLUMNS),
    t = <usize>load<u32>(job + JOB_RECORD)
  const slots = <usize>load<u32>(t + TRAILS_SLOTS),
    records = <usize>load<u32>(t + TRAILS_RECORDS)
  let most: u32 = 0
  while (atomic.load<u32>(<usize>load<u32>(job + JOB_STOP)) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) break
    const end = (<usize>min(begin + chunk, count)) << 2
    for (let i = (<usize>begin) << 2; i < end; i += 4) {
      const slot = load<u32>(slots + i)
      if (slot == NO_TRAIL) continue
      record(t, slot, columns, i)
      if (load<u32>(col(columns, DEAD, 0) + i)) leave(t, slot, columns, i)
      const r = records + <usize>slot * TRAIL_BYTES
      most = max(most, load<u32>(r + TRAIL_HEAD) - load<u32>(r + TRAIL_FIRST))
    }
  }
  let known = atomic.load<u32>(t + TRAILS_MOST)
  while (known < most) {
    const seen = atomic.cmpxchg<u32>(t + TRAILS_MOST, known, most)
    if (seen == known) break
    known = seen
  }
}

/** Where one strip begins: the first of its points that counts, and how far along the way to the next it is cut. */
// @ts-ignore: decorator
@unmanaged class Span {
  first: u32
  cut: f32
  firstM: f32
  metres: f32
}
/** Finds that; returns how many points there are with the tip, 0 when nothing is left of it. `out`: a span. */
function spanOf(t: usize, r: usize, slot: u32, tip: v128, out: usize): u32 {
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot)
  const head = load<u32>(r + TRAIL_HEAD)
  if (head == 0) return 0
  const now = load<f32>(t + TRAILS_NOW),
    reach = load<f32>(r + TRAIL_REACH),
    cutS = now - load<f32>(t + TRAILS_KEEP_S) * reach
  if (f32x4.extract_lane(tip, 3) <= cutS) return 0
  const total = load<f32>(r + TRAIL_HEAD_M) + apart(v128.load(ring + ((<usize>((head - 1) & mask)) << 4)), tip)
  const cutM = total - load<f32>(t + TRAILS_KEEP_M) * reach
  let first = load<u32>(r + TRAIL_FIRST),
    metres = load<f32>(r + TRAIL_FIRST_M)
  let a = v128.load(ring + ((<usize>(first & mask)) << 4)),
    cut: f32 = 0
  while (true) {
    const b = first + 1 < head ? v128.load(ring + ((<usize>((first + 1) & mask)) << 4)) : tip
    const step = apart(a, b),
      ta = f32x4.extract_lane(a, 3),
      tb = f32x4.extract_lane(b, 3)
    if ((tb <= cutS || metres + step <= cutM) && first + 1 < head) {
      metres += step
      first++
      a = b
      continue
    }
    if (ta < cutS && tb > ta) cut = (cutS - ta) / (tb - ta)
    if (metres < cutM && step > 0) cut = max(cut, (cutM - metres) / step)
    break
  }
  const s = changetype<Span>(out)
  s.first = first
  s.cut = min(cut, <f32>1)
  s.firstM = metres
  s.metres = total
  return head - first + 1
}
/** Of a strip by its number: its trail, and where its tip is. */
// @ts-ignore: decorator
@inline function tipOf(t: usize, columns: usize, strip: i32, r: usize): v128 {
  if (strip >= load<i32>(t + TRAILS_LIVE)) return v128.load(r + TRAIL_TIP)
  const i = (<usize>load<u32>(<usize>load<u32>(t + TRAILS_ROWS) + ((<usize>strip) << 2))) << 2
  return vec(
    load<f32>(col(columns, PX, 0) + i),
    load<f32>(col(columns, PY, 0) + i),
    load<f32>(col(columns, PZ, 0) + i),
    load<f32>(t + TRAILS_NOW),
  )
}
// @ts-ignore: decorator
@inline function slotOf(t: usize, strip: i32): u32 {
  return load<u32>(<usize>load<u32>(t + TRAILS_STRIPS) + ((<usize>strip) << 2))
}
/** How many points each strip has, into the offsets; they are summed up before they are built. */
export function measureTrails(job: usize, span: usize): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    columns = <usize>load<u32>(job + JOB_COLUMNS),
    t = <usize>load<u32>(job + JOB_RECORD)
  const offsets = <usize>load<u32>(t + TRAILS_OFFSETS)
  while (true) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let k = begin, end = min(begin + chunk, count); k < end; k++) {
      const slot = slotOf(t, k),
        r = <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES
      store<u32>(offsets + ((<usize>k) << 2), spanOf(t, r, slot, tipOf(t, columns, k, r), span))
    }
  }
}
function fill(t: usize, columns: usize, strip: i32, count: usize, span: usize): void {
  const slot = slotOf(t, strip),
    r = <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES
  const live = strip < load<i32>(t + TRAILS_LIVE)
  const o = <usize>load<u32>(t + TRAILS_STRIP_COLUMNS) + ((<usize>strip) << 2),
    bytes = count << 2
  if (live) {
    const i = (<usize>load<u32>(<usize>load<u32>(t + TRAILS_ROWS) + ((<usize>strip) << 2))) << 2
    store<u32>(o, load<u32>(col(columns, ID, 0) + i))
    store<u32>(o + bytes, load<u32>(col(columns, SEED, 0) + i))
    store<u32>(o + 2 * bytes, load<u32>(col(columns, PHASE, 0) + i))
    store<f32>(o + 3 * bytes, load<f32>(col(columns, AGE, 0) + i))
    store<f32>(o + 4 * bytes, load<f32>(col(columns, LIFE, 0) + i))
    store<f32>(o + 5 * bytes, 1)
  } else {
    store<u32>(o, load<u32>(r + TRAIL_ID))
    store<u32>(o + bytes, load<u32>(r + TRAIL_SEED))
    store<u32>(o + 2 * bytes, load<u32>(r + TRAIL_PHASE))
    store<f32>(o + 3 * bytes, load<f32>(r + TRAIL_AGE))
    store<f32>(o + 4 * bytes, load<f32>(r + TRAIL_LIFE))
    const fade = load<f32>(t + TRAILS_FADE_S)
    store<f32>(
      o + 5 * bytes,
      fade > 0 ? max(<f32>0, 1 - (load<f32>(t + TRAILS_NOW) - load<f32>(r + TRAIL_GONE)) / fade) : <f32>0,
    )
  }
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot)
  const tip = tipOf(t, columns, strip, r)
  const n = spanOf(t, r, slot, tip, span)
  if (n == 0) return
  const s = changetype<Span>(span)
  const now = load<f32>(t + TRAILS_NOW),
    reach = load<f32>(r + TRAIL_REACH),
    perS = <f32>1 / (load<f32>(t + TRAILS_KEEP_S) * reach),
    perM = <f32>1 / (load<f32>(t + TRAILS_KEEP_M) * reach)
  const all = (<usize>load<i32>(t + TRAILS_POINT_COUNT)) << 2
  let out =
    <usize>load<u32>(t + TRAILS_POINT_COLUMNS) +
    ((<usize>load<u32>(<usize>load<u32>(t + TRAILS_OFFSETS) + ((<usize>strip) << 2))) << 2)
  let metres = s.firstM,
    before = tip
  for (let k: u32 = 0; k < n; k++) {
    let p = k == n - 1 ? tip : v128.load(ring + ((<usize>((s.first + k) & mask)) << 4))
    if (k == 0 && s.cut > 0) {
      const next = n == 2 ? tip : v128.load(ring + ((<usize>((s.first + 1) & mask)) << 4))
      const q = f32x4.add(p, f32x4.mul(f32x4.sub(next, p), f32x4.splat(s.cut)))
      metres += apart(p, q)
      p = q
    }
    if (k) metres += apart(before, p)
    before = p
    store<f32>(out, f32x4.extract_lane(p, 0))
    store<f32>(out + all, f32x4.extract_lane(p, 1))
    store<f32>(out + 2 * all, f32x4.extract_lane(p, 2))
    // One of both counts; the other's reach is far beyond anything.
    const along = max((now - f32x4.extract_lane(p, 3)) * perS, (s.metres - metres) * perM)
    store<f32>(out + 3 * all, min(max(along, <f32>0), <f32>1))
    store<f32>(out + 4 * all, metres)
    out += 4
  }
}
/** All strips, with their points where the offsets say. */
export function buildTrails(job: usize, span: usize): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    columns = <usize>load<u32>(job + JOB_COLUMNS),
    t = <usize>load<u32>(job + JOB_RECORD)
  while (true) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let k = begin, end = min(begin + chunk, count); k < end; k++) fill(t, columns, k, <usize>count, span)
  }
}
