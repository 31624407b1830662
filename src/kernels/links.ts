// Links between particles that are near each other: who is linked, what becomes of the links of the frame before, and the strips of a frame.
import { column } from './columns'
import {
  AGE,
  GRID_ORDER,
  ID,
  JOB_CHUNK,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_STOP,
  LIFE,
  LINKS_BACK,
  LINKS_BEAT,
  LINKS_BEGINS,
  LINKS_CHOSEN,
  LINKS_COLUMNS,
  LINKS_COUNT,
  LINKS_COUNTS,
  LINKS_DISTANCE,
  LINKS_FADE,
  LINKS_GLITCH,
  LINKS_GRID,
  LINKS_GROW,
  LINKS_HOLD,
  LINKS_LINKED,
  LINKS_MOST,
  LINKS_NEAR,
  LINKS_OLD_COUNT,
  LINKS_OTHERS,
  LINKS_OTHER_COUNT,
  LINKS_OUT,
  LINKS_OWN,
  LINKS_PART,
  LINKS_PIECE,
  LINKS_PIECES,
  LINKS_SEED,
  LINK_BYTES,
  LINK_END,
  LINK_FROM,
  LINK_ID,
  LINK_PIECE_BYTES,
  LINK_PIECE_MADE,
  LINK_PIECE_OLD,
  LINK_PIECE_OUT,
  LINK_PRESENCE,
  LINK_REST,
  LINK_ROW,
  LINK_TO,
  LINK_TO_ROW,
  PHASE,
  PX,
  PY,
  PZ,
  SEED,
} from './layout'
import { beginLookingUp, firstFrom, goToLink, link, nextLink } from './linkRuns'
import { hash3, unit } from './math'

/** Of the hashes that say which are left out for a moment. */
const GLITCH_STREAM: u32 = 72

/** Bytes of a row of nearest others. */
// @ts-ignore: decorator
@inline export function rowBytes(most: i32): usize {
  return (<usize>((most + 3) & ~3)) << 2
}
// @ts-ignore: decorator
@inline function stopped(job: usize): bool {
  return atomic.load<u32>(<usize>load<u32>(job + JOB_STOP)) != 0
}
/** Whom each is linked to: those near it that it is near to, too; of one system each pair once, at the one that comes first. */
export function linkMutual(job: usize): void {
  const r = <usize>load<u32>(job + JOB_RECORD)
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK),
    most = load<i32>(r + LINKS_MOST),
    own = load<u32>(r + LINKS_OWN) != 0
  const wide = rowBytes(most)
  const near = <usize>load<u32>(r + LINKS_NEAR),
    back = <usize>load<u32>(r + LINKS_BACK),
    linked = <usize>load<u32>(r + LINKS_LINKED),
    counts = <usize>load<u32>(r + LINKS_COUNTS),
    chosen = <usize>load<u32>(r + LINKS_CHOSEN),
    grid = <usize>load<u32>(r + LINKS_GRID)
  const order = grid ? <usize>load<u32>(grid + GRID_ORDER) : 0,
    places = back + <usize>load<i32>(r + LINKS_OTHER_COUNT) * wide
  while (!stopped(job)) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let s = begin, end = min(begin + chunk, count); s < end; s++) {
      const i = order ? load<i32>(order + ((<usize>s) << 2)) : s
      const list = near + <usize>s * wide,
        out = linked + <usize>i * wide
      let n: usize = 0
      if (!chosen || load<u8>(chosen + <usize>i)) {
        // Branch-free: whether one comes later, and whether both are near each other, are coin tosses. Of one system each pair is of the first of both.
        const after = own ? i : -1
        let later: usize = 0
        for (let k: usize = 0, last = (<usize>most) << 2; k < last; k += 4) {
          const j = load<i32>(list + k)
          store<i32>(out + later, j)
          later += (<usize>(j > after ? 1 : 0)) << 2
        }
        const self = i32x4.splat(i)
        for (let k: usize = 0; k < later; k += 4) {
          const j = load<i32>(out + k)
          const theirs = back + <usize>load<i32>(places + ((<usize>j) << 2)) * wide
          let is = i32x4.eq(v128.load(theirs), self)
          for (let m: usize = 16; m < wide; m += 16) is = v128.or(is, i32x4.eq(v128.load(theirs + m), self))
          store<i32>(out + n, j)
          n += (<usize>((v128.any_true(is) ? 1 : 0) & (!own || !chosen || load<u8>(chosen + <usize>j) ? 1 : 0))) << 2
        }
        // By the second: there are few.
        for (let k: usize = 4; k < n; k += 4) {
          const j = load<i32>(out + k)
          let at = k
          for (; at > 0 && load<i32>(out + at - 4) > j; at -= 4) store<i32>(out + at, load<i32>(out + at - 4))
          store<i32>(out + at, j)
        }
      }
      store<u32>(counts + ((<usize>i) << 2), <u32>(n >> 2))
    }
  }
}
/** The row of an id, −1 for one that is gone; `hint`: its row a while ago, and nobody moves back. */
function rowOf(ids: usize, count: i32, id: u32, hint: i32): i32 {
  if (hint >= 0 && hint < count && load<u32>(ids + ((<usize>hint) << 2)) == id) return hint
  let low = 0,
    high = hint >= 0 ? min(hint, count) : count
  while (low < high) {
    const middle = (low + high) >> 1
    if (load<u32>(ids + ((<usize>middle) << 2)) < id) low = middle + 1
    else high = middle
  }
  return low < count && load<u32>(ids + ((<usize>low) << 2)) == id ? low : -1
}
/** Where the pieces begin, each with room for all that may come of it. Returns how many links are found. */
export function linkBegins(r: usize): i32 {
  const count = load<i32>(r + LINKS_COUNT),
    piece = load<i32>(r + LINKS_PIECE),
    pieces = load<i32>(r + LINKS_PIECES),
    oldCount = load<i32>(r + LINKS_OLD_COUNT)
  const counts = <usize>load<u32>(r + LINKS_COUNTS),
    ids = column(<usize>load<u32>(r + LINKS_COLUMNS), ID)
  let at = <usize>load<u32>(r + LINKS_BEGINS)
  let found: i32 = 0
  beginLookingUp()
  for (let c = 0; c <= pieces; c++, at += LINK_PIECE_BYTES) {
    const i = c * piece
    const before = c == 0 ? 0 : c == pieces || i >= count ? oldCount : firstFrom(r, load<u32>(ids + ((<usize>i) << 2)))
    store<i32>(at, before, LINK_PIECE_OLD)
    store<i32>(at, before + found, LINK_PIECE_OUT)
    for (let k = i, end = min(i + piece, count); k < end && c < pieces; k++) found += load<i32>(counts + ((<usize>k) << 2))
  }
  return found
}
// @ts-ignore: decorator
@inline function putPlace(px: usize, py: usize, pz: usize, row: i32, to: usize): void {
  if (row < 0) return
  const o = (<usize>row) << 2
  store<f32>(to, load<f32>(px + o))
  store<f32>(to, load<f32>(py + o), 4)
  store<f32>(to, load<f32>(pz + o), 8)
}
/** How far apart two places are, m. */
// @ts-ignore: decorator
@inline function apart(a: usize, b: usize): f32 {
  const x = load<f32>(a) - load<f32>(b),
    y = load<f32>(a, 4) - load<f32>(b, 4),
    z = load<f32>(a, 8) - load<f32>(b, 8)
  return Mathf.sqrt(x * x + y * y + z * z)
}
/** Links that are there grow, those that are not fade: both lists are sorted, and go side by side. */
export function linkMerge(job: usize): void {
  const r = <usize>load<u32>(job + JOB_RECORD)
  const pieces = load<i32>(r + LINKS_PIECES),
    begins = <usize>load<u32>(r + LINKS_BEGINS)
  while (!stopped(job)) {
    const c = atomic.add<i32>(job + JOB_NEXT, 1)
    if (c >= pieces) return
    mergePiece(r, c, begins + <usize>c * LINK_PIECE_BYTES)
  }
}
function mergePiece(r: usize, c: i32, at: usize): void {
  const columns = <usize>load<u32>(r + LINKS_COLUMNS),
    others = <usize>load<u32>(r + LINKS_OTHERS),
    count = load<i32>(r + LINKS_COUNT),
    otherCount = load<i32>(r + LINKS_OTHER_COUNT)
  const ids = column(columns, ID),
    otherIds = column(others, ID),
    counts = <usize>load<u32>(r + LINKS_COUNTS),
    linked = <usize>load<u32>(r + LINKS_LINKED),
    wide = rowBytes(load<i32>(r + LINKS_MOST))
  const px = column(columns, PX),
    py = column(columns, PY),
    pz = column(columns, PZ),
    qx = column(others, PX),
    qy = column(others, PY),
    qz = column(others, PZ)
  const grow = load<f32>(r + LINKS_GROW),
    fade = load<f32>(r + LINKS_FADE),
    hold = load<f32>(r + LINKS_HOLD)
  const firstOld = load<i32>(at + LINK_PIECE_OLD)
  // Links of the frame before that are still to come.
  let waits = load<i32>(at + LINK_PIECE_BYTES + LINK_PIECE_OLD) - firstOld,
    out = <usize>load<u32>(r + LINKS_OUT) + <usize>load<i32>(at + LINK_PIECE_OUT) * LINK_BYTES
  if (waits) goToLink(r, firstOld)
  const first = out
  const piece = load<i32>(r + LINKS_PIECE)
  // Of the particle at hand: its links from here to there, its id, and where it is.
  let i = c * piece - 1,
    k: usize = 0,
    last: usize = 0,
    id: u64 = 0,
    ends = i32x4.splat(0),
    place = f32x4.splat(0)
  const end = min(c * piece + piece, count)
  while (true) {
    while (k == last && i < end) {
      if (++i == end) break
      const o = (<usize>i) << 2
      k = linked + <usize>i * wide
      last = k + ((<usize>load<u32>(counts + o)) << 2)
      id = <u64>load<u32>(ids + o)
      ends = i32x4.replace_lane(i32x4.splat(i), 0, <i32>id)
      place = v128.load32_lane(pz + o, v128.load32_lane(py + o, v128.load32_zero(px + o), 1), 2)
    }
    const finds = i < end
    if (!finds && waits == 0) break
    // The one that is found comes first, or the one that was there, or they are one and the same. Both are sorted by a key with the first id above.
    const before = waits ? rotl(load<u64>(link), 32) : u64.MAX_VALUE
    let presence: f32
    if (finds) {
      const other = load<i32>(k),
        o = (<usize>other) << 2,
        to = load<u32>(otherIds + o),
        key = (id << 32) | <u64>to
      if (key <= before) {
        k += 4
        const there = v128.load32_lane(qz + o, v128.load32_lane(qy + o, v128.load32_zero(qx + o), 1), 2),
          known = key == before && waits != 0
        const head = known ? v128.load(link, LINK_PRESENCE) : f32x4.splat(0)
        presence = min(<f32>1, known ? f32x4.extract_lane(head, 0) + grow : grow)
        if (known && --waits) nextLink(r)
        v128.store(out, i32x4.replace_lane(i32x4.replace_lane(ends, 1, to), 3, other))
        v128.store(out, v128.shuffle<i32>(f32x4.replace_lane(head, 0, presence), place, 0, 1, 4, 5), LINK_PRESENCE)
        v128.store(out, v128.shuffle<i32>(place, there, 2, 4, 5, 6), LINK_FROM + 8)
        if (!known) store<f32>(out + LINK_REST, apart(out + LINK_FROM, out + LINK_END))
        if (presence > 0) out += LINK_BYTES
        continue
      }
    }
    for (let q: usize = 0; q < LINK_BYTES; q += 16) v128.store(out + q, v128.load(link + q))
    const row = rowOf(ids, count, load<u32>(link + LINK_ID), load<i32>(link + LINK_ROW)),
      other = rowOf(otherIds, otherCount, load<u32>(link + LINK_TO), load<i32>(link + LINK_TO_ROW))
    store<i32>(out + LINK_ROW, row)
    store<i32>(out + LINK_TO_ROW, other)
    putPlace(px, py, pz, row, out + LINK_FROM)
    putPlace(qx, qy, qz, other, out + LINK_END)
    const was = load<f32>(link + LINK_PRESENCE)
    // One that is kept holds while it is not stretched too far.
    const holds = hold > 0 && row >= 0 && other >= 0 && apart(out + LINK_FROM, out + LINK_END) <= load<f32>(link + LINK_REST) * hold
    presence = holds ? min(<f32>1, was + grow) : was - fade
    store<f32>(out + LINK_PRESENCE, presence)
    if (--waits) nextLink(r)
    if (presence > 0) out += LINK_BYTES
  }
  store<i32>(at + LINK_PIECE_MADE, <i32>((out - first) / LINK_BYTES))
}
/** The strips of a frame: whose each is, and its two points where its ends are now, or were last. */
export function linkBuild(job: usize): void {
  const r = <usize>load<u32>(job + JOB_RECORD)
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  const columns = <usize>load<u32>(r + LINKS_COLUMNS),
    others = <usize>load<u32>(r + LINKS_OTHERS),
    rows = load<i32>(r + LINKS_COUNT),
    otherRows = load<i32>(r + LINKS_OTHER_COUNT)
  const part = <usize>load<u32>(r + LINKS_PART),
    bytes = (<usize>count) << 2,
    strips = part + bytes + 4,
    points = strips + 6 * bytes
  const distance = load<f32>(r + LINKS_DISTANCE),
    seed = load<u32>(r + LINKS_SEED),
    beat = load<u32>(r + LINKS_BEAT),
    glitch = load<f32>(r + LINKS_GLITCH)
  while (true) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    goToLink(r, begin)
    for (let n = begin, end = min(begin + chunk, count); n < end; n++) {
      if (n > begin) nextLink(r)
      const l = link,
        o = (<usize>n) << 2,
        id = load<u32>(l + LINK_ID),
        to = load<u32>(l + LINK_TO)
      const row = rowOf(column(columns, ID), rows, id, load<i32>(l + LINK_ROW)),
        other = rowOf(column(others, ID), otherRows, to, load<i32>(l + LINK_TO_ROW))
      const at = (<usize>max(0, row)) << 2,
        there = row >= 0
      const out = glitch > 0 && unit(hash3(hash3(seed, id, to), beat, GLITCH_STREAM)) < glitch
      store<u32>(part + o, (<u32>n) << 1)
      let s = strips + o
      store<u32>(s, id)
      s += bytes
      store<u32>(s, there ? load<u32>(column(columns, SEED) + at) : id)
      s += bytes
      store<u32>(s, there ? load<u32>(column(columns, PHASE) + at) : 0)
      s += bytes
      store<f32>(s, there ? load<f32>(column(columns, AGE) + at) : <f32>0)
      s += bytes
      store<f32>(s, there ? load<f32>(column(columns, LIFE) + at) : <f32>1)
      s += bytes
      store<f32>(s, out ? <f32>0 : load<f32>(l + LINK_PRESENCE))
      const x0 = there ? load<f32>(column(columns, PX) + at) : load<f32>(l + LINK_FROM),
        y0 = there ? load<f32>(column(columns, PY) + at) : load<f32>(l + LINK_FROM + 4),
        z0 = there ? load<f32>(column(columns, PZ) + at) : load<f32>(l + LINK_FROM + 8)
      const b = (<usize>max(0, other)) << 2,
        has = other >= 0
      const x1 = has ? load<f32>(column(others, PX) + b) : load<f32>(l + LINK_END),
        y1 = has ? load<f32>(column(others, PY) + b) : load<f32>(l + LINK_END + 4),
        z1 = has ? load<f32>(column(others, PZ) + b) : load<f32>(l + LINK_END + 8)
      const metres = Mathf.sqrt((x0 - x1) * (x0 - x1) + (y0 - y1) * (y0 - y1) + (z0 - z1) * (z0 - z1))
      // Over the distance at which they part, not along it.
      const along = min(<f32>1, metres / distance)
      let p = points + (o << 1)
      pair(p, x0, x1)
      p += bytes << 1
      pair(p, y0, y1)
      p += bytes << 1
      pair(p, z0, z1)
      p += bytes << 1
      pair(p, along, along)
      p += bytes << 1
      pair(p, 0, metres)
    }
  }
}
// @ts-ignore: decorator
@inline function pair(at: usize, a: f32, b: f32): void {
  store<f32>(at, a)
  store<f32>(at, b, 4)
}
