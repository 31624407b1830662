// Casts against triangles that move and bend within the substep: the roots of when a point lies in their planes.
import { LEAF_BYTES, NODE_BYTES } from './layout'

/**
 * Nearest meeting of a point that goes evenly from o to o + d between shares `s` and `e` of a substep with triangles whose corners go evenly
 * from `leaves` at its start to `ends` at its end. A meeting is where the point's distance to the triangle's plane
 * changes sign: from the front to the back, or either way when `both`. That distance is a cubic of time (Provot 1997); its root is found by
 * regula falsi with the Illinois rule on four triangles at once. Boxes of the nodes must hold both ends.
 * `hit`: in, the latest time that counts, in shares of the way; out, t, the normal (not unit), and at 16 how far that place of the surface
 * moves over the whole substep, in own space.
 */
export function castMoving(
  nodes: usize,
  leaves: usize,
  ends: usize,
  both: bool,
  s: f32,
  e: f32,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  skin: f32,
  stack: usize,
  hit: usize,
): bool {
  const lowX = f32x4.splat(min(ox, ox + dx) - skin),
    lowY = f32x4.splat(min(oy, oy + dy) - skin),
    lowZ = f32x4.splat(min(oz, oz + dz) - skin)
  const highX = f32x4.splat(max(ox, ox + dx) + skin),
    highY = f32x4.splat(max(oy, oy + dy) + skin),
    highZ = f32x4.splat(max(oz, oz + dz) + skin)
  const before = load<f32>(hit)
  let top: usize = stack
  let node: usize = nodes
  while (true) {
    // The whole way of the point against boxes that hold the whole way of the triangles.
    let ok = v128.and(f32x4.le(v128.load(node), highX), f32x4.ge(v128.load(node, 48), lowX))
    ok = v128.and(ok, v128.and(f32x4.le(v128.load(node, 16), highY), f32x4.ge(v128.load(node, 64), lowY)))
    ok = v128.and(ok, v128.and(f32x4.le(v128.load(node, 32), highZ), f32x4.ge(v128.load(node, 80), lowZ)))
    let mask = i32x4.bitmask(ok)
    while (mask) {
      const child = load<i32>(node + ((<usize>ctz(mask)) << 2), 96)
      mask &= mask - 1
      if (child >= 0) {
        store<u32>(top, <u32>child)
        top += 4
      } else {
        const at = <usize>~child * LEAF_BYTES
        meetLeaf(leaves + at, ends + at, both, s, e, ox, oy, oz, dx, dy, dz, skin, hit)
      }
    }
    if (top == stack) break
    top -= 4
    node = nodes + <usize>load<u32>(top) * NODE_BYTES
  }
  return load<f32>(hit) < before
}
/** A word of both leaves at share `k` of the substep. */
// @ts-ignore: decorator
@inline function between(a: usize, b: usize, k: v128): v128 {
  const from = v128.load(a)
  return f32x4.add(from, f32x4.mul(k, f32x4.sub(v128.load(b), from)))
}
/**
 * Distance of the point to the planes of four triangles, times twice their areas, at time `t` of its way. Writes the normals at `hit` + 96.
 */
function planes(a: usize, b: usize, s: f32, e: f32, t: v128, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, hit: usize): v128 {
  const k = f32x4.add(f32x4.splat(s), f32x4.mul(t, f32x4.splat(e - s)))
  const e1x = between(a + 48, b + 48, k),
    e1y = between(a + 64, b + 64, k),
    e1z = between(a + 80, b + 80, k)
  const e2x = between(a + 96, b + 96, k),
    e2y = between(a + 112, b + 112, k),
    e2z = between(a + 128, b + 128, k)
  const nx = f32x4.sub(f32x4.mul(e1y, e2z), f32x4.mul(e1z, e2y)),
    ny = f32x4.sub(f32x4.mul(e1z, e2x), f32x4.mul(e1x, e2z)),
    nz = f32x4.sub(f32x4.mul(e1x, e2y), f32x4.mul(e1y, e2x))
  v128.store(hit, nx, 96)
  v128.store(hit, ny, 112)
  v128.store(hit, nz, 128)
  const px = f32x4.sub(f32x4.add(f32x4.splat(ox), f32x4.mul(t, f32x4.splat(dx))), between(a, b, k))
  const py = f32x4.sub(f32x4.add(f32x4.splat(oy), f32x4.mul(t, f32x4.splat(dy))), between(a + 16, b + 16, k))
  const pz = f32x4.sub(f32x4.add(f32x4.splat(oz), f32x4.mul(t, f32x4.splat(dz))), between(a + 32, b + 32, k))
  return f32x4.add(f32x4.add(f32x4.mul(px, nx), f32x4.mul(py, ny)), f32x4.mul(pz, nz))
}
/** Steps of the root finder; the way within a substep is short, so the cubic is nearly straight and three or four are enough for most. */
const ROOT_STEPS: i32 = 10
/** Overlap of neighbouring moving triangles in barycentric units: their roots differ by rounding. */
const MOVING_OVERLAP: f32 = 1e-3
function meetLeaf(
  a: usize,
  b: usize,
  both: bool,
  s: f32,
  e: f32,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  skin: f32,
  hit: usize,
): void {
  const zero = f32x4.splat(0),
    one = f32x4.splat(1)
  let f0 = planes(a, b, s, e, zero, ox, oy, oz, dx, dy, dz, hit)
  const n0 = f32x4.sqrt(
    f32x4.add(
      f32x4.add(f32x4.mul(v128.load(hit, 96), v128.load(hit, 96)), f32x4.mul(v128.load(hit, 112), v128.load(hit, 112))),
      f32x4.mul(v128.load(hit, 128), v128.load(hit, 128)),
    ),
  )
  let f1 = planes(a, b, s, e, one, ox, oy, oz, dx, dy, dz, hit)
  // One that starts a hair behind the front, by rounding, still counts as in front of it.
  const front = v128.and(f32x4.ge(f0, f32x4.mul(n0, f32x4.splat(-skin))), f32x4.lt(f1, zero))
  const begun = v128.and(front, f32x4.le(f0, zero))
  let ok = both
    ? v128.or(v128.and(f32x4.gt(f0, zero), f32x4.lt(f1, zero)), v128.and(f32x4.lt(f0, zero), f32x4.gt(f1, zero)))
    : v128.and(front, f32x4.lt(f1, f0))
  if (i32x4.bitmask(ok) == 0) return
  const down = f32x4.lt(f1, zero)
  let t0 = zero,
    t1 = one,
    t = zero
  let last: v128 = i32x4.splat(0)
  for (let k = 0; k < ROOT_STEPS; k++) {
    t = f32x4.sub(t1, f32x4.div(f32x4.mul(f1, f32x4.sub(t1, t0)), f32x4.sub(f1, f0)))
    // What is no number, from triangles without area, is caught by the test of the corners below.
    t = f32x4.pmin(one, f32x4.pmax(zero, t))
    const f = planes(a, b, s, e, t, ox, oy, oz, dx, dy, dz, hit)
    // Keep the end of the other sign; an end that stays twice has its value halved.
    const late = v128.xor(f32x4.lt(f, zero), v128.not(down))
    const again = v128.not(v128.xor(late, last))
    const halved = f32x4.splat(0.5)
    const g0 = v128.bitselect(f32x4.mul(f0, halved), f0, again),
      g1 = v128.bitselect(f32x4.mul(f1, halved), f1, again)
    t1 = v128.bitselect(t, t1, late)
    f1 = v128.bitselect(f, g1, late)
    t0 = v128.bitselect(t0, t, late)
    f0 = v128.bitselect(g0, f, late)
    last = late
  }
  t = v128.bitselect(zero, t, begun)
  planes(a, b, s, e, t, ox, oy, oz, dx, dy, dz, hit)
  const k = f32x4.add(f32x4.splat(s), f32x4.mul(t, f32x4.splat(e - s)))
  const e1x = between(a + 48, b + 48, k),
    e1y = between(a + 64, b + 64, k),
    e1z = between(a + 80, b + 80, k)
  const e2x = between(a + 96, b + 96, k),
    e2y = between(a + 112, b + 112, k),
    e2z = between(a + 128, b + 128, k)
  const wx = f32x4.sub(f32x4.add(f32x4.splat(ox), f32x4.mul(t, f32x4.splat(dx))), between(a, b, k))
  const wy = f32x4.sub(f32x4.add(f32x4.splat(oy), f32x4.mul(t, f32x4.splat(dy))), between(a + 16, b + 16, k))
  const wz = f32x4.sub(f32x4.add(f32x4.splat(oz), f32x4.mul(t, f32x4.splat(dz))), between(a + 32, b + 32, k))
  const d11 = f32x4.add(f32x4.add(f32x4.mul(e1x, e1x), f32x4.mul(e1y, e1y)), f32x4.mul(e1z, e1z))
  const d12 = f32x4.add(f32x4.add(f32x4.mul(e1x, e2x), f32x4.mul(e1y, e2y)), f32x4.mul(e1z, e2z))
  const d22 = f32x4.add(f32x4.add(f32x4.mul(e2x, e2x), f32x4.mul(e2y, e2y)), f32x4.mul(e2z, e2z))
  const w1 = f32x4.add(f32x4.add(f32x4.mul(wx, e1x), f32x4.mul(wy, e1y)), f32x4.mul(wz, e1z))
  const w2 = f32x4.add(f32x4.add(f32x4.mul(wx, e2x), f32x4.mul(wy, e2y)), f32x4.mul(wz, e2z))
  const inv = f32x4.div(one, f32x4.sub(f32x4.mul(d11, d22), f32x4.mul(d12, d12)))
  const u = f32x4.mul(f32x4.sub(f32x4.mul(d22, w1), f32x4.mul(d12, w2)), inv),
    v = f32x4.mul(f32x4.sub(f32x4.mul(d11, w2), f32x4.mul(d12, w1)), inv)
  const low = f32x4.splat(-MOVING_OVERLAP)
  ok = v128.and(ok, v128.and(v128.and(f32x4.ge(u, low), f32x4.ge(v, low)), f32x4.le(f32x4.add(u, v), f32x4.splat(1 + MOVING_OVERLAP))))
  ok = v128.and(ok, f32x4.lt(t, v128.load32_splat(hit)))
  let mask = i32x4.bitmask(ok)
  if (mask == 0) return
  v128.store(hit, t, 64)
  v128.store(hit, down, 80)
  v128.store(hit, u, 144)
  v128.store(hit, v, 160)
  while (mask) {
    const i = (<usize>ctz(mask)) << 2
    mask &= mask - 1
    const at = load<f32>(hit + i, 64)
    if (at >= load<f32>(hit)) continue
    const side: f32 = load<u32>(hit + i, 80) != 0 ? 1 : -1
    store<f32>(hit, at)
    store<f32>(hit, side * load<f32>(hit + i, 96), 4)
    store<f32>(hit, side * load<f32>(hit + i, 112), 8)
    store<f32>(hit, side * load<f32>(hit + i, 128), 12)
    const p = load<f32>(hit + i, 144),
      q = load<f32>(hit + i, 160)
    for (let c: usize = 0; c < 3; c++) {
      const o = i + (c << 4)
      const m = load<f32>(b + o) - load<f32>(a + o),
        m1 = load<f32>(b + o, 48) - load<f32>(a + o, 48),
        m2 = load<f32>(b + o, 96) - load<f32>(a + o, 96)
      store<f32>(hit + (c << 2), m + p * m1 + q * m2, 16)
    }
  }
}
