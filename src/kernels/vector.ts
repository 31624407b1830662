// Vectors of four particles at once.

/** The same number four times. */
// @ts-ignore: decorator
@inline export function all(x: f32): v128 {
  return f32x4.splat(x)
}
// @ts-ignore: decorator
@inline export function dot(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(ax, bx), f32x4.mul(ay, by)), f32x4.mul(az, bz))
}
/** A row of a 3x4 matrix times a place. */
// @ts-ignore: decorator
@inline export function row4(m: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.add(f32x4.mul(v128.load32_splat(m), x), f32x4.mul(v128.load32_splat(m, 4), y)), f32x4.mul(v128.load32_splat(m, 8), z)),
    v128.load32_splat(m, 12),
  )
}
/** From a to b, a share of the way. */
// @ts-ignore: decorator
@inline export function between(a: v128, b: v128, share: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), share))
}
/** Four lanes: x, y, z and something. */
// @ts-ignore: decorator
@inline export function vec(x: f32, y: f32, z: f32, w: f32): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(x), 1, y), 2, z), 3, w)
}
