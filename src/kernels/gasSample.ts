// Four places at once in a field of floats: trilinear values, and the bounds of what they come from.

/** What `locate` leaves: byte offsets of four lower corners, and three weights for each. */
const WX: usize = 16,
  WY: usize = 32,
  WZ: usize = 48
export const LOCATED: usize = 64

// @ts-ignore: decorator
@inline export function splat(x: f32): v128 {
  return f32x4.splat(x)
}
/**
 * Less than this is nothing, in any scalar. Moving thins what there is out by a share for each cell, so that a few cells ahead of all that can
 * be seen numbers are denormal, and those take a processor a hundred times as long.
 */
const TRACE: f32 = 1e-9
// @ts-ignore: decorator
@inline export function traced(v: v128): v128 {
  return v128.and(v, f32x4.gt(v, splat(TRACE)))
}
/** The cell below a place along an axis, of places from −1 on. */
// @ts-ignore: decorator
@inline export function below(p: v128, most: i32): v128 {
  const one = i32x4.splat(1)
  return i32x4.min_s(i32x4.sub(i32x4.trunc_sat_f32x4_s(f32x4.add(p, splat(1))), one), i32x4.splat(most - 1))
}
/** Where four places lie among the cells of a field whose lowest and highest index along each axis are lx to mz. */
// @ts-ignore: decorator
@inline export function locate(
  x: v128,
  y: v128,
  z: v128,
  lx: i32,
  ly: i32,
  lz: i32,
  mx: i32,
  my: i32,
  mz: i32,
  row: i32,
  slab: i32,
  out: usize,
): void {
  const px = f32x4.pmin(f32x4.pmax(x, splat(<f32>lx)), splat(<f32>mx)),
    py = f32x4.pmin(f32x4.pmax(y, splat(<f32>ly)), splat(<f32>my)),
    pz = f32x4.pmin(f32x4.pmax(z, splat(<f32>lz)), splat(<f32>mz))
  const i = below(px, mx),
    j = below(py, my),
    k = below(pz, mz)
  v128.store(out, i32x4.shl(i32x4.add(i, i32x4.add(i32x4.mul(j, i32x4.splat(row)), i32x4.mul(k, i32x4.splat(slab)))), 2))
  v128.store(out + WX, f32x4.sub(px, f32x4.convert_i32x4_s(i)))
  v128.store(out + WY, f32x4.sub(py, f32x4.convert_i32x4_s(j)))
  v128.store(out + WZ, f32x4.sub(pz, f32x4.convert_i32x4_s(k)))
}
/** What `placeRow` leaves behind what `locate` does: numbers that hold along a row, four times each, so that no loop works them out again. */
const LOW: usize = 64,
  HIGH: usize = 112,
  ROW: usize = 160,
  SLAB: usize = 176,
  BIAS: usize = 192,
  APART: usize = 208,
  SCALE: usize = 224,
  FIRST: usize = 240,
  ONE: usize = 288,
  WHOLE: usize = 304
/** Added to a whole number of at most 2²² it leaves it in the lowest bits of the sum: cheaper than a conversion that minds what is none. */
const LARGE: f32 = 12582912
const LARGE_BITS: i32 = 0x4b400000

/** For the places that cells of a row come from: `scale` cells for a m/s, between the lowest and the highest of the field along each axis. */
export function placeRow(
  out: usize,
  scale: f32,
  j: i32,
  k: i32,
  lx: i32,
  ly: i32,
  lz: i32,
  mx: i32,
  my: i32,
  mz: i32,
  row: usize,
  slab: usize,
): void {
  v128.store(out + LOW, splat(<f32>lx))
  v128.store(out + LOW + 16, splat(<f32>ly))
  v128.store(out + LOW + 32, splat(<f32>lz))
  v128.store(out + HIGH, splat(<f32>mx))
  v128.store(out + HIGH + 16, splat(<f32>my))
  v128.store(out + HIGH + 32, splat(<f32>mz))
  v128.store(out + ROW, i32x4.splat(<i32>row))
  v128.store(out + SLAB, i32x4.splat(<i32>slab))
  // What the large number and the one that is added below have made of the sum of all three.
  v128.store(out + BIAS, i32x4.splat((LARGE_BITS + 1) * (4 + <i32>row + <i32>slab)))
  v128.store(out + APART, i32x4(0, 4, 8, 12))
  v128.store(out + SCALE, splat(scale))
  v128.store(out + FIRST, f32x4(0, 1, 2, 3))
  v128.store(out + FIRST + 16, splat(<f32>j))
  v128.store(out + FIRST + 32, splat(<f32>k))
  v128.store(out + ONE, splat(1))
  v128.store(out + WHOLE, splat(LARGE))
}
// @ts-ignore: decorator
@inline function clamped(at: usize, axis: usize, p: v128): v128 {
  return f32x4.pmin(f32x4.pmax(v128.load(at + LOW + axis), p), v128.load(at + HIGH + axis))
}
/** The cell below a place, and one more. */
// @ts-ignore: decorator
@inline function above(at: usize, axis: usize, p: v128): v128 {
  return f32x4.pmin(f32x4.floor(f32x4.add(p, v128.load(at + ONE))), v128.load(at + HIGH + axis))
}
/**
 * Where the four cells from `i` on of a row come from with velocities u, v and w: leaves it as `locate` does, number by number. Gives whether
 * they lie each in the cell beyond that of the one before: what they come from then stands side by side.
 */
// @ts-ignore: decorator
@inline export function place(at: usize, i: i32, u: v128, v: v128, w: v128): bool {
  const scale = v128.load(at + SCALE),
    one = v128.load(at + ONE),
    whole = v128.load(at + WHOLE)
  const px = clamped(at, 0, f32x4.add(f32x4.add(splat(<f32>i), v128.load(at + FIRST)), f32x4.mul(u, scale))),
    py = clamped(at, 16, f32x4.add(v128.load(at + FIRST + 16), f32x4.mul(v, scale))),
    pz = clamped(at, 32, f32x4.add(v128.load(at + FIRST + 32), f32x4.mul(w, scale)))
  const x = above(at, 0, px),
    y = above(at, 16, py),
    z = above(at, 32, pz)
  const offsets = i32x4.sub(
    i32x4.add(
      i32x4.shl(f32x4.add(x, whole), 2),
      i32x4.add(i32x4.mul(f32x4.add(y, whole), v128.load(at + ROW)), i32x4.mul(f32x4.add(z, whole), v128.load(at + SLAB))),
    ),
    v128.load(at + BIAS),
  )
  v128.store(at, offsets)
  v128.store(at + WX, f32x4.sub(px, f32x4.sub(x, one)))
  v128.store(at + WY, f32x4.sub(py, f32x4.sub(y, one)))
  v128.store(at + WZ, f32x4.sub(pz, f32x4.sub(z, one)))
  return i32x4.all_true(i32x4.eq(offsets, i32x4.add(v128.load32_splat(at), v128.load(at + APART))))
}
/** Two neighbours of a row, and those of the next. */
// @ts-ignore: decorator
@inline export function quad(q: usize, row: usize): v128 {
  return v128.load64_lane(q + row, v128.load64_zero(q), 1)
}
// @ts-ignore: decorator
@inline function mixed(near: v128, far: v128, at: usize, lane: usize): v128 {
  const a = f32x4.add(near, f32x4.mul(f32x4.sub(far, near), v128.load32_splat(at + WZ + lane)))
  return f32x4.add(a, f32x4.mul(f32x4.sub(i32x4.shuffle(a, a, 2, 3, 6, 7), a), v128.load32_splat(at + WY + lane)))
}
/** Along z and y: what is left between are the values at both ends along x, in the first two lanes. */
// @ts-ignore: decorator
@inline export function edge(field: usize, at: usize, lane: usize, row: usize, slab: usize): v128 {
  const q = field + <usize>load<u32>(at + lane)
  return mixed(quad(q, row), quad(q + slab, row), at, lane)
}
/** Four values of a field, where `locate` says. All in vectors: a scalar minimum costs more than all of the loads. */
export function sample(field: usize, at: usize, row: usize, slab: usize): v128 {
  const p = i32x4.shuffle(edge(field, at, 0, row, slab), edge(field, at, 4, row, slab), 0, 4, 1, 5),
    q = i32x4.shuffle(edge(field, at, 8, row, slab), edge(field, at, 12, row, slab), 0, 4, 1, 5)
  const low = i32x4.shuffle(p, q, 0, 1, 4, 5)
  return f32x4.add(low, f32x4.mul(f32x4.sub(i32x4.shuffle(p, q, 2, 3, 6, 7), low), v128.load(at + WX)))
}
/** Of four corners and the four beyond: the least in the first two lanes, the largest in the last two. */
// @ts-ignore: decorator
@inline function ends(near: v128, far: v128): v128 {
  const low = f32x4.pmin(near, far),
    high = f32x4.pmax(near, far)
  return i32x4.shuffle(
    f32x4.pmin(low, i32x4.shuffle(low, low, 2, 3, 6, 7)),
    f32x4.pmax(high, i32x4.shuffle(high, high, 2, 3, 6, 7)),
    0,
    1,
    4,
    5,
  )
}
/** As `sample`; leaves the least and the largest of the eight values that each comes from. */
export function sampleBetween(field: usize, at: usize, row: usize, slab: usize, least: usize, largest: usize): v128 {
  const q = field + <usize>load<u32>(at),
    r = field + <usize>load<u32>(at, 4),
    s = field + <usize>load<u32>(at, 8),
    t = field + <usize>load<u32>(at, 12)
  const q0 = quad(q, row),
    q1 = quad(q + slab, row),
    r0 = quad(r, row),
    r1 = quad(r + slab, row)
  const e0 = ends(q0, q1),
    e1 = ends(r0, r1),
    p = i32x4.shuffle(mixed(q0, q1, at, 0), mixed(r0, r1, at, 4), 0, 4, 1, 5)
  const s0 = quad(s, row),
    s1 = quad(s + slab, row),
    t0 = quad(t, row),
    t1 = quad(t + slab, row)
  const e2 = ends(s0, s1),
    e3 = ends(t0, t1),
    w = i32x4.shuffle(mixed(s0, s1, at, 8), mixed(t0, t1, at, 12), 0, 4, 1, 5)
  const lowA = i32x4.shuffle(e0, e1, 0, 4, 1, 5),
    lowB = i32x4.shuffle(e2, e3, 0, 4, 1, 5),
    highA = i32x4.shuffle(e0, e1, 2, 6, 3, 7),
    highB = i32x4.shuffle(e2, e3, 2, 6, 3, 7)
  v128.store(least, f32x4.pmin(i32x4.shuffle(lowA, lowB, 0, 1, 4, 5), i32x4.shuffle(lowA, lowB, 2, 3, 6, 7)))
  v128.store(largest, f32x4.pmax(i32x4.shuffle(highA, highB, 0, 1, 4, 5), i32x4.shuffle(highA, highB, 2, 3, 6, 7)))
  const low = i32x4.shuffle(p, w, 0, 1, 4, 5)
  return f32x4.add(low, f32x4.mul(f32x4.sub(i32x4.shuffle(p, w, 2, 3, 6, 7), low), v128.load(at + WX)))
}
// @ts-ignore: decorator
@inline function between(a: v128, b: v128, f: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f))
}
/** The same as `sample`, number by number, of places in line: in a third of the time. */
// @ts-ignore: decorator
@inline export function sampleLine(field: usize, at: usize, row: usize, slab: usize): v128 {
  const q = field + <usize>load<u32>(at),
    wy = v128.load(at + WY),
    wz = v128.load(at + WZ)
  const low = between(between(v128.load(q), v128.load(q + slab), wz), between(v128.load(q + row), v128.load(q + row + slab), wz), wy)
  const high = between(
    between(v128.load(q, 4), v128.load(q + slab, 4), wz),
    between(v128.load(q + row, 4), v128.load(q + row + slab, 4), wz),
    wy,
  )
  return between(low, high, v128.load(at + WX))
}
/** The same as `sampleBetween`. */
// @ts-ignore: decorator
@inline export function sampleLineBetween(field: usize, at: usize, row: usize, slab: usize, least: usize, largest: usize): v128 {
  const q = field + <usize>load<u32>(at),
    wy = v128.load(at + WY),
    wz = v128.load(at + WZ)
  const a0 = v128.load(q),
    b0 = v128.load(q + slab),
    c0 = v128.load(q + row),
    d0 = v128.load(q + row + slab)
  const a1 = v128.load(q, 4),
    b1 = v128.load(q + slab, 4),
    c1 = v128.load(q + row, 4),
    d1 = v128.load(q + row + slab, 4)
  const low0 = f32x4.pmin(f32x4.pmin(a0, b0), f32x4.pmin(c0, d0)),
    low1 = f32x4.pmin(f32x4.pmin(a1, b1), f32x4.pmin(c1, d1))
  v128.store(least, f32x4.pmin(low0, low1))
  const high0 = f32x4.pmax(f32x4.pmax(a0, b0), f32x4.pmax(c0, d0)),
    high1 = f32x4.pmax(f32x4.pmax(a1, b1), f32x4.pmax(c1, d1))
  v128.store(largest, f32x4.pmax(high0, high1))
  return between(
    between(between(a0, b0, wz), between(c0, d0, wz), wy),
    between(between(a1, b1, wz), between(c1, d1, wz), wy),
    v128.load(at + WX),
  )
}
