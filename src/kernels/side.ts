// On which side of a mesh a point is, once its nearest place is known.
import { LEAF_BYTES, NEAREST_HEIGHT, NEAREST_SLOT, NEAREST_U, NEAREST_V, NEAREST_X, NEAREST_Y, NEAREST_Z, NODE_BYTES } from './layout'

/** A place this near to an edge or a corner is on it: in shares of the triangle, and of its longest edge. */
const ON: f32 = 1e-4
const PI: f32 = 3.14159265

/** The angle whose cosine is c, to 7e-5 (Abramowitz and Stegun 4.4.45). */
// @ts-ignore: decorator
@inline function angleOf(c: f32): f32 {
  const x = min(Mathf.abs(c), <f32>1)
  const a = Mathf.sqrt(1 - x) * (<f32>1.5707288 + x * (<f32>-0.2121144 + x * (<f32>0.074261 - x * <f32>0.0187293)))
  return c < 0 ? PI - a : a
}
/** Squared distance of (x, y, z), from an edge's start, to the edge. */
// @ts-ignore: decorator
@inline function offEdge(x: f32, y: f32, z: f32, ex: f32, ey: f32, ez: f32): f32 {
  const ee = ex * ex + ey * ey + ez * ez
  const t = min(max((x * ex + y * ey + z * ez) / max(ee, <f32>1e-30), <f32>0), <f32>1)
  const dx = x - ex * t,
    dy = y - ey * t,
    dz = z - ez * t
  return dx * dx + dy * dy + dz * dz
}
/** Whether a lane repeats the one before it, as the last of a leaf does to fill it. */
// @ts-ignore: decorator
@inline function again(leaf: usize): bool {
  for (let c = leaf; c < leaf + 144; c += 16) if (load<f32>(c) != load<f32>(c - 4)) return false
  return true
}
/** The angle between two edges. */
// @ts-ignore: decorator
@inline function between(ax: f32, ay: f32, az: f32, bx: f32, by: f32, bz: f32): f32 {
  const size = Mathf.sqrt((ax * ax + ay * ay + az * az) * (bx * bx + by * by + bz * bz))
  return size > 0 ? angleOf((ax * bx + ay * by + az * bz) / size) : 0
}
/**
 * Whether a point is behind the mesh, by its nearest place, which `hit` holds (NEAREST). On a face its height says it; on an edge or a
 * corner no single face does, but the sum of the normals of all around, each by its angle there (Baerentzen and Aanaes 2005).
 * `stack`: 4 KB.
 */
export function isBehind(nodes: usize, leaves: usize, x: f32, y: f32, z: f32, stack: usize, hit: usize): bool {
  if (load<u32>(hit, NEAREST_SLOT) == 0xffffffff) return false
  const u = load<f32>(hit, NEAREST_U),
    v = load<f32>(hit, NEAREST_V)
  if (u > ON && v > ON && u + v < 1 - ON) return load<f32>(hit, NEAREST_HEIGHT) < 0
  const px = load<f32>(hit, NEAREST_X),
    py = load<f32>(hit, NEAREST_Y),
    pz = load<f32>(hit, NEAREST_Z)
  const slot = load<u32>(hit, NEAREST_SLOT)
  const own = leaves + <usize>(slot >> 2) * LEAF_BYTES + ((<usize>(slot & 3)) << 2)
  // How far around the place to look: as far as the triangle found is taken to reach.
  let reach: f32 = 0
  for (let c: usize = 48; c < 144; c += 16) reach = max(reach, Mathf.abs(load<f32>(own + c)))
  reach = max(reach * ON, <f32>1e-6 * (Mathf.abs(px) + Mathf.abs(py) + Mathf.abs(pz)))
  let nx: f32 = 0,
    ny: f32 = 0,
    nz: f32 = 0
  const lowX = f32x4.splat(px - reach),
    lowY = f32x4.splat(py - reach),
    lowZ = f32x4.splat(pz - reach)
  const highX = f32x4.splat(px + reach),
    highY = f32x4.splat(py + reach),
    highZ = f32x4.splat(pz + reach)
  let top: usize = stack
  let node: usize = nodes
  while (true) {
    let ok = v128.and(f32x4.le(v128.load(node), highX), f32x4.ge(v128.load(node, 48), lowX))
    ok = v128.and(ok, v128.and(f32x4.le(v128.load(node, 16), highY), f32x4.ge(v128.load(node, 64), lowY)))
    ok = v128.and(ok, v128.and(f32x4.le(v128.load(node, 32), highZ), f32x4.ge(v128.load(node, 80), lowZ)))
    for (let mask = i32x4.bitmask(ok); mask; mask &= mask - 1) {
      const child = load<i32>(node + ((<usize>ctz(mask)) << 2), 96)
      if (child >= 0) {
        store<u32>(top, <u32>child)
        top += 4
        continue
      }
      for (let lane: usize = 0; lane < 16; lane += 4) {
        const leaf = leaves + <usize>~child * LEAF_BYTES + lane
        if (lane && again(leaf)) continue
        const ax = load<f32>(leaf, 48),
          ay = load<f32>(leaf, 64),
          az = load<f32>(leaf, 80)
        const bx = load<f32>(leaf, 96),
          by = load<f32>(leaf, 112),
          bz = load<f32>(leaf, 128)
        let mx = ay * bz - az * by,
          my = az * bx - ax * bz,
          mz = ax * by - ay * bx
        const size = Mathf.sqrt(mx * mx + my * my + mz * mz)
        if (!(size > 0)) continue
        const qx = px - load<f32>(leaf),
          qy = py - load<f32>(leaf, 16),
          qz = pz - load<f32>(leaf, 32)
        const near = reach * reach
        const cx = bx - ax,
          cy = by - ay,
          cz = bz - az
        const ux = qx - ax,
          uy = qy - ay,
          uz = qz - az
        const wx = qx - bx,
          wy = qy - by,
          wz = qz - bz
        let weight: f32 = 0
        if (qx * qx + qy * qy + qz * qz <= near) weight = between(ax, ay, az, bx, by, bz)
        else if (ux * ux + uy * uy + uz * uz <= near) weight = between(-ax, -ay, -az, cx, cy, cz)
        else if (wx * wx + wy * wy + wz * wz <= near) weight = between(-bx, -by, -bz, -cx, -cy, -cz)
        else if (
          offEdge(qx, qy, qz, ax, ay, az) <= near ||
          offEdge(qx, qy, qz, bx, by, bz) <= near ||
          offEdge(ux, uy, uz, cx, cy, cz) <= near
        )
          weight = PI
        else continue
        weight /= size
        mx *= weight
        my *= weight
        mz *= weight
        nx += mx
        ny += my
        nz += mz
      }
    }
    if (top == stack) break
    top -= 4
    node = nodes + <usize>load<u32>(top) * NODE_BYTES
  }
  const side = nx * (x - px) + ny * (y - py) + nz * (z - pz)
  return side == 0 ? load<f32>(hit, NEAREST_HEIGHT) < 0 : side < 0
}
