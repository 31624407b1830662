// What grids of four floats a cell say between their cells.

/** Eight cells from the one at `at` on, `S` bytes from row to row and `P` from plane to plane, by shares along each axis. */
// @ts-ignore: decorator
@inline export function blend(at: usize, S: usize, P: usize, fx: v128, fy: v128, fz: v128): v128 {
  let a = v128.load(at),
    b = v128.load(at, 16),
    c = v128.load(at + S),
    d = v128.load(at + S, 16)
  a = f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(at + P), a), fz))
  b = f32x4.add(b, f32x4.mul(f32x4.sub(v128.load(at + P, 16), b), fz))
  c = f32x4.add(c, f32x4.mul(f32x4.sub(v128.load(at + S + P), c), fz))
  d = f32x4.add(d, f32x4.mul(f32x4.sub(v128.load(at + S + P, 16), d), fz))
  a = f32x4.add(a, f32x4.mul(f32x4.sub(c, a), fy))
  b = f32x4.add(b, f32x4.mul(f32x4.sub(d, b), fy))
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
}
/** At one place; `q` counts cells from the one around. */
// @ts-ignore: decorator
@inline export function between(base: usize, row: i32, slab: i32, qx: f32, qy: f32, qz: f32): v128 {
  const i = <i32>qx,
    j = <i32>qy,
    k = <i32>qz
  return blend(
    base + ((<usize>(i + j * row + k * slab)) << 4),
    (<usize>row) << 4,
    (<usize>slab) << 4,
    f32x4.splat(qx - <f32>i),
    f32x4.splat(qy - <f32>j),
    f32x4.splat(qz - <f32>k),
  )
}
