// How much of a gas is in the way of the surroundings, for cells of 4³ voxels. The ways are those on which cells lie: the six sides and the eight
// corners of a cube, so that one sweep for each adds up all of them, cell by cell.
import {
  MARCH_ABOVE,
  MARCH_BELOW,
  MARCH_DIMS,
  MARCH_DIMS0,
  MARCH_ROWS,
  MARCH_SHADE,
  MARCH_SKY,
  MARCH_SKY_BYTES,
  MARCH_SLABS,
} from './layout'
import { exp2x4, LOG2E } from './math'

/** Voxels from one cell to the next: along an edge, and across through a corner. */
const EDGE: f32 = 4
const CORNER: f32 = 6.92820323
/** The step of a way along each axis: −1, 0 or 1. */
// @ts-ignore: decorator
@inline function wayX(d: i32): i32 {
  return d < 2 || d > 5 ? (d & 1) * 2 - 1 : 0
}
// @ts-ignore: decorator
@inline function wayY(d: i32): i32 {
  return d > 5 ? ((d >> 1) & 1) * 2 - 1 : d > 1 && d < 4 ? (d & 1) * 2 - 1 : 0
}
// @ts-ignore: decorator
@inline function wayZ(d: i32): i32 {
  return d > 9 ? 1 : d > 5 ? -1 : d > 3 ? (d & 1) * 2 - 1 : 0
}
/** What is in the way from every cell in direction `d`, by the trapezoidal rule from the far side on. */
export function skyWay(m: usize, d: i32): void {
  const row = load<i32>(m + MARCH_ROWS + 8),
    slab = load<i32>(m + MARCH_SLABS + 8)
  const nx = load<i32>(m + MARCH_DIMS) >> 2,
    ny = load<i32>(m + MARCH_DIMS + 4) >> 2,
    nz = load<i32>(m + MARCH_DIMS + 8) >> 2
  const bytes = <usize>load<u32>(m + MARCH_SKY_BYTES)
  const dims = <usize>load<u32>(m + MARCH_DIMS0 + 8),
    sky = <usize>load<u32>(m + MARCH_SKY) + <usize>d * bytes
  memory.fill(sky, 0, bytes)
  const sx = wayX(d),
    sy = wayY(d),
    sz = wayZ(d)
  const next = (sx + sy * row + sz * slab) << 2,
    length: f32 = (d < 6 ? EDGE : CORNER) * <f32>0.5
  for (let kk = 0; kk < nz; kk++)
    for (let jj = 0; jj < ny; jj++) {
      const j = sy > 0 ? ny - jj : jj + 1,
        k = sz > 0 ? nz - kk : kk + 1
      const at = (1 + j * row + k * slab) << 2
      if (sy == 0 && sz == 0) {
        let i = sx > 0 ? at + ((nx - 1) << 2) : at,
          sum: f32 = 0,
          before: f32 = 0
        for (let n = 0; n < nx; n++, i -= next) {
          const by = load<f32>(dims + i)
          sum += length * (by + before)
          store<f32>(sky + i, sum)
          before = by
        }
        continue
      }
      // What is written beyond the row is the cells around it, in which nothing is; they are cleared behind the last of the row.
      for (let i = at, end = at + (nx << 2); i < end; i += 16) {
        const by = f32x4.add(v128.load(dims + i), v128.load(dims + i + next))
        v128.store(sky + i, f32x4.add(v128.load(sky + i + next), f32x4.mul(f32x4.splat(length), by)))
      }
      for (let i = at + (nx << 2), end = at + (((nx + 3) & ~3) << 2); i < end; i += 4) store<f32>(sky + i, 0)
    }
}
// @ts-ignore: decorator
@inline function four(sky: usize, bytes: usize, shade: v128): v128 {
  const ways = f32x4(load<f32>(sky), load<f32>(sky + bytes), load<f32>(sky + 2 * bytes), load<f32>(sky + 3 * bytes))
  return exp2x4(f32x4.mul(shade, ways))
}
// @ts-ignore: decorator
@inline function sum4(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
}
// @ts-ignore: decorator
@inline function colour(r: usize): v128 {
  return f32x4(load<f32>(r), load<f32>(r, 4), load<f32>(r, 8), 0)
}
/** The light of the surroundings that reaches a cell at `at` floats of its grid, on the mean over all ways: above by one colour, below by another. */
export function skyOf(m: usize, at: usize): v128 {
  const bytes = <usize>load<u32>(m + MARCH_SKY_BYTES),
    sky = <usize>load<u32>(m + MARCH_SKY) + (at << 2),
    shade = f32x4.splat(-LOG2E * load<f32>(m + MARCH_SHADE))
  const sides = four(sky, bytes, shade),
    // The last two are the first corners: both go up.
    mixed = four(sky + 4 * bytes, bytes, shade),
    // Two down, two up; the last two go down.
    corners = four(sky + 8 * bytes, bytes, shade),
    last = exp2x4(f32x4.mul(shade, f32x4(load<f32>(sky + 12 * bytes), load<f32>(sky + 13 * bytes), 0, 0)))
  // How much of a way looks up: half and half its share of the vertical.
  const up = sum4(
      f32x4.add(
        f32x4.add(f32x4.mul(sides, f32x4(0.5, 0.5, 0, 1)), f32x4.mul(mixed, f32x4(0.5, 0.5, 0.788675135, 0.788675135))),
        f32x4.add(
          f32x4.mul(corners, f32x4(0.211324865, 0.211324865, 0.788675135, 0.788675135)),
          f32x4.mul(last, f32x4(0.211324865, 0.211324865, 0, 0)),
        ),
      ),
    ),
    all = sum4(f32x4.add(f32x4.add(sides, mixed), f32x4.add(corners, f32x4.mul(last, f32x4(1, 1, 0, 0)))))
  return f32x4.mul(
    f32x4.add(f32x4.mul(colour(m + MARCH_ABOVE), f32x4.splat(up)), f32x4.mul(colour(m + MARCH_BELOW), f32x4.splat(all - up))),
    f32x4.splat(<f32>1 / 14),
  )
}
