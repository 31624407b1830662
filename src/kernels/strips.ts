// The strips of a frame, built of trails as they are: their ends cut exactly.
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
  STRIP_PIECE_AT,
  STRIP_PIECE_BYTES,
  STRIP_PIECE_POINTS,
  TRAILS_FADE_S,
  TRAILS_KEEP_M,
  TRAILS_KEEP_S,
  TRAILS_LIVE,
  TRAILS_NORMALS,
  TRAILS_NOW,
  TRAILS_COUNTS,
  TRAILS_CURSOR,
  TRAILS_PIECES,
  TRAILS_POINT_COLUMNS,
  TRAILS_ROOM,
  TRAILS_RING,
  TRAILS_RINGS,
  TRAILS_ROWS,
  TRAILS_STRIPS,
  TRAILS_STRIP_COLUMNS,
  TRAIL_FIRST,
  TRAIL_FIRST_M,
  TRAIL_GONE,
  TRAIL_HEAD,
  TRAIL_METRES,
  TRAIL_MORE_AGE,
  TRAIL_MORE_ID,
  TRAIL_MORE_LIFE,
  TRAIL_MORE_NORMAL,
  TRAIL_MORE_PHASE,
  TRAIL_MORE_SEED,
  TRAIL_MORE_TIP,
  TRAIL_REACH,
} from './layout'
import { normalOf } from './trailNormals'
import { apart, moreOf, recordOf, ringOf, settle } from './trailRings'
import { openRows } from './trailRows'
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
@inline function tipOf(t: usize, columns: usize, strip: i32, slot: u32): v128 {
  if (strip >= load<i32>(t + TRAILS_LIVE))
    return f32x4.replace_lane(v128.load(moreOf(t, slot) + TRAIL_MORE_TIP), 3, load<f32>(recordOf(t, slot) + TRAIL_GONE))
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
    r = recordOf(t, slot)
  const head = load<u32>(r + TRAIL_HEAD)
  if (head == 0) return 0
  const tip = tipOf(t, columns, strip, slot),
    reach = load<f32>(r + TRAIL_REACH),
    cutS = load<f32>(t + TRAILS_NOW) - load<f32>(t + TRAILS_KEEP_S) * reach
  if (f32x4.extract_lane(tip, 3) <= cutS) return 0
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot)
  const last = v128.load(ring + ((<usize>((head - 1) & mask)) << 4))
  const total = load<f32>(r + TRAIL_METRES) + apart(last, tip)
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
  store<u32>(span + SPAN_FIRST, first)
  store<f32>(span + SPAN_CUT, min(cut, <f32>1))
  store<f32>(span + SPAN_FIRST_M, metres)
  store<f32>(span + SPAN_METRES, total)
  return head - first + 1
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
  const slot = slotOf(t, strip),
    more = moreOf(t, slot),
    fade = load<f32>(t + TRAILS_FADE_S)
  store<u32>(o, load<u32>(more + TRAIL_MORE_ID))
  store<u32>(o + bytes, load<u32>(more + TRAIL_MORE_SEED))
  store<u32>(o + 2 * bytes, load<u32>(more + TRAIL_MORE_PHASE))
  store<f32>(o + 3 * bytes, load<f32>(more + TRAIL_MORE_AGE))
  store<f32>(o + 4 * bytes, load<f32>(more + TRAIL_MORE_LIFE))
  const left = fade > 0 ? <f32>1 - (load<f32>(t + TRAILS_NOW) - load<f32>(recordOf(t, slot) + TRAIL_GONE)) / fade : <f32>0
  store<f32>(o + 5 * bytes, max(<f32>0, left))
}
/** Where one of the points of a strip stands: all but the last in its ring. */
// @ts-ignore: decorator
@inline function pointAt(ring: usize, mask: u32, first: u32, k: u32, n1: u32, tip: usize): usize {
  return k < n1 ? ring + ((<usize>((first + k) & mask)) << 4) : tip
}
/** The points of a strip, four at a time: what is written behind the last the next one lies upon. `scratch`: room for its ends. */
function fillPoints(t: usize, columns: usize, strip: i32, span: usize, n: u32, to: usize, scratch: usize): void {
  const slot = slotOf(t, strip),
    r = recordOf(t, slot),
    first = load<u32>(span + SPAN_FIRST),
    cut = load<f32>(span + SPAN_CUT),
    total = load<f32>(span + SPAN_METRES)
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    ring = ringOf(t, slot)
  const reach = load<f32>(r + TRAIL_REACH),
    perS = f32x4.splat(<f32>1 / (load<f32>(t + TRAILS_KEEP_S) * reach)),
    perM = f32x4.splat(<f32>1 / (load<f32>(t + TRAILS_KEEP_M) * reach)),
    now = v128.load32_splat(t + TRAILS_NOW),
    all = f32x4.splat(total)
  const bytes = (<usize>load<i32>(t + TRAILS_ROOM)) << 2
  const n1 = n - 1,
    tip = scratch,
    begin = scratch + 16
  v128.store(tip, tipOf(t, columns, strip, slot))
  let metres = load<f32>(span + SPAN_FIRST_M),
    from = pointAt(ring, mask, first, 0, n1, tip)
  if (cut > 0) {
    const p = v128.load(from),
      q = f32x4.add(p, f32x4.mul(f32x4.sub(v128.load(pointAt(ring, mask, first, 1, n1, tip)), p), f32x4.splat(cut)))
    metres += apart(p, q)
    v128.store(begin, q)
    from = begin
  }
  let x = to,
    bx = f32x4.splat(0),
    by = bx,
    bz = bx
  for (let k: u32 = 0; k < n; k += 4, x += 16) {
    const a = v128.load(k == 0 ? from : pointAt(ring, mask, first, k, n1, tip)),
      b = v128.load(pointAt(ring, mask, first, k + 1, n1, tip)),
      c = v128.load(pointAt(ring, mask, first, k + 2, n1, tip)),
      d = v128.load(pointAt(ring, mask, first, k + 3, n1, tip))
    const ab = v128.shuffle<i32>(a, b, 0, 4, 1, 5),
      cd = v128.shuffle<i32>(c, d, 0, 4, 1, 5),
      ab2 = v128.shuffle<i32>(a, b, 2, 6, 3, 7),
      cd2 = v128.shuffle<i32>(c, d, 2, 6, 3, 7)
    const px = v128.shuffle<i64>(ab, cd, 0, 2),
      py = v128.shuffle<i64>(ab, cd, 1, 3),
      pz = v128.shuffle<i64>(ab2, cd2, 0, 2),
      when = v128.shuffle<i64>(ab2, cd2, 1, 3)
    const dx = f32x4.sub(k == 0 ? v128.shuffle<i32>(px, px, 0, 4, 5, 6) : v128.shuffle<i32>(bx, px, 3, 4, 5, 6), px),
      dy = f32x4.sub(k == 0 ? v128.shuffle<i32>(py, py, 0, 4, 5, 6) : v128.shuffle<i32>(by, py, 3, 4, 5, 6), py),
      dz = f32x4.sub(k == 0 ? v128.shuffle<i32>(pz, pz, 0, 4, 5, 6) : v128.shuffle<i32>(bz, pz, 3, 4, 5, 6), pz)
    const far = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)))
    const m0 = metres + f32x4.extract_lane(far, 0),
      m1 = m0 + f32x4.extract_lane(far, 1),
      m2 = m1 + f32x4.extract_lane(far, 2)
    metres = m2 + f32x4.extract_lane(far, 3)
    const ways = vec(m0, m1, m2, metres)
    v128.store(x, px)
    v128.store(x + bytes, py)
    v128.store(x + 2 * bytes, pz)
    // One of both counts; the other's reach is far beyond anything.
    const along = f32x4.max(f32x4.mul(f32x4.sub(now, when), perS), f32x4.mul(f32x4.sub(all, ways), perM))
    v128.store(x + 3 * bytes, f32x4.min(f32x4.max(along, f32x4.splat(0)), f32x4.splat(1)))
    v128.store(x + 4 * bytes, ways)
    bx = px
    by = py
    bz = pz
  }
  if (load<u32>(t + TRAILS_NORMALS)) fillNormals(t, columns, strip, span, n, to + 5 * bytes, bytes)
}
/** The ways that points point; their ring lies as that of the points. */
function fillNormals(t: usize, columns: usize, strip: i32, span: usize, n: u32, to: usize, bytes: usize): void {
  const slot = slotOf(t, strip),
    first = load<u32>(span + SPAN_FIRST),
    cut = load<f32>(span + SPAN_CUT),
    mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    turns = <usize>load<u32>(t + TRAILS_NORMALS) + (ringOf(t, slot) - <usize>load<u32>(t + TRAILS_RINGS)),
    n1 = n - 1
  const tip = strip < load<i32>(t + TRAILS_LIVE) ? normalOf(columns, rowOf(t, strip)) : v128.load(moreOf(t, slot) + TRAIL_MORE_NORMAL)
  let x = to
  for (let k: u32 = 0; k < n; k++, x += 4) {
    let p = k == n1 ? tip : v128.load(turns + ((<usize>((first + k) & mask)) << 4))
    if (k == 0 && cut > 0) {
      const after = n1 == 1 ? tip : v128.load(turns + ((<usize>((first + 1) & mask)) << 4))
      p = f32x4.add(p, f32x4.mul(f32x4.sub(after, p), f32x4.splat(cut)))
    }
    store<f32>(x, f32x4.extract_lane(p, 0))
    store<f32>(x + bytes, f32x4.extract_lane(p, 1))
    store<f32>(x + 2 * bytes, f32x4.extract_lane(p, 2))
  }
}
/** Brings records and the beginnings of the rings into the cache, all at once. */
// @ts-ignore: decorator
@inline function touchStrips(t: usize, begin: i32, end: i32): u32 {
  const mask = <u32>load<i32>(t + TRAILS_RING) - 1,
    live = load<i32>(t + TRAILS_LIVE)
  let sum: u32 = 0
  for (let k = begin; k < end; k++) {
    const slot = slotOf(t, k)
    sum += load<u32>(recordOf(t, slot))
    if (k >= live) sum += load<u32>(moreOf(t, slot))
  }
  for (let k = begin; k < end; k++) {
    const slot = slotOf(t, k),
      r = recordOf(t, slot),
      ring = ringOf(t, slot)
    if (k < live) settle(t, slot, rowOf(t, k))
    // A line of the cache holds four points.
    for (let n = load<u32>(r + TRAIL_FIRST), last = load<u32>(r + TRAIL_HEAD); n < last; n += 4)
      sum += load<u32>(ring + ((<usize>(n & mask)) << 4))
  }
  return sum
}
/**
 * All strips, piece by piece: how many points each has, and where one begins, then the points of the piece, where there is still room; which part of
 * it a piece gets is chance, what stands there is none. A piece for which there is no room only says how much it needs. `scratch`: 8 KB.
 */
export function buildTrails(job: usize, scratch: usize): void {
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    columns = <usize>load<u32>(job + JOB_COLUMNS),
    t = <usize>load<u32>(job + JOB_RECORD)
  openRows(t)
  const counts = <usize>load<u32>(t + TRAILS_COUNTS),
    room = load<u32>(t + TRAILS_ROOM),
    spans = scratch + 64
  while (true) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    const end = min(begin + chunk, count)
    store<u32>(scratch + 32, touchStrips(t, begin, end))
    let points: u32 = 0,
      span = spans
    for (let k = begin; k < end; k++, span += SPAN_BYTES) {
      const n = spanOf(t, columns, k, span)
      store<u32>(counts + ((<usize>k) << 2), n)
      points += n
    }
    // A vector more: what is written behind the last.
    const needs = ((points + 3) & ~3) + 4,
      at = atomic.add<u32>(t + TRAILS_CURSOR, needs)
    const piece = <usize>load<u32>(t + TRAILS_PIECES) + <usize>(begin / chunk) * STRIP_PIECE_BYTES
    store<u32>(piece, at, STRIP_PIECE_AT)
    store<u32>(piece, points, STRIP_PIECE_POINTS)
    if (at + needs > room) continue
    let to = <usize>load<u32>(t + TRAILS_POINT_COLUMNS) + ((<usize>at) << 2)
    span = spans
    for (let k = begin; k < end; k++, span += SPAN_BYTES) {
      fillStrip(t, columns, k, (<usize>count) << 2)
      const n = load<u32>(counts + ((<usize>k) << 2))
      if (n == 0) continue
      fillPoints(t, columns, k, span, n, to, scratch)
      to += (<usize>n) << 2
    }
  }
}
