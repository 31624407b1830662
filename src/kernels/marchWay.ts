// What is in the way of light through a gas, and the direction it comes from.
import { MARCH_DIMS, MARCH_DIMS0, MARCH_LIGHT_PLACE, MARCH_LIGHT_SUN, MARCH_ROWS, MARCH_SLABS } from './layout'

/** Behind so much nothing is seen. */
const DARK: f32 = 12

/** 1.5 · 2²³: added to less than 2²², it leaves whole numbers in the lowest bits. */
const ROUND: f32 = 12582912
/** Of pairs of cells, two a vector, the first of each, and the second. */
// @ts-ignore: decorator
@inline function firsts(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 2, 4, 6)
}
// @ts-ignore: decorator
@inline function seconds(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 1, 3, 5, 7)
}
// @ts-ignore: decorator
@inline function mixed(a: v128, b: v128, f: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f))
}
/** Between two cells that lie side by side, of four places at bytes a, b, c and d. */
// @ts-ignore: decorator
@inline function row4(a: usize, b: usize, c: usize, d: usize, f: v128): v128 {
  const ab = v128.load64_lane(b, v128.load64_zero(a), 1),
    cd = v128.load64_lane(d, v128.load64_zero(c), 1)
  return mixed(firsts(ab, cd), seconds(ab, cd), f)
}
/** What dims at four places in voxels, from the means of a level. */
// @ts-ignore: decorator
@inline export function dims4(m: usize, level: usize, x: v128, y: v128, z: v128): v128 {
  const per = f32x4.splat(level == 0 ? <f32>1 : level == 1 ? <f32>0.5 : <f32>0.25),
    half = f32x4.splat(0.5)
  // Cells are counted from the middle of the first: rounding gives the one before. By the bits of a sum, which is quicker than to truncate.
  const cx = f32x4.mul(x, per),
    cy = f32x4.mul(y, per),
    cz = f32x4.mul(z, per)
  const rx = f32x4.add(cx, f32x4.splat(ROUND)),
    ry = f32x4.add(cy, f32x4.splat(ROUND)),
    rz = f32x4.add(cz, f32x4.splat(ROUND))
  const row = load<i32>(m + MARCH_ROWS + (level << 2)),
    slab = load<i32>(m + MARCH_SLABS + (level << 2))
  const whole = i32x4.splat(0x3fffff)
  const i = v128.and(rx, whole),
    j = v128.and(ry, whole),
    k = v128.and(rz, whole)
  const fx = f32x4.add(f32x4.sub(cx, f32x4.sub(rx, f32x4.splat(ROUND))), half),
    fy = f32x4.add(f32x4.sub(cy, f32x4.sub(ry, f32x4.splat(ROUND))), half),
    fz = f32x4.add(f32x4.sub(cz, f32x4.sub(rz, f32x4.splat(ROUND))), half)
  const at = i32x4.shl(i32x4.add(i, i32x4.add(i32x4.mul(j, i32x4.splat(row)), i32x4.mul(k, i32x4.splat(slab)))), 2)
  const base = <usize>load<u32>(m + MARCH_DIMS0 + (level << 2))
  const a = base + <usize>i32x4.extract_lane(at, 0),
    b = base + <usize>i32x4.extract_lane(at, 1),
    c = base + <usize>i32x4.extract_lane(at, 2),
    d = base + <usize>i32x4.extract_lane(at, 3)
  const S = (<usize>row) << 2,
    P = (<usize>slab) << 2,
    Q = S + P
  const near = mixed(row4(a, b, c, d, fx), row4(a + S, b + S, c + S, d + S, fx), fy),
    far = mixed(row4(a + P, b + P, c + P, d + P, fx), row4(a + Q, b + Q, c + Q, d + Q, fx), fy)
  return mixed(near, far, fz)
}
/**
 * How much is in the way from a place in a direction, between two lengths in voxels (the first a multiple of 8): near in fine steps, far in coarse
 * ones of coarser means, four at once; none finer than the level `least`, and from `wider`
 * voxels on in steps of two cells.
 */
export function through(
  m: usize,
  x: f32,
  y: f32,
  z: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  from: f32,
  length: f32,
  least: usize,
  wider: f32,
): f32 {
  const nx = f32x4.splat(<f32>load<i32>(m + MARCH_DIMS)),
    ny = f32x4.splat(<f32>load<i32>(m + MARCH_DIMS + 4)),
    nz = f32x4.splat(<f32>load<i32>(m + MARCH_DIMS + 8)),
    zero = f32x4.splat(0),
    count = f32x4(0, 1, 2, 3)
  let sum: f32 = 0,
    t = from
  while (t < length && sum < DARK) {
    const level: usize = max(least, <usize>(t < 8 ? 0 : t < 32 ? 1 : 2))
    const step: f32 = level == 0 ? 1 : level == 1 ? 2 : t < wider ? 4 : 8
    const begins = f32x4.add(f32x4.splat(t), f32x4.mul(count, f32x4.splat(step)))
    const wide = f32x4.max(zero, f32x4.min(f32x4.splat(step), f32x4.sub(f32x4.splat(length), begins)))
    const s = f32x4.add(begins, f32x4.mul(f32x4.splat(0.5), wide))
    const px = f32x4.add(f32x4.splat(x), f32x4.mul(f32x4.splat(dx), s)),
      py = f32x4.add(f32x4.splat(y), f32x4.mul(f32x4.splat(dy), s)),
      pz = f32x4.add(f32x4.splat(z), f32x4.mul(f32x4.splat(dz), s))
    // Who has left the window does not come back.
    const inside = v128.and(
      v128.and(v128.and(f32x4.gt(px, zero), f32x4.lt(px, nx)), v128.and(f32x4.gt(py, zero), f32x4.lt(py, ny))),
      v128.and(f32x4.gt(pz, zero), f32x4.lt(pz, nz)),
    )
    if (!v128.any_true(inside)) break
    const dims = dims4(m, level, f32x4.min(f32x4.max(px, zero), nx), f32x4.min(f32x4.max(py, zero), ny), f32x4.min(f32x4.max(pz, zero), nz))
    const all = v128.and(f32x4.mul(dims, wide), inside)
    sum += f32x4.extract_lane(all, 0) + f32x4.extract_lane(all, 1) + (f32x4.extract_lane(all, 2) + f32x4.extract_lane(all, 3))
    t += 4 * step
  }
  return sum
}
/** The direction to a light, as `towards` found it, of this thread, and how far it is in voxels. */
export let toX: f32 = 0
export let toY: f32 = 0
export let toZ: f32 = 0
export let toFar: f32 = 0
export function towards(l: usize, x: f32, y: f32, z: f32): void {
  toX = load<f32>(l + MARCH_LIGHT_PLACE)
  toY = load<f32>(l + MARCH_LIGHT_PLACE + 4)
  toZ = load<f32>(l + MARCH_LIGHT_PLACE + 8)
  toFar = 1e9
  if (load<u32>(l + MARCH_LIGHT_SUN)) return
  toX -= x
  toY -= y
  toZ -= z
  toFar = Mathf.sqrt(toX * toX + toY * toY + toZ * toZ) + <f32>1e-6
  const per: f32 = 1 / toFar
  toX *= per
  toY *= per
  toZ *= per
}
