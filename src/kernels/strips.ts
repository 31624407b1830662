// The strips of a frame, built of trails as they are: their ends cut exactly, all points one behind the other.
import { col } from './columns'
import {
  AGE,
  ID,
  JOB_CHUNK,
  JOB_COLUMNS,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  LIFE,
  PHASE,
  PX,
  PY,
  PZ,
  SEED,
  SPAN_BYTES,
  SPAN_CUT,
  SPAN_FIRST,
  SPAN_FIRST_M,
  SPAN_METRES,
  TRAILS_FADE_S,
  TRAILS_KEEP_M,
  TRAILS_KEEP_S,
  TRAILS_LIVE,
  TRAILS_NORMALS,
  TRAILS_NOW,
  TRAILS_OFFSETS,
  TRAILS_POINT_COLUMNS,
  TRAILS_POINT_COUNT,
  TRAILS_RECORDS,
  TRAILS_RING,
  TRAILS_RINGS,
  TRAILS_ROWS,
  TRAILS_SPANS,
  TRAILS_STRIPS,
  TRAILS_STRIP_COLUMNS,
  TRAILS_VELOCITIES,
  TRAIL_BYTES,
  TRAIL_FIRST,
  TRAIL_HEAD,
  TRAIL_HEAD_M,
  TRAIL_KEPT,
  TRAIL_MORE_AGE,
  TRAIL_MORE_FIRST_M,
  TRAIL_MORE_GONE,
  TRAIL_MORE_ID,
  TRAIL_MORE_LIFE,
  TRAIL_MORE_NORMAL,
  TRAIL_MORE_PHASE,
  TRAIL_MORE_REACH,
  TRAIL_MORE_SEED,
  TRAIL_TIP,
} from './layout'
import { normalOf } from './trailNormals'
import { apart, moreOf, ringOf } from './trails'
import { vec } from './vector'

// @ts-ignore: decorator
@inline function slotOf(t: usize, strip: i32): u32 {
  return load<u32>(<usize>load<u32>(t + TRAILS_STRIPS) + ((<usize>strip) << 2))
}
// @ts-ignore: decorator
@inline function rowOf(t: usize, strip: i32): usize {
  return (<usize>load<u32>(<usize>load<u32>(t + TRAILS_ROWS) + ((<usize>strip) << 2))) << 2
}
/** Of a strip by its number: where its tip is, and when. */
// @ts-ignore: decorator
@inline function tipOf(t: usize, columns: usize, strip: i32, r: usize, more: usize): v128 {
  if (strip >= load<i32>(t + TRAILS_LIVE)) return f32x4.replace_lane(v128.load(r + TRAIL_TIP), 3, load<f32>(more + TRAIL_MORE_GONE))
  const i = rowOf(t, strip)
  return vec(
    load<f32>(col(columns, PX, 0) + i),
    load<f32>(col(columns, PY, 0) + i),
    load<f32>(col(columns, PZ, 0) + i),
    load<f32>(t + TRAILS_NOW),
  )
}
/** Finds where a strip begins; returns how many points there are with the tip, 0 when nothing is left of it. */
function spanOf(t: usize, columns: usize, strip: i32, span: usize): u32 {
  const slot = slotOf(t, strip),
    r = <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES,
    more = moreOf(t, slot)
  const head = load<u32>(r + TRAIL_HEAD)
  if (head == 0) return 0
  const tip = tipOf(t, columns, strip, r, more),
    reach = load<f32>(more + TRAIL_MORE_REACH),
    cutS = load<f32>(t + TRAILS_NOW) - load<f32>(t + TRAILS_KEEP_S) * reach
  if (f32x4.extract_lane(tip, 3) <= cutS) return 0
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot)
  // The last point stands in the record too, which is at hand; one that drifts has left it.
  const last = load<u32>(t + TRAILS_VELOCITIES) ? v128.load(ring + ((<usize>((head - 1) & mask)) << 4)) : v128.load(r + TRAIL_KEPT)
  const total = load<f32>(r + TRAIL_HEAD_M) + apart(last, tip)
  const cutM = total - load<f32>(t + TRAILS_KEEP_M) * reach
  let first = load<u32>(r + TRAIL_FIRST),
    metres = load<f32>(more + TRAIL_MORE_FIRST_M)
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
  store<u32>(span + SPAN_FIRST, first)
  store<f32>(span + SPAN_CUT, min(cut, <f32>1))
  store<f32>(span + SPAN_FIRST_M, metres)
  store<f32>(span + SPAN_METRES, total)
  return head - first + 1
}
/** How many points each strip has, into the offsets, and where it begins; they are summed up before they are built. */
export function measureTrails(job: usize): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    columns = <usize>load<u32>(job + JOB_COLUMNS),
    t = <usize>load<u32>(job + JOB_RECORD)
  const offsets = <usize>load<u32>(t + TRAILS_OFFSETS),
    spans = <usize>load<u32>(t + TRAILS_SPANS)
  while (true) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let k = begin, end = min(begin + chunk, count); k < end; k++)
      store<u32>(offsets + ((<usize>k) << 2), spanOf(t, columns, k, spans + <usize>k * SPAN_BYTES))
  }
}
/** Whose strip it is; `bytes`: of a column. */
function fillStrip(t: usize, columns: usize, strip: i32, bytes: usize): void {
  const o = <usize>load<u32>(t + TRAILS_STRIP_COLUMNS) + ((<usize>strip) << 2)
  if (strip < load<i32>(t + TRAILS_LIVE)) {
    const i = rowOf(t, strip)
    store<u32>(o, load<u32>(col(columns, ID, 0) + i))
    store<u32>(o + bytes, load<u32>(col(columns, SEED, 0) + i))
    store<u32>(o + 2 * bytes, load<u32>(col(columns, PHASE, 0) + i))
    store<f32>(o + 3 * bytes, load<f32>(col(columns, AGE, 0) + i))
    store<f32>(o + 4 * bytes, load<f32>(col(columns, LIFE, 0) + i))
    store<f32>(o + 5 * bytes, 1)
    return
  }
  const more = moreOf(t, slotOf(t, strip)),
    fade = load<f32>(t + TRAILS_FADE_S)
  store<u32>(o, load<u32>(more + TRAIL_MORE_ID))
  store<u32>(o + bytes, load<u32>(more + TRAIL_MORE_SEED))
  store<u32>(o + 2 * bytes, load<u32>(more + TRAIL_MORE_PHASE))
  store<f32>(o + 3 * bytes, load<f32>(more + TRAIL_MORE_AGE))
  store<f32>(o + 4 * bytes, load<f32>(more + TRAIL_MORE_LIFE))
  const left = fade > 0 ? <f32>1 - (load<f32>(t + TRAILS_NOW) - load<f32>(more + TRAIL_MORE_GONE)) / fade : <f32>0
  store<f32>(o + 5 * bytes, max(<f32>0, left))
}
function fillPoints(t: usize, columns: usize, strip: i32): void {
  const offsets = <usize>load<u32>(t + TRAILS_OFFSETS) + ((<usize>strip) << 2)
  const n = load<u32>(offsets + 4) - load<u32>(offsets)
  if (n == 0) return
  const slot = slotOf(t, strip),
    r = <usize>load<u32>(t + TRAILS_RECORDS) + <usize>slot * TRAIL_BYTES,
    more = moreOf(t, slot),
    span = <usize>load<u32>(t + TRAILS_SPANS) + <usize>strip * SPAN_BYTES,
    first = load<u32>(span + SPAN_FIRST),
    cut = load<f32>(span + SPAN_CUT),
    total = load<f32>(span + SPAN_METRES)
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot),
    tip = tipOf(t, columns, strip, r, more)
  const now = load<f32>(t + TRAILS_NOW),
    reach = load<f32>(more + TRAIL_MORE_REACH),
    perS = <f32>1 / (load<f32>(t + TRAILS_KEEP_S) * reach),
    perM = <f32>1 / (load<f32>(t + TRAILS_KEEP_M) * reach)
  const all = (<usize>load<i32>(t + TRAILS_POINT_COUNT)) << 2
  let x = <usize>load<u32>(t + TRAILS_POINT_COLUMNS) + ((<usize>load<u32>(offsets)) << 2)
  const y: usize = all,
    z: usize = 2 * all,
    alongs: usize = 3 * all,
    ways: usize = 4 * all
  // The ring of normals lies as that of the points.
  const normals = <usize>load<u32>(t + TRAILS_NORMALS),
    turns = normals ? normals + (ring - <usize>load<u32>(t + TRAILS_RINGS)) : <usize>0
  const tipNormal = !normals
    ? f32x4.splat(0)
    : strip < load<i32>(t + TRAILS_LIVE)
      ? normalOf(columns, rowOf(t, strip))
      : v128.load(more + TRAIL_MORE_NORMAL)
  let metres = load<f32>(span + SPAN_FIRST_M),
    before = tip
  const n1 = n - 1
  for (let k: u32 = 0; k < n; k++) {
    let p = k == n - 1 ? tip : v128.load(ring + ((<usize>((first + k) & mask)) << 4))
    if (k == 0) {
      if (cut > 0) {
        const next = n == 2 ? tip : v128.load(ring + ((<usize>((first + 1) & mask)) << 4))
        const q = f32x4.add(p, f32x4.mul(f32x4.sub(next, p), f32x4.splat(cut)))
        metres += apart(p, q)
        p = q
      }
    } else metres += apart(before, p)
    before = p
    store<f32>(x, f32x4.extract_lane(p, 0))
    store<f32>(x + y, f32x4.extract_lane(p, 1))
    store<f32>(x + z, f32x4.extract_lane(p, 2))
    // One of both counts; the other's reach is far beyond anything.
    const along = max((now - f32x4.extract_lane(p, 3)) * perS, (total - metres) * perM)
    store<f32>(x + alongs, min(max(along, <f32>0), <f32>1))
    store<f32>(x + ways, metres)
    if (normals) {
      let n = k == n1 ? tipNormal : v128.load(turns + ((<usize>((first + k) & mask)) << 4))
      if (k == 0 && cut > 0) {
        const after = n1 == 1 ? tipNormal : v128.load(turns + ((<usize>((first + 1) & mask)) << 4))
        n = f32x4.add(n, f32x4.mul(f32x4.sub(after, n), f32x4.splat(cut)))
      }
      store<f32>(x + 5 * all, f32x4.extract_lane(n, 0))
      store<f32>(x + 6 * all, f32x4.extract_lane(n, 1))
      store<f32>(x + 7 * all, f32x4.extract_lane(n, 2))
    }
    x += 4
  }
}
/** All strips, with their points where the offsets say. */
export function buildTrails(job: usize): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    columns = <usize>load<u32>(job + JOB_COLUMNS),
    t = <usize>load<u32>(job + JOB_RECORD)
  while (true) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let k = begin, end = min(begin + chunk, count); k < end; k++) {
      fillStrip(t, columns, k, (<usize>count) << 2)
      fillPoints(t, columns, k)
    }
  }
}
