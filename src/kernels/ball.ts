// Casts of a ball against a mesh: its faces at the distance of the radius, its edges as cylinders, its corners as balls (after Ericson
// 2004, four triangles at once), so that it goes round edges and nothing is passed through.
import { LEAF_BYTES, NODE_BYTES } from './layout'
import { dot } from './vector'

/** Heights this much below a triangle's plane still are in front of it, in shares of the radius. */
const FRONT: f32 = -1e-3

/**
 * First meeting of a ball of radius `r` that goes from o to o + d. Of a closed mesh only what lies before its middle counts, so one that
 * begins inside goes on; one that overlaps at the start meets it at once, where it is deepest. `hit`: in, the latest time that counts;
 * out, t, the normal from the mesh to the ball's middle at 4 (unit), the place of the mesh at 16.
 */
export function castBall(
  nodes: usize,
  leaves: usize,
  both: bool,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  r: f32,
  stack: usize,
  hit: usize,
): bool {
  const lowX = f32x4.splat(min(ox, ox + dx) - r),
    lowY = f32x4.splat(min(oy, oy + dy) - r),
    lowZ = f32x4.splat(min(oz, oz + dz) - r)
  const highX = f32x4.splat(max(ox, ox + dx) + r),
    highY = f32x4.splat(max(oy, oy + dy) + r),
    highZ = f32x4.splat(max(oz, oz + dz) + r)
  const before = load<f32>(hit)
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
      } else ballLeaf(leaves + <usize>~child * LEAF_BYTES, both, ox, oy, oz, dx, dy, dz, r, hit)
    }
    if (top == stack) break
    top -= 4
    node = nodes + <usize>load<u32>(top) * NODE_BYTES
  }
  return load<f32>(hit) < before
}

/**
 * Lanes whose time is earlier than the best so far and within the way take it, with their place of the mesh. All state lies at `hit` + 32.
 */
// @ts-ignore: decorator
@inline function take(hit: usize, t: v128, ok: v128, cx: v128, cy: v128, cz: v128): void {
  const best = v128.load(hit, 32)
  const sooner = v128.and(ok, f32x4.lt(t, best))
  v128.store(hit, v128.bitselect(t, best, sooner), 32)
  v128.store(hit, v128.bitselect(cx, v128.load(hit, 48), sooner), 48)
  v128.store(hit, v128.bitselect(cy, v128.load(hit, 64), sooner), 64)
  v128.store(hit, v128.bitselect(cz, v128.load(hit, 80), sooner), 80)
}
/**
 * When the middle is `r` from a line or point: a t² + 2 b t + c = 0. What begins nearer meets at once, the deeper the sooner. `least`:
 * along a line, an `a` below this is only rounding, and the way does not come nearer.
 */
// @ts-ignore: decorator
@inline function timeOf(a: v128, b: v128, c: v128, minimum: v128): v128 {
  const zero = f32x4.splat(0)
  const disc = f32x4.sub(f32x4.mul(b, b), f32x4.mul(a, c))
  const t = f32x4.div(f32x4.sub(f32x4.neg(b), f32x4.sqrt(f32x4.pmax(disc, zero))), f32x4.pmax(a, f32x4.splat(1e-30)))
  const closing = v128.and(v128.and(f32x4.lt(b, zero), f32x4.ge(disc, zero)), f32x4.gt(a, minimum))
  return v128.bitselect(c, v128.bitselect(t, f32x4.splat(1e30), closing), f32x4.lt(c, zero))
}
/** An edge from m away from the middle, along e: its cylinder between its ends. */
function edge(
  hit: usize,
  mx: v128,
  my: v128,
  mz: v128,
  ex: v128,
  ey: v128,
  ez: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  bx: v128,
  by: v128,
  bz: v128,
  rr: v128,
  n: usize,
  low: v128,
  both: bool,
): void {
  const ee = f32x4.pmax(dot(ex, ey, ez, ex, ey, ez), f32x4.splat(1e-30)),
    i = f32x4.div(f32x4.splat(1), ee)
  const de = dot(dx, dy, dz, ex, ey, ez),
    me = dot(mx, my, mz, ex, ey, ez)
  // Across the edge, as vectors: along a long edge the squares would cancel.
  const k = f32x4.mul(me, i),
    l = f32x4.mul(de, i)
  const wx = f32x4.sub(mx, f32x4.mul(ex, k)),
    wy = f32x4.sub(my, f32x4.mul(ey, k)),
    wz = f32x4.sub(mz, f32x4.mul(ez, k))
  const ux = f32x4.sub(dx, f32x4.mul(ex, l)),
    uy = f32x4.sub(dy, f32x4.mul(ey, l)),
    uz = f32x4.sub(dz, f32x4.mul(ez, l))
  const dd = dot(dx, dy, dz, dx, dy, dz)
  const a = dot(ux, uy, uz, ux, uy, uz)
  const b = dot(ux, uy, uz, wx, wy, wz)
  const c = f32x4.sub(dot(wx, wy, wz, wx, wy, wz), rr)
  const t = timeOf(a, b, c, f32x4.mul(dd, f32x4.splat(1e-6)))
  const at = f32x4.pmax(t, f32x4.splat(0))
  const s = f32x4.mul(f32x4.add(me, f32x4.mul(at, de)), i)
  const on = v128.and(f32x4.ge(s, f32x4.splat(0)), f32x4.le(s, f32x4.splat(1)))
  take(
    hit,
    t,
    v128.and(on, ahead(n, at, low, both)),
    f32x4.add(bx, f32x4.mul(ex, s)),
    f32x4.add(by, f32x4.mul(ey, s)),
    f32x4.add(bz, f32x4.mul(ez, s)),
  )
}
function corner(
  hit: usize,
  mx: v128,
  my: v128,
  mz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  bx: v128,
  by: v128,
  bz: v128,
  rr: v128,
  n: usize,
  low: v128,
  both: bool,
): void {
  const t = timeOf(dot(dx, dy, dz, dx, dy, dz), dot(dx, dy, dz, mx, my, mz), f32x4.sub(dot(mx, my, mz, mx, my, mz), rr), f32x4.splat(0))
  take(hit, t, ahead(n, f32x4.pmax(t, f32x4.splat(0)), low, both), bx, by, bz)
}
/** Whether the middle is in front of the triangles' planes at t: height and its change stand at n. */
// @ts-ignore: decorator
@inline function ahead(n: usize, t: v128, low: v128, both: bool): v128 {
  return both ? i32x4.splat(-1) : f32x4.ge(f32x4.add(v128.load(n), f32x4.mul(v128.load(n, 16), t)), low)
}
function ballLeaf(leaf: usize, both: bool, ox: f32, oy: f32, oz: f32, dx1: f32, dy1: f32, dz1: f32, r: f32, hit: usize): void {
  const one = f32x4.splat(1),
    zero = f32x4.splat(0),
    tiny = f32x4.splat(1e-30),
    radius = f32x4.splat(r),
    rr = f32x4.mul(radius, radius)
  const dx = f32x4.splat(dx1),
    dy = f32x4.splat(dy1),
    dz = f32x4.splat(dz1)
  const ax = v128.load(leaf, 48),
    ay = v128.load(leaf, 64),
    az = v128.load(leaf, 80)
  const bx = v128.load(leaf, 96),
    by = v128.load(leaf, 112),
    bz = v128.load(leaf, 128)
  const px = v128.load(leaf),
    py = v128.load(leaf, 16),
    pz = v128.load(leaf, 32)
  const qx = f32x4.sub(f32x4.splat(ox), px),
    qy = f32x4.sub(f32x4.splat(oy), py),
    qz = f32x4.sub(f32x4.splat(oz), pz)
  let nx = f32x4.sub(f32x4.mul(ay, bz), f32x4.mul(az, by)),
    ny = f32x4.sub(f32x4.mul(az, bx), f32x4.mul(ax, bz)),
    nz = f32x4.sub(f32x4.mul(ax, by), f32x4.mul(ay, bx))
  const inverse = f32x4.div(one, f32x4.sqrt(f32x4.pmax(dot(nx, ny, nz, nx, ny, nz), tiny)))
  nx = f32x4.mul(nx, inverse)
  ny = f32x4.mul(ny, inverse)
  nz = f32x4.mul(nz, inverse)
  let h = dot(nx, ny, nz, qx, qy, qz),
    dn = dot(nx, ny, nz, dx, dy, dz)
  if (both) {
    // The side it is on is the front.
    const back = f32x4.lt(h, zero)
    h = f32x4.abs(h)
    dn = v128.bitselect(f32x4.neg(dn), dn, back)
  }
  const n = hit + 96
  v128.store(n, h)
  v128.store(n, dn, 16)
  v128.store(hit, v128.load32_splat(hit), 32)
  const low = f32x4.splat(r * FRONT)
  // The face: at once when it is nearer than the radius, or when the way brings it there.
  const gap = f32x4.sub(h, radius)
  const near = v128.and(f32x4.lt(gap, zero), f32x4.ge(h, low))
  const t = v128.bitselect(f32x4.mul(gap, f32x4.add(h, radius)), f32x4.div(gap, f32x4.pmax(f32x4.neg(dn), tiny)), near)
  const at = f32x4.pmax(t, zero)
  const comes = v128.or(near, v128.and(f32x4.lt(dn, zero), f32x4.ge(gap, zero)))
  const mx = f32x4.add(qx, f32x4.mul(dx, at)),
    my = f32x4.add(qy, f32x4.mul(dy, at)),
    mz = f32x4.add(qz, f32x4.mul(dz, at))
  const aa = dot(ax, ay, az, ax, ay, az),
    ab = dot(ax, ay, az, bx, by, bz),
    bb = dot(bx, by, bz, bx, by, bz),
    ma = dot(mx, my, mz, ax, ay, az),
    mb = dot(mx, my, mz, bx, by, bz)
  const det = f32x4.sub(f32x4.mul(aa, bb), f32x4.mul(ab, ab)),
    i = f32x4.div(one, f32x4.pmax(det, tiny))
  const u = f32x4.mul(f32x4.sub(f32x4.mul(bb, ma), f32x4.mul(ab, mb)), i),
    v = f32x4.mul(f32x4.sub(f32x4.mul(aa, mb), f32x4.mul(ab, ma)), i)
  const inside = v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), v128.and(f32x4.le(f32x4.add(u, v), one), f32x4.gt(det, tiny)))
  take(
    hit,
    t,
    v128.and(comes, inside),
    f32x4.add(px, f32x4.add(f32x4.mul(ax, u), f32x4.mul(bx, v))),
    f32x4.add(py, f32x4.add(f32x4.mul(ay, u), f32x4.mul(by, v))),
    f32x4.add(pz, f32x4.add(f32x4.mul(az, u), f32x4.mul(bz, v))),
  )
  // Where every lane's face is met inside, no edge of it is met sooner.
  if (i32x4.bitmask(v128.and(comes, inside)) != 15) {
    const q2x = f32x4.sub(qx, ax),
      q2y = f32x4.sub(qy, ay),
      q2z = f32x4.sub(qz, az),
      q3x = f32x4.sub(qx, bx),
      q3y = f32x4.sub(qy, by),
      q3z = f32x4.sub(qz, bz)
    const p2x = f32x4.add(px, ax),
      p2y = f32x4.add(py, ay),
      p2z = f32x4.add(pz, az),
      p3x = f32x4.add(px, bx),
      p3y = f32x4.add(py, by),
      p3z = f32x4.add(pz, bz)
    edge(hit, qx, qy, qz, ax, ay, az, dx, dy, dz, px, py, pz, rr, n, low, both)
    edge(hit, qx, qy, qz, bx, by, bz, dx, dy, dz, px, py, pz, rr, n, low, both)
    edge(hit, q2x, q2y, q2z, f32x4.sub(bx, ax), f32x4.sub(by, ay), f32x4.sub(bz, az), dx, dy, dz, p2x, p2y, p2z, rr, n, low, both)
    corner(hit, qx, qy, qz, dx, dy, dz, px, py, pz, rr, n, low, both)
    corner(hit, q2x, q2y, q2z, dx, dy, dz, p2x, p2y, p2z, rr, n, low, both)
    corner(hit, q3x, q3y, q3z, dx, dy, dz, p3x, p3y, p3z, rr, n, low, both)
  }
  for (let k: usize = 0; k < 16; k += 4) {
    const time = load<f32>(hit + k, 32)
    if (time >= load<f32>(hit)) continue
    const t0 = max(time, <f32>0)
    const cx = load<f32>(hit + k, 48),
      cy = load<f32>(hit + k, 64),
      cz = load<f32>(hit + k, 80)
    const wx = ox + dx1 * t0 - cx,
      wy = oy + dy1 * t0 - cy,
      wz = oz + dz1 * t0 - cz
    const d = Mathf.sqrt(wx * wx + wy * wy + wz * wz)
    if (d < 1e-9) continue
    store<f32>(hit, time)
    store<f32>(hit, wx / d, 4)
    store<f32>(hit, wy / d, 8)
    store<f32>(hit, wz / d, 12)
    store<f32>(hit, cx, 16)
    store<f32>(hit, cy, 20)
    store<f32>(hit, cz, 24)
  }
}
