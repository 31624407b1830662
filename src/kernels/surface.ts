// Surfaces that attract, limits by how near one is and by its regions; and places of a surface as targets.
import { closestPoint } from './closest'
import { placeOn, row } from './collider'
import { col } from './columns'
import { biased, profile } from './fields'
import {
  AU,
  AV,
  COLLIDER_FLAGS,
  COLLIDER_FROM,
  COLLIDER_HASH,
  COLLIDER_IN0,
  COLLIDER_INDICES,
  COLLIDER_LEAVES,
  COLLIDER_NODES,
  COLLIDER_OUT0,
  COLLIDER_OUT1,
  COLLIDER_SCALE,
  COLLIDER_TO,
  COLLIDER_TRIANGLES,
  HELD,
  LIMIT_NEAR_BEYOND,
  LIMIT_NEAR_BIAS,
  LIMIT_NEAR_FALLOFF,
  LIMIT_NEAR_OUTSIDE,
  LIMIT_NEAR_PER_SECOND,
  LIMIT_NEAR_PER_SOFT,
  LIMIT_NEAR_REACH,
  LIMIT_NEAR_RECORD,
  LIMIT_REGION_AMOUNTS,
  LIMIT_REGION_OUTSIDE,
  LIMIT_REGION_RECORD,
  NEAREST_SLOT,
  NEAREST_U,
  NEAREST_V,
  NEAREST_X,
  PX,
  PY,
  PZ,
  SCRATCH_HIT,
  SCRATCH_STACK,
  SURFACE_PULL_FALLOFF,
  SURFACE_PULL_PER_REACH,
  SURFACE_PULL_PER_SECOND,
  SURFACE_PULL_REACH,
  SURFACE_PULL_RECORD,
  SURFACE_PULL_STRENGTH,
  TRIANGLE,
  VX,
  VY,
  VZ,
} from './layout'
import { isBehind } from './side'

// A target, at `out`: place at the start of the substep xyz, velocity xyz, the surface's normal there xyz (towards the particle's side).
export const T_V: usize = 12,
  T_N: usize = 24
/** A place on the triangle of a surface as a target; `spot` is room for six words. */
export function onSurface(s: usize, triangle: u32, u: f32, v: f32, per: f32, spot: usize, out: usize): void {
  placeOn(s, <usize>load<u32>(s + COLLIDER_FROM), triangle, u, v, spot)
  placeOn(s, <usize>load<u32>(s + COLLIDER_TO), triangle, u, v, spot + 12)
  between(s, spot, per, out)
}
/** From places in own space at both ends, at `spot` and 12 behind it. */
// @ts-ignore: decorator
@inline export function between(s: usize, spot: usize, per: f32, out: usize): void {
  for (let a: usize = 0; a < 3; a++) {
    const p = row(s + COLLIDER_OUT0, a, load<f32>(spot), load<f32>(spot, 4), load<f32>(spot, 8))
    store<f32>(out + (a << 2), p)
    store<f32>(out + T_V + (a << 2), (row(s + COLLIDER_OUT1, a, load<f32>(spot, 12), load<f32>(spot, 16), load<f32>(spot, 20)) - p) * per)
  }
}
/** The nearest place of a surface within `reach` metres; false when there is none. */
export function nearestOn(s: usize, x: f32, y: f32, z: f32, reach: f32, per: f32, stack: usize, hit: usize, out: usize): bool {
  const m = s + COLLIDER_IN0
  const qx = row(m, 0, x, y, z),
    qy = row(m, 1, x, y, z),
    qz = row(m, 2, x, y, z)
  const spot = hit + 256
  let side: f32 = 1
  if (load<u32>(s) == 1) {
    const far = reach * load<f32>(s + COLLIDER_SCALE)
    if (Mathf.abs(qy) > far) return false
    side = qy < 0 ? -1 : 1
    store<u32>(hit, 0, NEAREST_SLOT)
    store<f32>(hit, qx, NEAREST_U)
    store<f32>(hit, qz, NEAREST_V)
    onSurface(s, 0, qx, qz, per, spot, out)
  } else {
    const far = min(reach * load<f32>(s + COLLIDER_SCALE), <f32>1e15)
    store<f32>(hit, far * far)
    store<u32>(hit, 0xffffffff, NEAREST_SLOT)
    const nodes = <usize>load<u32>(s + COLLIDER_NODES),
      leaves = <usize>load<u32>(s + COLLIDER_LEAVES)
    if (!closestPoint(nodes, leaves, qx, qy, qz, stack, hit)) return false
    side = isBehind(nodes, leaves, qx, qy, qz, stack, hit) ? -1 : 1
    const triangle = load<u32>(<usize>load<u32>(s + COLLIDER_TRIANGLES) + ((<usize>load<u32>(hit, NEAREST_SLOT)) << 2))
    store<u32>(hit, triangle, NEAREST_SLOT)
    if (load<u32>(s + COLLIDER_FLAGS) & 4) onSurface(s, triangle, load<f32>(hit, NEAREST_U), load<f32>(hit, NEAREST_V), per, spot, out)
    else {
      for (let a: usize = 0; a < 12; a += 4) {
        const q = load<f32>(hit + a, NEAREST_X)
        store<f32>(spot + a, q)
        store<f32>(spot + a, q, 12)
      }
      between(s, spot, per, out)
    }
  }
  // Away from it, or on it the side it was on.
  let nx = x - load<f32>(out),
    ny = y - load<f32>(out, 4),
    nz = z - load<f32>(out, 8)
  const d = Mathf.sqrt(nx * nx + ny * ny + nz * nz)
  if (d > 1e-6) {
    store<f32>(out, nx / d, T_N)
    store<f32>(out, ny / d, T_N + 4)
    store<f32>(out, nz / d, T_N + 8)
  } else {
    store<f32>(out, 0, T_N)
    store<f32>(out, 0, T_N + 4)
    store<f32>(out, 0, T_N + 8)
  }
  store<f32>(out, side, T_N + 12)
  return true
}
/** Towards the nearest place of a surface, or away. */
export function surfacePull(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const stack = scratch + SCRATCH_STACK,
    hit = scratch + SCRATCH_HIT
  const s = <usize>load<u32>(op + SURFACE_PULL_RECORD)
  const strength = load<f32>(op + SURFACE_PULL_STRENGTH),
    inverse = load<f32>(op + SURFACE_PULL_PER_REACH),
    kind = load<i32>(op + SURFACE_PULL_FALLOFF),
    reach = load<f32>(op + SURFACE_PULL_REACH),
    per = load<f32>(op + SURFACE_PULL_PER_SECOND)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin),
    vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const out = hit + 192
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const share = load<f32>(shares + o)
    if (share == 0) continue
    const x = load<f32>(px + o),
      y = load<f32>(py + o),
      z = load<f32>(pz + o)
    if (!nearestOn(s, x, y, z, reach, per, stack, hit, out)) continue
    const dx = load<f32>(out) - x,
      dy = load<f32>(out, 4) - y,
      dz = load<f32>(out, 8) - z
    const d = Mathf.sqrt(dx * dx + dy * dy + dz * dz)
    const k =
      (load<f32>(dts + o) * share * strength * f32x4.extract_lane(profile(kind, f32x4.splat(1 - d * inverse)), 0)) / max(d, <f32>1e-6)
    store<f32>(vx + o, load<f32>(vx + o) + dx * k)
    store<f32>(vy + o, load<f32>(vy + o) + dy * k)
    store<f32>(vz + o, load<f32>(vz + o) + dz * k)
  }
}
/**
 * Limits the forces behind it to an object's own shape and what is near it; without a record it is nowhere.
 */
export function limitNear(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const stack = scratch + SCRATCH_STACK,
    hit = scratch + SCRATCH_HIT
  const s = <usize>load<u32>(op + LIMIT_NEAR_RECORD)
  const kind = load<i32>(op + LIMIT_NEAR_FALLOFF),
    inverse = load<u32>(op + LIMIT_NEAR_OUTSIDE) == 1,
    edge = load<f32>(op + LIMIT_NEAR_PER_SOFT),
    beyond = load<f32>(op + LIMIT_NEAR_BEYOND),
    reach = load<f32>(op + LIMIT_NEAR_REACH),
    per = load<f32>(op + LIMIT_NEAR_PER_SECOND),
    bias = load<f32>(op + LIMIT_NEAR_BIAS)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const out = hit + 192
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    if (load<f32>(amounts + o) == 0) continue
    const x = load<f32>(px + o),
      y = load<f32>(py + o),
      z = load<f32>(pz + o)
    let a: f32 = 0
    if (s && nearestOn(s, x, y, z, reach, per, stack, hit, out)) {
      const dx = load<f32>(out) - x,
        dy = load<f32>(out, 4) - y,
        dz = load<f32>(out, 8) - z
      const inside = beyond - load<f32>(out, T_N + 12) * Mathf.sqrt(dx * dx + dy * dy + dz * dz)
      a = f32x4.extract_lane(biased(profile(kind, f32x4.splat(min(inside * edge, <f32>1))), f32x4.splat(bias)), 0)
    }
    store<f32>(amounts + o, load<f32>(amounts + o) * (inverse ? <f32>1 - a : a))
  }
}
/** By the amount of a region where a particle keeps its place on the object. */
export function limitRegion(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const s = <usize>load<u32>(op + LIMIT_REGION_RECORD),
    region = <usize>load<u32>(op + LIMIT_REGION_AMOUNTS),
    inverse = load<u32>(op + LIMIT_REGION_OUTSIDE) == 1
  const hash = s ? load<u32>(s + COLLIDER_HASH) : 0
  const held = col(columns, HELD, begin),
    triangles = col(columns, TRIANGLE, begin),
    au = col(columns, AU, begin),
    av = col(columns, AV, begin)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    let a: f32 = 0
    if (s && load<u32>(held + o) == hash) {
      a = 1
      if (region && load<u32>(s) == 0) {
        const i = <usize>load<u32>(s + COLLIDER_INDICES) + <usize>load<u32>(triangles + o) * 12
        const u = load<f32>(au + o),
          v = load<f32>(av + o)
        a =
          (1 - u - v) * load<f32>(region + ((<usize>load<u32>(i)) << 2)) +
          u * load<f32>(region + ((<usize>load<u32>(i, 4)) << 2)) +
          v * load<f32>(region + ((<usize>load<u32>(i, 8)) << 2))
      }
    }
    store<f32>(amounts + o, load<f32>(amounts + o) * (inverse ? <f32>1 - a : a))
  }
}
