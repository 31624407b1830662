import { LEAF_BYTES, NODE_BYTES } from './layout'

// Segment casts against a 4-wide bounding volume hierarchy. engine/geometry/bvh.ts builds it.
// Node, 128 bytes: lo x y z, hi x y z (four lanes each), four children (>= 0 node, < 0 leaf ~child), padding.
// Leaf, 144 bytes: v0 x y z, e1 x y z, e2 x y z (four lanes each; a short leaf repeats its last triangle).
// A hit record: t, normal x y z (not unit), in scratch.

/** Overlap of neighbouring triangles in barycentric units: closes the gaps at grazing angles. */
const OVERLAP: f32 = 1e-4
// @ts-ignore: decorator
@inline function safeInverse(v: f32): f32 {
  return <f32>1.0 / (Mathf.abs(v) > 1e-20 ? v : <f32>1e-20)
}
/** Möller and Trumbore 1997 on four triangles. Front faces only, or both when `both`; keeps the nearest in `hit`. */
// @ts-ignore: decorator
@inline function testLeaf(leaf: usize, ox: v128, oy: v128, oz: v128, dx: v128, dy: v128, dz: v128, both: bool, hit: usize): void {
  const ax = v128.load(leaf, 48),
    ay = v128.load(leaf, 64),
    az = v128.load(leaf, 80)
  const bx = v128.load(leaf, 96),
    by = v128.load(leaf, 112),
    bz = v128.load(leaf, 128)
  const sx = f32x4.sub(ox, v128.load(leaf)),
    sy = f32x4.sub(oy, v128.load(leaf, 16)),
    sz = f32x4.sub(oz, v128.load(leaf, 32))
  const px = f32x4.sub(f32x4.mul(dy, bz), f32x4.mul(dz, by)),
    py = f32x4.sub(f32x4.mul(dz, bx), f32x4.mul(dx, bz)),
    pz = f32x4.sub(f32x4.mul(dx, by), f32x4.mul(dy, bx))
  const det = f32x4.add(f32x4.add(f32x4.mul(ax, px), f32x4.mul(ay, py)), f32x4.mul(az, pz))
  const inv = f32x4.div(f32x4.splat(1), det)
  const qx = f32x4.sub(f32x4.mul(sy, az), f32x4.mul(sz, ay)),
    qy = f32x4.sub(f32x4.mul(sz, ax), f32x4.mul(sx, az)),
    qz = f32x4.sub(f32x4.mul(sx, ay), f32x4.mul(sy, ax))
  const u = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(sx, px), f32x4.mul(sy, py)), f32x4.mul(sz, pz)), inv)
  const v = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(dx, qx), f32x4.mul(dy, qy)), f32x4.mul(dz, qz)), inv)
  const s = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(bx, qx), f32x4.mul(by, qy)), f32x4.mul(bz, qz)), inv)
  const zero = f32x4.splat(0),
    low = f32x4.splat(-OVERLAP)
  let ok = v128.and(v128.and(f32x4.ge(u, low), f32x4.ge(v, low)), f32x4.le(f32x4.add(u, v), f32x4.splat(1 + OVERLAP)))
  ok = v128.and(ok, v128.and(f32x4.ge(s, zero), f32x4.lt(s, v128.load32_splat(hit))))
  ok = v128.and(ok, both ? f32x4.ne(det, zero) : f32x4.gt(det, zero))
  let mask = i32x4.bitmask(ok)
  if (mask == 0) return
  v128.store(hit, s, 64)
  v128.store(hit, f32x4.lt(det, zero), 80)
  while (mask) {
    const i = <usize>ctz(mask)
    mask &= mask - 1
    const t = load<f32>(hit + (i << 2), 64)
    if (t >= load<f32>(hit)) continue
    const l = leaf + (i << 2)
    const e1x = load<f32>(l, 48),
      e1y = load<f32>(l, 64),
      e1z = load<f32>(l, 80)
    const e2x = load<f32>(l, 96),
      e2y = load<f32>(l, 112),
      e2z = load<f32>(l, 128)
    const side: f32 = load<u32>(hit + (i << 2), 80) != 0 ? -1 : 1
    store<f32>(hit, t)
    store<f32>(hit, side * (e1y * e2z - e1z * e2y), 4)
    store<f32>(hit, side * (e1z * e2x - e1x * e2z), 8)
    store<f32>(hit, side * (e1x * e2y - e1y * e2x), 12)
  }
}
/** Nearest hit on o + t·d with t below what `hit` already holds; true when there is one. */
export function castMesh(
  nodes: usize,
  leaves: usize,
  both: bool,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  stack: usize,
  hit: usize,
): bool {
  const ix = safeInverse(dx),
    iy = safeInverse(dy),
    iz = safeInverse(dz)
  // Byte offsets of the near and far face on each axis, chosen once.
  const nx: usize = ix < 0 ? 48 : 0,
    ny: usize = iy < 0 ? 64 : 16,
    nz: usize = iz < 0 ? 80 : 32
  const fx: usize = 48 - nx,
    fy: usize = 80 - ny,
    fz: usize = 112 - nz
  const vox = f32x4.splat(ox),
    voy = f32x4.splat(oy),
    voz = f32x4.splat(oz)
  const vdx = f32x4.splat(dx),
    vdy = f32x4.splat(dy),
    vdz = f32x4.splat(dz)
  const vix = f32x4.splat(ix),
    viy = f32x4.splat(iy),
    viz = f32x4.splat(iz)
  const before = load<f32>(hit)
  const zero = f32x4.splat(0),
    slack = f32x4.splat(1.00001)
  let top: usize = stack
  let node: usize = nodes
  while (true) {
    const x0 = f32x4.mul(f32x4.sub(v128.load(node + nx), vox), vix),
      x1 = f32x4.mul(f32x4.sub(v128.load(node + fx), vox), vix)
    const y0 = f32x4.mul(f32x4.sub(v128.load(node + ny), voy), viy),
      y1 = f32x4.mul(f32x4.sub(v128.load(node + fy), voy), viy)
    const z0 = f32x4.mul(f32x4.sub(v128.load(node + nz), voz), viz),
      z1 = f32x4.mul(f32x4.sub(v128.load(node + fz), voz), viz)
    const near = f32x4.pmax(f32x4.pmax(x0, y0), f32x4.pmax(z0, zero))
    const far = f32x4.pmin(f32x4.pmin(x1, y1), f32x4.pmin(z1, v128.load32_splat(hit)))
    let mask = i32x4.bitmask(f32x4.le(near, f32x4.mul(far, slack)))
    while (mask) {
      const child = load<i32>(node + ((<usize>ctz(mask)) << 2), 96)
      mask &= mask - 1
      if (child >= 0) {
        store<u32>(top, <u32>child)
        top += 4
      } else testLeaf(leaves + <usize>~child * LEAF_BYTES, vox, voy, voz, vdx, vdy, vdz, both, hit)
    }
    if (top == stack) break
    top -= 4
    node = nodes + <usize>load<u32>(top) * NODE_BYTES
  }
  return load<f32>(hit) < before
}
