// The nearest of the others around a particle.
import { inRanges } from './grid'
import { GRID_ORDER, GRID_SORTED, GRID_STRIDE, PASS_COUNT, PASS_OUT, PASS_WORDS } from './layout'
import { rowBytes } from './links'

/** Added to the bits of a distance², so that as the high word of a number they make none that is denormal, and slow. */
const NORMAL: i32 = 1 << 20
/** As a distance: there is nobody. Above every other. */
const NOBODY: i32 = 0x7fe00000
/** Bytes of the scratch that ranges take. What follows: candidates in columns of x, y, z and their places; the table of shuffles; distances and places of those within the radius; two lists of the nearest. */
const RANGES: usize = 1024
/** Most candidates of a cell that are copied; where there are more they are looked at in their ranges. */
const MOST_COPIED: i32 = 512
const COLUMN: usize = 2064
const LANES: usize = RANGES + 4 * COLUMN
const FAR: usize = LANES + 256
/** Bytes of the distances that are kept before only the nearest of them stay. */
const ROOM: usize = 4096
const WHO: usize = FAR + ROOM + 32
const LISTS: usize = WHO + ROOM + 32

/** Fills the table of byte shuffles that move the lanes of a mask to the front. */
export function fillCompaction(list: usize): void {
  for (let mask: usize = 0; mask < 16; mask++) {
    let to = list + LANES + (mask << 4)
    for (let lane: u32 = 0; lane < 4; lane++)
      if ((mask >> lane) & 1) {
        store<u32>(to, 0x03020100 + lane * 0x04040404)
        to += 4
      }
    for (const end = list + LANES + (mask << 4) + 16; to < end; to += 4) store<u32>(to, 0x80808080)
  }
}
/**
 * Copies the candidates around a cell side by side: all particles of the cell share them. Returns the bytes of a column; 0: they are
 * too many.
 */
export function gatherCandidates(g: usize, list: usize, pairs: i32): usize {
  if (inRanges(list, pairs) > MOST_COPIED) return 0
  const stride = <usize>load<u32>(g + GRID_STRIDE),
    sx = <usize>load<u32>(g + GRID_SORTED),
    sy = sx + stride,
    sz = sy + stride,
    order = <usize>load<u32>(g + GRID_ORDER)
  let to = list + RANGES
  for (let at = list, last = list + ((<usize>pairs) << 3); at < last; at += 8) {
    const begin = (<usize>load<i32>(at)) << 2,
      end = (<usize>load<i32>(at, 4)) << 2
    // What is copied beyond the end of one range the next one lies upon.
    for (let o = begin, t = to; o < end; o += 16, t += 16) {
      v128.store(t, v128.load(sx + o))
      v128.store(t + COLUMN, v128.load(sy + o))
      v128.store(t + 2 * COLUMN, v128.load(sz + o))
      v128.store(t + 3 * COLUMN, v128.load(order + o))
    }
    to += end - begin
  }
  // The last vector is padded with places beyond any radius.
  v128.store(to, f32x4.splat(1e30))
  return to - (list + RANGES)
}
/**
 * The nearest of those within a radius, at equal distances those that come first. Words of the pass: radius² (m²), how many (at most 16). Leaves
 * their places among the columns of those who are asked in no order, −1 where there are fewer, in a row of whole vectors; rows stand in the order
 * of the grid, and behind them the row of each particle. `copied`: what gatherCandidates returned for its cell.
 *
 * The bits of a distance², which sort as it does, above a place make a number: to be kept in order such numbers need no branch.
 */
export function closest(
  p: usize,
  g: usize,
  s: i32,
  i: i32,
  own: bool,
  x: f32,
  y: f32,
  z: f32,
  list: usize,
  pairs: i32,
  copied: usize,
): void {
  const most = <i32>load<f32>(p + PASS_WORDS, 4),
    limit = load<f32>(p + PASS_WORDS),
    self = own ? i : -1
  let found: usize = 0
  if (copied) {
    const c = list + RANGES
    found = within(c, c + COLUMN, c + 2 * COLUMN, c + 3 * COLUMN, 0, copied, limit, self, x, y, z, list, 0, most)
  } else {
    const stride = <usize>load<u32>(g + GRID_STRIDE),
      sx = <usize>load<u32>(g + GRID_SORTED),
      order = <usize>load<u32>(g + GRID_ORDER)
    for (let at = list, last = list + ((<usize>pairs) << 3); at < last; at += 8) {
      const begin = (<usize>load<i32>(at)) << 2,
        end = (<usize>load<i32>(at, 4)) << 2
      found = within(sx, sx + stride, sx + stride + stride, order, begin, end, limit, self, x, y, z, list, found, most)
    }
  }
  const wide = rowBytes(most),
    rows = <usize>load<u32>(p + PASS_OUT),
    out = rows + <usize>s * wide
  found = keepNearest(list, found, most)
  for (let k: usize = 0; k < wide; k += 16) {
    const none = i32x4.ge_s(i32x4(0, 4, 8, 12), i32x4.splat(<i32>found - <i32>k))
    v128.store(out + k, v128.or(v128.load(list + WHO + k), none))
  }
  store<i32>(rows + <usize>load<i32>(p + PASS_COUNT) * wide + ((<usize>i) << 2), s)
}
/** Adds those within the radius, of columns from a byte to another, four at a time without a branch. Returns the bytes of their distances. */
// @ts-ignore: decorator
@inline function within(
  sx: usize,
  sy: usize,
  sz: usize,
  order: usize,
  begin: usize,
  end: usize,
  limit: f32,
  self: i32,
  x: f32,
  y: f32,
  z: f32,
  list: usize,
  before: usize,
  most: i32,
): usize {
  const qx = f32x4.splat(x),
    qy = f32x4.splat(y),
    qz = f32x4.splat(z),
    rr = f32x4.splat(limit),
    me = i32x4.splat(self)
  let found = before
  for (let o = begin; o < end; o += 16) {
    const dx = f32x4.sub(v128.load(sx + o), qx),
      dy = f32x4.sub(v128.load(sy + o), qy),
      dz = f32x4.sub(v128.load(sz + o), qz)
    const dd = f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)),
      who = v128.load(order + o)
    let mask = i32x4.bitmask(v128.andnot(f32x4.le(dd, rr), i32x4.eq(who, me)))
    if (end - o < 16) mask &= (1 << (<i32>((end - o) >> 2))) - 1
    const lanes = v128.load(list + LANES + ((<usize>mask) << 4))
    v128.store(list + FAR + found, i8x16.swizzle(dd, lanes))
    v128.store(list + WHO + found, i8x16.swizzle(who, lanes))
    found += (<usize>popcnt(mask)) << 2
    if (found > ROOM) found = keepNearest(list, found, most)
  }
  return found
}
/** The nearest of all that were found come to the front, in no order. Returns how many bytes. */
// @ts-ignore: decorator
@inline function keepNearest(list: usize, found: usize, most: i32): usize {
  if (found <= (<usize>most) << 2) return found
  v128.store(list + FAR + found, i32x4.splat(NOBODY - NORMAL))
  if (most <= 6) nearestSix(list, found)
  else if (most <= 8) nearestEight(list, found)
  else {
    nearestSixteen(list, found)
    return (<usize>most) << 2
  }
  // Of two sorted lists the nearest are the less of each, with the other from its end.
  const a = list + LISTS,
    last = (<usize>(most - 1)) << 4
  for (let k: usize = 0, o: usize = 0; o <= last; k += 4, o += 16) {
    const one = load<u64>(a + o),
      other = load<u64>(a + last - o, 8)
    const key = one < other ? one : other
    store<u32>(list + WHO + k, <u32>key)
    store<u32>(list + FAR + k, <u32>(key >> 32) - NORMAL)
  }
  return (<usize>most) << 2
}
/** Two keys at a byte of those that were found: a list each of the ones that are even and odd among them. */
// @ts-ignore: decorator
@inline function twoKeys(list: usize, at: usize): v128 {
  const far = i32x4.add(v128.load64_zero(list + FAR + at), i32x4.splat(NORMAL))
  return v128.shuffle<i32>(v128.load64_zero(list + WHO + at), far, 0, 4, 1, 5)
}
/** As nearestEight; two steps fewer for each of those that were found. */
function nearestSix(list: usize, found: usize): void {
  const nobody = i32x4(-1, NOBODY, -1, NOBODY)
  let a = nobody,
    b = nobody,
    c = nobody,
    d = nobody,
    e = nobody,
    f = nobody
  for (let at: usize = 0; at < found; at += 8) {
    let k = twoKeys(list, at),
      m = f64x2.pmin(a, k)
    k = f64x2.pmax(a, k)
    a = m
    m = f64x2.pmin(b, k)
    k = f64x2.pmax(b, k)
    b = m
    m = f64x2.pmin(c, k)
    k = f64x2.pmax(c, k)
    c = m
    m = f64x2.pmin(d, k)
    k = f64x2.pmax(d, k)
    d = m
    m = f64x2.pmin(e, k)
    k = f64x2.pmax(e, k)
    e = m
    f = f64x2.pmin(f, k)
  }
  const out = list + LISTS
  v128.store(out, a)
  v128.store(out, b, 16)
  v128.store(out, c, 32)
  v128.store(out, d, 48)
  v128.store(out, e, 64)
  v128.store(out, f, 80)
}
function nearestEight(list: usize, found: usize): void {
  const nobody = i32x4(-1, NOBODY, -1, NOBODY)
  let a = nobody,
    b = nobody,
    c = nobody,
    d = nobody,
    e = nobody,
    f = nobody,
    g = nobody,
    h = nobody
  for (let at: usize = 0; at < found; at += 8) {
    let k = twoKeys(list, at),
      m = f64x2.pmin(a, k)
    k = f64x2.pmax(a, k)
    a = m
    m = f64x2.pmin(b, k)
    k = f64x2.pmax(b, k)
    b = m
    m = f64x2.pmin(c, k)
    k = f64x2.pmax(c, k)
    c = m
    m = f64x2.pmin(d, k)
    k = f64x2.pmax(d, k)
    d = m
    m = f64x2.pmin(e, k)
    k = f64x2.pmax(e, k)
    e = m
    m = f64x2.pmin(f, k)
    k = f64x2.pmax(f, k)
    f = m
    m = f64x2.pmin(g, k)
    k = f64x2.pmax(g, k)
    g = m
    h = f64x2.pmin(h, k)
  }
  const out = list + LISTS
  v128.store(out, a)
  v128.store(out, b, 16)
  v128.store(out, c, 32)
  v128.store(out, d, 48)
  v128.store(out, e, 64)
  v128.store(out, f, 80)
  v128.store(out, g, 96)
  v128.store(out, h, 112)
}
/** Too many for the registers: those that are kept stand in the scratch, in their order. */
function nearestSixteen(list: usize, found: usize): void {
  const keys = list + LISTS,
    full = keys + 128
  let kept = keys
  for (let at: usize = 0; at < found; at += 4) {
    const key = ((<u64>load<u32>(list + FAR + at)) << 32) | <u64>load<u32>(list + WHO + at)
    if (kept == full && load<u64>(kept - 8) <= key) continue
    let to = kept < full ? kept : kept - 8
    if (kept < full) kept += 8
    for (; to > keys && load<u64>(to - 8) > key; to -= 8) store<u64>(to, load<u64>(to - 8))
    store<u64>(to, key)
  }
  for (let k: usize = 0; k < 16; k++) {
    const key = load<u64>(keys + (k << 3))
    store<u32>(list + WHO + (k << 2), <u32>key)
    store<u32>(list + FAR + (k << 2), <u32>(key >> 32))
  }
}
