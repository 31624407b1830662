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
// @ts-ignore: decorator
@inline export function sample(field: usize, at: usize, row: usize, slab: usize): v128 {
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
// @ts-ignore: decorator
@inline export function sampleBetween(field: usize, at: usize, row: usize, slab: usize, least: usize, largest: usize): v128 {
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
/** Whether four places that `locate` has found lie each in the cell beyond that of the one before: what they come from then stands side by side. */
// @ts-ignore: decorator
@inline export function inLine(at: usize): bool {
  return i32x4.all_true(i32x4.eq(v128.load(at), i32x4.add(v128.load32_splat(at), i32x4(0, 4, 8, 12))))
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
