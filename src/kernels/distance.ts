// A grid of distances to a closed mesh, below zero inside: a rounder, cheaper stand-in for many triangles.
import { closestPoint, N_HEIGHT, N_SLOT } from './closest'
import { JOB_NEXT, JOB_RECORD, JOB_SCRATCH, SCRATCH_BYTES, SCRATCH_HIT, SCRATCH_STACK } from './layout'

// Header: nodes along each axis, low corner, 1/cell, cell (own metres), nodes of the hierarchy, its leaves; then the distances, x first.
const D_DIMS: usize = 0, D_LOW: usize = 12, D_INVERSE: usize = 24, D_CELL: usize = 28, D_NODES: usize = 32, D_LEAVES: usize = 36, D_DATA: usize = 40

/** Fills the slabs of a grid, one z after another from a shared counter. */
export function measure(job: usize, thread: i32): void {
  const d = <usize>load<u32>(job + JOB_RECORD), scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  const hit = scratch + SCRATCH_HIT, stack = scratch + SCRATCH_STACK
  const nx = load<i32>(d + D_DIMS), ny = load<i32>(d + D_DIMS + 4), nz = load<i32>(d + D_DIMS + 8)
  const cell = load<f32>(d + D_CELL), lx = load<f32>(d + D_LOW), ly = load<f32>(d + D_LOW + 4), lz = load<f32>(d + D_LOW + 8)
  const nodes = <usize>load<u32>(d + D_NODES), leaves = <usize>load<u32>(d + D_LEAVES)
  while (true) {
    const k = atomic.add<i32>(job + JOB_NEXT, 1)
    if (k >= nz) return
    let out = d + D_DATA + (((<usize>k) * (<usize>ny) * (<usize>nx)) << 2)
    for (let j = 0; j < ny; j++) {
      let far: f32 = 1e15
      for (let i = 0; i < nx; i++) {
        // The neighbour's distance and a step is as far as one need look.
        store<f32>(hit, far * far)
        store<u32>(hit, 0xffffffff, N_SLOT)
        closestPoint(nodes, leaves, lx + cell * <f32>i, ly + cell * <f32>j, lz + cell * <f32>k, stack, hit)
        const dist = Mathf.sqrt(load<f32>(hit))
        store<f32>(out, load<f32>(hit, N_HEIGHT) < 0 ? -dist : dist)
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
  const nx = load<i32>(d + D_DIMS), ny = load<i32>(d + D_DIMS + 4), nz = load<i32>(d + D_DIMS + 8), inverse = load<f32>(d + D_INVERSE)
  const gx = (x - load<f32>(d + D_LOW)) * inverse, gy = (y - load<f32>(d + D_LOW + 4)) * inverse, gz = (z - load<f32>(d + D_LOW + 8)) * inverse
  const cx = min(max(gx, <f32>0), <f32>(nx - 1) - <f32>0.001), cy = min(max(gy, <f32>0), <f32>(ny - 1) - <f32>0.001), cz = min(max(gz, <f32>0), <f32>(nz - 1) - <f32>0.001)
  const i = <i32>cx, j = <i32>cy, k = <i32>cz
  const fx = cx - <f32>i, fy = cy - <f32>j, fz = cz - <f32>k
  const row = (<usize>nx) << 2, slab = row * <usize>ny
  const p = d + D_DATA + <usize>k * slab + <usize>j * row + ((<usize>i) << 2), q = p + slab
  const a = mix(mix(load<f32>(p), load<f32>(p, 4), fx), mix(load<f32>(p + row), load<f32>(p + row, 4), fx), fy)
  const b = mix(mix(load<f32>(q), load<f32>(q, 4), fx), mix(load<f32>(q + row), load<f32>(q + row, 4), fx), fy)
  const v = mix(a, b, fz)
  const ex = gx - cx, ey = gy - cy, ez = gz - cz
  const out = ex * ex + ey * ey + ez * ez
  return out < 1e-3 ? v : v + Mathf.sqrt(out) * load<f32>(d + D_CELL)
}
/**
 * Lanes whose way may come nearer than r, by what the nearest node says alone: no distance changes faster than the place. Without a branch, so
 * that the loads of many particles are under way at once.
 */
// @ts-ignore: decorator
@inline export function mayMeet(d: usize, x: v128, y: v128, z: v128, ex: v128, ey: v128, ez: v128, r: f32): v128 {
  const nx = load<i32>(d + D_DIMS), ny = load<i32>(d + D_DIMS + 4), nz = load<i32>(d + D_DIMS + 8), inverse = v128.load32_splat(d + D_INVERSE), zero = f32x4.splat(0)
  const gx = f32x4.mul(f32x4.sub(x, v128.load32_splat(d + D_LOW)), inverse), gy = f32x4.mul(f32x4.sub(y, v128.load32_splat(d + D_LOW + 4)), inverse), gz = f32x4.mul(f32x4.sub(z, v128.load32_splat(d + D_LOW + 8)), inverse)
  const cx = f32x4.nearest(f32x4.pmin(f32x4.pmax(gx, zero), f32x4.splat(<f32>(nx - 1)))), cy = f32x4.nearest(f32x4.pmin(f32x4.pmax(gy, zero), f32x4.splat(<f32>(ny - 1)))), cz = f32x4.nearest(f32x4.pmin(f32x4.pmax(gz, zero), f32x4.splat(<f32>(nz - 1))))
  const at = i32x4.add(i32x4.trunc_sat_f32x4_s(cx), i32x4.mul(i32x4.splat(nx), i32x4.add(i32x4.trunc_sat_f32x4_s(cy), i32x4.mul(i32x4.splat(ny), i32x4.trunc_sat_f32x4_s(cz)))))
  const data = d + D_DATA
  const node = v128.load32_lane(data + ((<usize>i32x4.extract_lane(at, 3)) << 2), v128.load32_lane(data + ((<usize>i32x4.extract_lane(at, 2)) << 2), v128.load32_lane(data + ((<usize>i32x4.extract_lane(at, 1)) << 2), v128.load32_zero(data + ((<usize>i32x4.extract_lane(at, 0)) << 2)), 1), 2), 3)
  const ax = f32x4.sub(gx, cx), ay = f32x4.sub(gy, cy), az = f32x4.sub(gz, cz)
  const away = f32x4.mul(f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(ax, ax), f32x4.mul(ay, ay)), f32x4.mul(az, az))), v128.load32_splat(d + D_CELL))
  const ux = f32x4.sub(ex, x), uy = f32x4.sub(ey, y), uz = f32x4.sub(ez, z)
  const length = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(ux, ux), f32x4.mul(uy, uy)), f32x4.mul(uz, uz)))
  return v128.andnot(f32x4.le(f32x4.sub(node, away), f32x4.add(length, f32x4.splat(r))), f32x4.lt(f32x4.add(node, away), zero))
}
/** True when a way cannot come nearer than r: what it begins and ends with says so. Or it begins inside, and goes on. */
export function farFrom(d: usize, x: f32, y: f32, z: f32, ex: f32, ey: f32, ez: f32, r: f32): bool {
  const way = Mathf.sqrt((ex - x) * (ex - x) + (ey - y) * (ey - y) + (ez - z) * (ez - z))
  const a = distanceAt(d, x, y, z)
  return a < 0 || a > way + r || (a > r && a + distanceAt(d, ex, ey, ez) > way + r + r)
}
/**
 * First place on the way from o to o + g where the distance is r: from place to place by the distance (sphere tracing, Hart 1996). One that
 * begins inside goes on as it is. `hit`: out, t (below zero when it begins nearer than r) and the normal, up the distance, at 4.
 */
export function castGrid(d: usize, ox: f32, oy: f32, oz: f32, gx: f32, gy: f32, gz: f32, r: f32, hit: usize): bool {
  const length = Mathf.sqrt(gx * gx + gy * gy + gz * gz), cell = load<f32>(d + D_CELL)
  const before = load<f32>(hit)
  let t: f32 = 0, last: f32 = distanceAt(d, ox, oy, oz)
  if (last < 0) return false
  if (last < r) t = (last - r) * (last + r)
  else {
    const least = cell * <f32>0.05 / max(length, <f32>1e-20)
    let found = false
    for (let k = 0; k < 256; k++) {
      const step = max((last - r) / max(length, <f32>1e-20), least)
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
  const at = max(t, <f32>0), x = ox + gx * at, y = oy + gy * at, z = oz + gz * at, h = cell * <f32>0.5
  const nx = distanceAt(d, x + h, y, z) - distanceAt(d, x - h, y, z), ny = distanceAt(d, x, y + h, z) - distanceAt(d, x, y - h, z), nz = distanceAt(d, x, y, z + h) - distanceAt(d, x, y, z - h)
  const i = <f32>1 / Mathf.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
  const depth = t < 0 ? r - last : <f32>0
  store<f32>(hit, t)
  store<f32>(hit, nx * i, 4); store<f32>(hit, ny * i, 8); store<f32>(hit, nz * i, 12)
  // The place where its middle belongs.
  store<f32>(hit, x + nx * i * depth, 16); store<f32>(hit, y + ny * i * depth, 20); store<f32>(hit, z + nz * i * depth, 24)
  return true
}
