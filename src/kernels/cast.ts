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

// @ts-ignore: decorator
@inline function lowest(v: v128): f32 {
  const a = f32x4.min(v, i32x4.shuffle(v, v, 2, 3, 0, 1))
  return f32x4.extract_lane(f32x4.min(a, i32x4.shuffle(a, a, 1, 0, 3, 2)), 0)
}
// @ts-ignore: decorator
@inline function highest(v: v128): f32 {
  const a = f32x4.max(v, i32x4.shuffle(v, v, 2, 3, 0, 1))
  return f32x4.extract_lane(f32x4.max(a, i32x4.shuffle(a, a, 1, 0, 3, 2)), 0)
}
/** Writes a leaf from its four triangles' corners. */
// @ts-ignore: decorator
@inline export function fillLeaf(leaf: usize, lane: usize, p: usize, q: usize, r: usize): void {
  for (let c: usize = 0; c < 12; c += 4) {
    const at = leaf + (c << 2) + lane,
      v = load<f32>(p + c)
    store<f32>(at, v)
    store<f32>(at, load<f32>(q + c) - v, 48)
    store<f32>(at, load<f32>(r + c) - v, 96)
  }
}
/**
 * Fits a hierarchy to its triangles' places at the start and at the end of a substep: leaves for both, boxes that hold both. `triangles`
 * has the four triangles of each leaf, `indices` and the places are those of the mesh; a node's children come behind it in memory.
 */
export function refit(
  nodes: usize,
  nodeCount: i32,
  leaves: usize,
  ends: usize,
  leafCount: i32,
  triangles: usize,
  indices: usize,
  from: usize,
  to: usize,
): void {
  for (let l = 0; l < leafCount; l++) {
    const at = <usize>l * LEAF_BYTES
    for (let k: usize = 0; k < 16; k += 4) {
      const i = indices + <usize>load<u32>(triangles + ((<usize>l) << 4) + k) * 12
      const p = <usize>load<u32>(i) * 12,
        q = <usize>load<u32>(i, 4) * 12,
        r = <usize>load<u32>(i, 8) * 12
      fillLeaf(leaves + at, k, from + p, from + q, from + r)
      fillLeaf(ends + at, k, to + p, to + q, to + r)
    }
  }
  for (let n = nodeCount - 1; n >= 0; n--) {
    const node = nodes + <usize>n * NODE_BYTES
    for (let k: usize = 0; k < 16; k += 4) {
      const child = load<i32>(node + k, 96)
      // A lane without a child holds nothing: its low corner lies above its high one.
      if (child == -1 && load<f32>(node + k) > load<f32>(node + k, 48)) continue
      for (let c: usize = 0; c < 48; c += 16) {
        let low: v128, high: v128
        if (child >= 0) {
          const below = nodes + <usize>child * NODE_BYTES + c
          low = v128.load(below)
          high = v128.load(below, 48)
        } else {
          const a = leaves + <usize>~child * LEAF_BYTES + c,
            b = ends + <usize>~child * LEAF_BYTES + c
          const p = v128.load(a),
            q = f32x4.add(p, v128.load(a, 48)),
            r = f32x4.add(p, v128.load(a, 96))
          const x = v128.load(b),
            y = f32x4.add(x, v128.load(b, 48)),
            z = f32x4.add(x, v128.load(b, 96))
          low = f32x4.min(f32x4.min(f32x4.min(p, q), r), f32x4.min(f32x4.min(x, y), z))
          high = f32x4.max(f32x4.max(f32x4.max(p, q), r), f32x4.max(f32x4.max(x, y), z))
        }
        store<f32>(node + c + k, lowest(low))
        store<f32>(node + c + k, highest(high), 48)
      }
    }
  }
}
