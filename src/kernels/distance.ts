// A grid of distances to a closed mesh, below zero inside: a rounder, cheaper stand-in for many triangles.
import { closestPoint } from './closest'
import {
  DISTANCE_BLOCKS,
  DISTANCE_BYTES,
  DISTANCE_CELL,
  DISTANCE_DIMS,
  DISTANCE_INVERSE,
  DISTANCE_LEAVES,
  DISTANCE_LOW,
  DISTANCE_NODES,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  NEAREST_SLOT,
  SCRATCH_BYTES,
  SCRATCH_HIT,
  SCRATCH_STACK,
} from './layout'
import { isBehind } from './side'

/** Fills the slabs of a grid, one z after another from a shared counter. */
export function measure(job: usize, thread: i32): void {
  const d = <usize>load<u32>(job + JOB_RECORD),
    scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  const hit = scratch + SCRATCH_HIT,
    stack = scratch + SCRATCH_STACK
  const nx = load<i32>(d + DISTANCE_DIMS),
    ny = load<i32>(d + DISTANCE_DIMS + 4),
    nz = load<i32>(d + DISTANCE_DIMS + 8)
  const cell = load<f32>(d + DISTANCE_CELL),
    lx = load<f32>(d + DISTANCE_LOW),
    ly = load<f32>(d + DISTANCE_LOW + 4),
    lz = load<f32>(d + DISTANCE_LOW + 8)
  const nodes = <usize>load<u32>(d + DISTANCE_NODES),
    leaves = <usize>load<u32>(d + DISTANCE_LEAVES)
  while (true) {
    const k = atomic.add<i32>(job + JOB_NEXT, 1)
    if (k >= nz) return
    let out = d + DISTANCE_BYTES + ((<usize>k * <usize>ny * <usize>nx) << 2)
    for (let j = 0; j < ny; j++) {
      let far: f32 = 1e15
      for (let i = 0; i < nx; i++) {
        // The neighbour's distance and a step is as far as one need look.
        store<f32>(hit, far * far)
        store<u32>(hit, 0xffffffff, NEAREST_SLOT)
        closestPoint(nodes, leaves, lx + cell * <f32>i, ly + cell * <f32>j, lz + cell * <f32>k, stack, hit)
        const dist = Mathf.sqrt(load<f32>(hit))
        store<f32>(out, isBehind(nodes, leaves, lx + cell * <f32>i, ly + cell * <f32>j, lz + cell * <f32>k, stack, hit) ? -dist : dist)
        out += 4
        far = dist + cell * <f32>1.01
      }
    }
  }
}
// @ts-ignore: decorator
@inline function mix(a: f32, b: f32, t: f32): f32 {
  return a + (b - a) * t
}
/** The distance at a place, trilinear; outside the grid what is there at its border, and the way to it. */
export function distanceAt(d: usize, x: f32, y: f32, z: f32): f32 {
  // x, y and z in three lanes; what the fourth holds is never looked at.
  const g = f32x4.mul(
    f32x4.sub(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(x), 1, y), 2, z), v128.load(d + DISTANCE_LOW)),
    v128.load32_splat(d + DISTANCE_INVERSE),
  )
  const c = f32x4.pmin(f32x4.pmax(g, f32x4.splat(0)), f32x4.sub(f32x4.convert_i32x4_s(v128.load(d + DISTANCE_DIMS)), f32x4.splat(1.001)))
  const at = i32x4.trunc_sat_f32x4_s(c)
  const f = f32x4.sub(c, f32x4.convert_i32x4_s(at))
  const row = (<usize>load<u32>(d + DISTANCE_DIMS)) << 2,
    slab = row * <usize>load<u32>(d + DISTANCE_DIMS + 4)
  const p =
      d +
      DISTANCE_BYTES +
      <usize>i32x4.extract_lane(at, 2) * slab +
      <usize>i32x4.extract_lane(at, 1) * row +
      ((<usize>i32x4.extract_lane(at, 0)) << 2),
    q = p + slab
  // Pairs along x: of both slabs in one register, first across y, then across z.
  const near = v128.load64_lane(q, v128.load64_zero(p), 1),
    next = v128.load64_lane(q + row, v128.load64_zero(p + row), 1)
  const flat = f32x4.add(near, f32x4.mul(i8x16.shuffle(f, f, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7), f32x4.sub(next, near)))
  const line = f32x4.add(
    flat,
    f32x4.mul(
      i8x16.shuffle(f, f, 8, 9, 10, 11, 8, 9, 10, 11, 8, 9, 10, 11, 8, 9, 10, 11),
      f32x4.sub(i8x16.shuffle(flat, flat, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15), flat),
    ),
  )
  const v = mix(f32x4.extract_lane(line, 0), f32x4.extract_lane(line, 1), f32x4.extract_lane(f, 0))
  const e = f32x4.sub(g, c),
    ee = f32x4.mul(e, e)
  const out = f32x4.extract_lane(ee, 0) + f32x4.extract_lane(ee, 1) + f32x4.extract_lane(ee, 2)
  return out < 1e-3 ? v : v + Mathf.sqrt(out) * load<f32>(d + DISTANCE_CELL)
}
/**
 * Lanes whose way may come nearer than r, by what blocks of two cells say: the nearest that the surface is to any place of one, in half
 * cells. No distance changes faster than the place. A byte each, they stay in the second cache; without a branch the loads of many
 * particles are under way at once.
 */
// @ts-ignore: decorator
@inline export function mayMeet(d: usize, x: v128, y: v128, z: v128, ex: v128, ey: v128, ez: v128, r: f32): v128 {
  const ux = f32x4.sub(ex, x),
    uy = f32x4.sub(ey, y),
    uz = f32x4.sub(ez, z),
    zero = f32x4.splat(0),
    wide = f32x4.splat(r)
  const reach = f32x4.add(f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(ux, ux), f32x4.mul(uy, uy)), f32x4.mul(uz, uz))), wide)
  const from = blockAt(d, x, y, z)
  const near = v128.and(f32x4.ge(reach, from), f32x4.ge(from, zero))
  if (!v128.any_true(near)) return near
  // What is left of the way from both ends: no place of it is nearer than half of what both have and the way has not.
  const to = f32x4.pmax(zero, blockAt(d, ex, ey, ez))
  return v128.and(near, f32x4.ge(f32x4.add(reach, wide), f32x4.add(from, to)))
}
/** Of four places what their blocks say, m, and as far as they are outside the grid, by its box. */
// @ts-ignore: decorator
@inline function blockAt(d: usize, x: v128, y: v128, z: v128): v128 {
  const nx = load<i32>(d + DISTANCE_DIMS),
    ny = load<i32>(d + DISTANCE_DIMS + 4),
    nz = load<i32>(d + DISTANCE_DIMS + 8),
    inverse = v128.load32_splat(d + DISTANCE_INVERSE),
    zero = f32x4.splat(0)
  const bx = nx >> 1,
    by = ny >> 1,
    half = f32x4.splat(0.5),
    edge: f32 = 1.001
  const gx = f32x4.mul(f32x4.sub(x, v128.load32_splat(d + DISTANCE_LOW)), inverse),
    gy = f32x4.mul(f32x4.sub(y, v128.load32_splat(d + DISTANCE_LOW + 4)), inverse),
    gz = f32x4.mul(f32x4.sub(z, v128.load32_splat(d + DISTANCE_LOW + 8)), inverse)
  const cx = f32x4.pmin(f32x4.pmax(gx, zero), f32x4.splat(<f32>nx - edge)),
    cy = f32x4.pmin(f32x4.pmax(gy, zero), f32x4.splat(<f32>ny - edge)),
    cz = f32x4.pmin(f32x4.pmax(gz, zero), f32x4.splat(<f32>nz - edge))
  const at = i32x4.add(
    i32x4.trunc_sat_f32x4_s(f32x4.mul(cx, half)),
    i32x4.mul(
      i32x4.splat(bx),
      i32x4.add(i32x4.trunc_sat_f32x4_s(f32x4.mul(cy, half)), i32x4.mul(i32x4.splat(by), i32x4.trunc_sat_f32x4_s(f32x4.mul(cz, half)))),
    ),
  )
  const data = <usize>load<u32>(d + DISTANCE_BLOCKS)
  const bytes = i32x4.replace_lane(
    i32x4.replace_lane(
      i32x4.replace_lane(
        i32x4.splat(load<i8>(data + <usize>i32x4.extract_lane(at, 0))),
        1,
        load<i8>(data + <usize>i32x4.extract_lane(at, 1)),
      ),
      2,
      load<i8>(data + <usize>i32x4.extract_lane(at, 2)),
    ),
    3,
    load<i8>(data + <usize>i32x4.extract_lane(at, 3)),
  )
  // The farthest along one axis is no farther than the way to the box; rounding is covered by the edge.
  const out = f32x4.pmax(f32x4.abs(f32x4.sub(gx, cx)), f32x4.pmax(f32x4.abs(f32x4.sub(gy, cy)), f32x4.abs(f32x4.sub(gz, cz))))
  const cell = f32x4.splat(load<f32>(d + DISTANCE_CELL))
  return f32x4.add(
    f32x4.mul(f32x4.convert_i32x4_s(bytes), f32x4.mul(cell, half)),
    f32x4.mul(f32x4.pmax(zero, f32x4.sub(out, f32x4.splat(0.01))), cell),
  )
}
/**
 * Of blocks of two cells along each axis: the least distance at their nodes in half cells, rounded down, at most 127; 0 where the surface
 * goes through, −1 where all is inside.
 */
export function sumBlocks(d: usize): void {
  const nx = load<i32>(d + DISTANCE_DIMS),
    ny = load<i32>(d + DISTANCE_DIMS + 4),
    nz = load<i32>(d + DISTANCE_DIMS + 8)
  const bx = nx >> 1,
    by = ny >> 1,
    bz = nz >> 1,
    halves = load<f32>(d + DISTANCE_INVERSE) * 2
  let out = <usize>load<u32>(d + DISTANCE_BLOCKS)
  for (let k = 0; k < bz; k++)
    for (let j = 0; j < by; j++)
      for (let i = 0; i < bx; i++) {
        let low: f32 = 1e30,
          high: f32 = -1e30
        for (let z = k << 1; z <= min((k << 1) + 2, nz - 1); z++)
          for (let y = j << 1; y <= min((j << 1) + 2, ny - 1); y++)
            for (let x = i << 1; x <= min((i << 1) + 2, nx - 1); x++) {
              const v = load<f32>(d + DISTANCE_BYTES + (((<usize>z * ny + y) * nx + x) << 2))
              low = min(low, v)
              high = max(high, v)
            }
        store<i8>(out, low > 0 ? <i8>min(<f32>127, low * halves) : high < 0 ? -1 : 0)
        out++
      }
}
/** True when a way cannot come nearer than r: what it begins and ends with says so. Or it begins inside, and goes on. */
export function farFrom(d: usize, x: f32, y: f32, z: f32, ex: f32, ey: f32, ez: f32, r: f32): bool {
  const reach = Mathf.sqrt((ex - x) * (ex - x) + (ey - y) * (ey - y) + (ez - z) * (ez - z))
  const a = distanceAt(d, x, y, z)
  return a < 0 || a > reach + r || (a > r && a + distanceAt(d, ex, ey, ez) > reach + r + r)
}
/**
 * First place on the way from o to o + g where the distance is r: from place to place by the distance (sphere tracing, Hart 1996). One that
 * begins inside goes on as it is. `hit`: out, t (below zero when it begins nearer than r) and the normal, up the distance, at 4.
 */
export function castGrid(d: usize, ox: f32, oy: f32, oz: f32, gx: f32, gy: f32, gz: f32, r: f32, hit: usize): bool {
  const length = Mathf.sqrt(gx * gx + gy * gy + gz * gz),
    cell = load<f32>(d + DISTANCE_CELL)
  const before = load<f32>(hit)
  let t: f32 = 0,
    last: f32 = distanceAt(d, ox, oy, oz)
  if (last < 0) return false
  if (last < r) t = (last - r) * (last + r)
  else if (length <= cell + cell) {
    // On a way of two cells at most the grid knows no more than its ends and its middle: what slides along the surface takes no small
    // steps.
    let far = distanceAt(d, ox + gx, oy + gy, oz + gz),
      high: f32 = 1
    if (far >= r) {
      if (last + far > length + r + r - <f32>0.1 * cell || far - last > <f32>0.25 * length) return false
      far = distanceAt(d, ox + gx * <f32>0.5, oy + gy * <f32>0.5, oz + gz * <f32>0.5)
      if (far >= r - <f32>0.05 * cell) return false
      high = 0.5
    }
    t = high * ((last - r) / max(last - far, <f32>1e-12))
    const here = distanceAt(d, ox + gx * t, oy + gy * t, oz + gz * t)
    // Once more on the side where it crosses.
    if (here < r) t *= (last - r) / max(last - here, <f32>1e-12)
    else t += (high - t) * ((here - r) / max(here - far, <f32>1e-12))
  } else {
    const minimum = (cell * <f32>0.05) / max(length, <f32>1e-20)
    let found = false
    for (let k = 0; k < 256; k++) {
      const step = max((last - r) / max(length, <f32>1e-20), minimum)
      const next = t + step
      const at = min(next, <f32>1)
      const here = distanceAt(d, ox + gx * at, oy + gy * at, oz + gz * at)
      if (here < r) {
        // Between the two, where it falls to r on a straight line.
        t += (at - t) * ((last - r) / max(last - here, <f32>1e-12))
        found = true
        break
      }
      if (next >= 1) return false
      t = next
      last = here
    }
    if (!found) return false
  }
  if (t >= before) return false
  const at = max(t, <f32>0),
    x = ox + gx * at,
    y = oy + gy * at,
    z = oz + gz * at,
    h = cell * <f32>0.5
  const nx = distanceAt(d, x + h, y, z) - distanceAt(d, x - h, y, z),
    ny = distanceAt(d, x, y + h, z) - distanceAt(d, x, y - h, z),
    nz = distanceAt(d, x, y, z + h) - distanceAt(d, x, y, z - h)
  const i = <f32>1 / Mathf.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
  const depth = t < 0 ? r - last : <f32>0
  store<f32>(hit, t)
  store<f32>(hit, nx * i, 4)
  store<f32>(hit, ny * i, 8)
  store<f32>(hit, nz * i, 12)
  // The place where its middle belongs.
  store<f32>(hit, x + nx * i * depth, 16)
  store<f32>(hit, y + ny * i * depth, 20)
  store<f32>(hit, z + nz * i * depth, 24)
  return true
}
