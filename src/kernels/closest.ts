// The nearest place of a mesh: branch and bound through its hierarchy, four boxes or four triangles at once.
import { LEAF_BYTES, NEAREST_HEIGHT, NEAREST_SLOT, NEAREST_U, NEAREST_V, NEAREST_X, NEAREST_Y, NEAREST_Z, NODE_BYTES } from './layout'
import { dot } from './vector'

/**
 * Of triangles as near as each other (to this part) the one counts that the point stands over most: at an edge the other may show its back.
 */
const TIE: f32 = 1e-5

// @ts-ignore: decorator
@inline function clamp(v: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v))
}

/** True when there is something nearer than `hit` said. `leaves` may be those of either end of a substep. `stack`: 4 KB. */
export function closestPoint(nodes: usize, leaves: usize, x: f32, y: f32, z: f32, stack: usize, hit: usize): bool {
  const px = f32x4.splat(x),
    py = f32x4.splat(y),
    pz = f32x4.splat(z)
  const zero = f32x4.splat(0)
  let found = false
  store<u32>(stack, 0)
  store<f32>(stack, 0, 4)
  let top: usize = stack + 8
  while (top != stack) {
    top -= 8
    if (load<f32>(top, 4) >= load<f32>(hit)) continue
    const child = load<i32>(top)
    if (child < 0) {
      if (nearLeaf(leaves + <usize>~child * LEAF_BYTES, (<u32>~child) << 2, px, py, pz, hit)) found = true
      continue
    }
    const node = nodes + <usize>child * NODE_BYTES
    const dx = f32x4.pmax(zero, f32x4.pmax(f32x4.sub(v128.load(node), px), f32x4.sub(px, v128.load(node, 48))))
    const dy = f32x4.pmax(zero, f32x4.pmax(f32x4.sub(v128.load(node, 16), py), f32x4.sub(py, v128.load(node, 64))))
    const dz = f32x4.pmax(zero, f32x4.pmax(f32x4.sub(v128.load(node, 32), pz), f32x4.sub(pz, v128.load(node, 80))))
    const dd = dot(dx, dy, dz, dx, dy, dz)
    let mask = i32x4.bitmask(f32x4.lt(dd, v128.load32_splat(hit)))
    if (mask == 0) continue
    v128.store(hit, dd, 32)
    // The nearest is looked at next: the others lie below it on the stack.
    let first = -1,
      minimum = load<f32>(hit)
    for (let m = mask; m; m &= m - 1) {
      const i = ctz(m)
      const d = load<f32>(hit + ((<usize>i) << 2), 32)
      if (d < minimum) {
        minimum = d
        first = i
      }
    }
    for (let m = mask; m; m &= m - 1) {
      const i = ctz(m)
      if (i == first) continue
      store<u32>(top, load<u32>(node + ((<usize>i) << 2), 96))
      store<f32>(top, load<f32>(hit + ((<usize>i) << 2), 32), 4)
      top += 8
    }
    if (first >= 0) {
      store<u32>(top, load<u32>(node + ((<usize>first) << 2), 96))
      store<f32>(top, minimum, 4)
      top += 8
    }
  }
  return found
}

/** On four triangles: over the inside the plane, else the nearest of the three edges (after Ericson 2004, without branches). */
// @ts-ignore: decorator
@inline function nearLeaf(leaf: usize, slot: u32, px: v128, py: v128, pz: v128, hit: usize): bool {
  const ax = v128.load(leaf, 48),
    ay = v128.load(leaf, 64),
    az = v128.load(leaf, 80)
  const bx = v128.load(leaf, 96),
    by = v128.load(leaf, 112),
    bz = v128.load(leaf, 128)
  const qx = f32x4.sub(px, v128.load(leaf)),
    qy = f32x4.sub(py, v128.load(leaf, 16)),
    qz = f32x4.sub(pz, v128.load(leaf, 32))
  const one = f32x4.splat(1),
    zero = f32x4.splat(0),
    tiny = f32x4.splat(1e-30)
  const aa = dot(ax, ay, az, ax, ay, az),
    ab = dot(ax, ay, az, bx, by, bz),
    bb = dot(bx, by, bz, bx, by, bz)
  const qa = dot(qx, qy, qz, ax, ay, az),
    qb = dot(qx, qy, qz, bx, by, bz)
  const det = f32x4.sub(f32x4.mul(aa, bb), f32x4.mul(ab, ab))
  const inverse = f32x4.div(one, f32x4.pmax(det, tiny))
  let u = f32x4.mul(f32x4.sub(f32x4.mul(bb, qa), f32x4.mul(ab, qb)), inverse),
    v = f32x4.mul(f32x4.sub(f32x4.mul(aa, qb), f32x4.mul(ab, qa)), inverse)
  const inside = v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), v128.and(f32x4.le(f32x4.add(u, v), one), f32x4.gt(det, tiny)))
  if (i32x4.bitmask(inside) != 15) {
    // Along a; along b; along the third edge, from a's end to b's.
    const s = clamp(f32x4.div(qa, f32x4.pmax(aa, tiny))),
      t = clamp(f32x4.div(qb, f32x4.pmax(bb, tiny)))
    const cc = f32x4.sub(f32x4.add(aa, bb), f32x4.add(ab, ab))
    const w = clamp(f32x4.div(f32x4.add(f32x4.sub(qb, qa), f32x4.sub(aa, ab)), f32x4.pmax(cc, tiny)))
    // Distances² less that of the corner, which is common to all.
    const ds = f32x4.sub(f32x4.mul(f32x4.mul(s, s), aa), f32x4.mul(f32x4.add(s, s), qa))
    const dt = f32x4.sub(f32x4.mul(f32x4.mul(t, t), bb), f32x4.mul(f32x4.add(t, t), qb))
    const r = f32x4.sub(one, w)
    const dw = f32x4.sub(
      f32x4.add(
        f32x4.add(f32x4.mul(f32x4.mul(r, r), aa), f32x4.mul(f32x4.mul(w, w), bb)),
        f32x4.mul(f32x4.add(f32x4.mul(r, w), f32x4.mul(r, w)), ab),
      ),
      f32x4.add(f32x4.mul(f32x4.add(r, r), qa), f32x4.mul(f32x4.add(w, w), qb)),
    )
    const second = f32x4.lt(dt, ds)
    let eu = v128.bitselect(zero, s, second),
      ev = v128.bitselect(t, zero, second)
    const third = f32x4.lt(dw, f32x4.pmin(ds, dt))
    eu = v128.bitselect(r, eu, third)
    ev = v128.bitselect(w, ev, third)
    u = v128.bitselect(u, eu, inside)
    v = v128.bitselect(v, ev, inside)
  }
  const dx = f32x4.sub(qx, f32x4.add(f32x4.mul(ax, u), f32x4.mul(bx, v))),
    dy = f32x4.sub(qy, f32x4.add(f32x4.mul(ay, u), f32x4.mul(by, v))),
    dz = f32x4.sub(qz, f32x4.add(f32x4.mul(az, u), f32x4.mul(bz, v)))
  const dd = dot(dx, dy, dz, dx, dy, dz)
  let mask = i32x4.bitmask(f32x4.lt(dd, f32x4.mul(v128.load32_splat(hit), f32x4.splat(1 + TIE))))
  if (mask == 0) return false
  const nx = f32x4.sub(f32x4.mul(ay, bz), f32x4.mul(az, by)),
    ny = f32x4.sub(f32x4.mul(az, bx), f32x4.mul(ax, bz)),
    nz = f32x4.sub(f32x4.mul(ax, by), f32x4.mul(ay, bx))
  const size = f32x4.sqrt(f32x4.pmax(dot(nx, ny, nz, nx, ny, nz), tiny))
  v128.store(hit, dd, 32)
  v128.store(hit, f32x4.div(dot(nx, ny, nz, qx, qy, qz), size), 48)
  v128.store(hit, u, 64)
  v128.store(hit, v, 80)
  let found = false
  for (; mask; mask &= mask - 1) {
    const i = (<usize>ctz(mask)) << 2
    const d = load<f32>(hit + i, 32),
      best = load<f32>(hit),
      height = load<f32>(hit + i, 48)
    if (
      d >= best * (1 - TIE) &&
      (d > best * (1 + TIE) || load<u32>(hit, NEAREST_SLOT) == 0xffffffff || Mathf.abs(height) <= Mathf.abs(load<f32>(hit, NEAREST_HEIGHT)))
    )
      continue
    found = true
    const a = load<f32>(hit + i, 64),
      b = load<f32>(hit + i, 80)
    store<f32>(hit, min(d, best))
    store<f32>(hit, load<f32>(leaf + i) + a * load<f32>(leaf + i, 48) + b * load<f32>(leaf + i, 96), NEAREST_X)
    store<f32>(hit, load<f32>(leaf + i, 16) + a * load<f32>(leaf + i, 64) + b * load<f32>(leaf + i, 112), NEAREST_Y)
    store<f32>(hit, load<f32>(leaf + i, 32) + a * load<f32>(leaf + i, 80) + b * load<f32>(leaf + i, 128), NEAREST_Z)
    store<u32>(hit, slot + <u32>(i >> 2), NEAREST_SLOT)
    store<f32>(hit, a, NEAREST_U)
    store<f32>(hit, b, NEAREST_V)
    store<f32>(hit, height, NEAREST_HEIGHT)
  }
  return found
}
