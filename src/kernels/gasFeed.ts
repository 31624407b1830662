// What comes into a gas: from objects, by their signed distance at its cells, and from particles, along their ways; and what is solid in it.
import { closestPoint } from './closest'
import { row } from './collider'
import {
  AGE,
  COLLIDER_TRIANGLES,
  COLLIDER_INDICES,
  COLLIDER_FLAGS,
  COLLIDER_IN1,
  COLLIDER_LEAVES,
  COLLIDER_NODES,
  COLLIDER_OUT0,
  COLLIDER_OUT1,
  COLLIDER_SCALE,
  FEED_AGO,
  FEED_AMOUNTS,
  FEED_BREAK_UP,
  FEED_COLUMNS,
  FEED_COUNT,
  FEED_DIRECTION,
  FEED_DISTANCES,
  FEED_DT,
  FEED_FIRST,
  FEED_LEAD,
  FEED_MODES,
  FEED_MODE_ADD,
  FEED_MODE_SET,
  FEED_OUT,
  FEED_OUTWARDS,
  FEED_OWN,
  FEED_PARTICLES,
  FEED_PER_SECOND,
  FEED_PER_SIZE,
  FEED_PHASE,
  FEED_RADIUS,
  FEED_RECORD,
  FEED_REGION,
  FEED_SEED,
  FEED_SKIN,
  FEED_THICKNESS,
  FEED_WAY,
  FEED_WEIGHTS,
  GAS_DIMS,
  GAS_FLUID,
  GAS_LOW,
  GAS_ROW,
  GAS_SCALARS,
  GAS_SLAB,
  GAS_SOLID,
  GAS_TABLE,
  GAS_VELOCITY,
  GAS_VOXEL,
  NEAREST_SLOT,
  NEAREST_U,
  NEAREST_V,
  PX,
  PY,
  PZ,
  SCALAR_COUNT,
  SCRATCH_HIT,
  SCRATCH_STACK,
  VX,
  VY,
  VZ,
} from './layout'
import { exp2x4, hash3, unit } from './math'
import { isBehind } from './side'

/** The middle of a cell of the box, in the shot. */
// @ts-ignore: decorator
@inline function middle(g: usize, f: usize, a: usize, i: i32): f32 {
  return load<f32>(g + GAS_LOW + a) + (<f32>(load<i32>(f + FEED_FIRST + a) + i) + <f32>0.5) * load<f32>(g + GAS_VOXEL)
}
/** The amount of a region at the nearest place of a surface. */
// @ts-ignore: decorator
@inline function amountAt(s: usize, region: usize, hit: usize): f32 {
  const triangle = load<u32>(<usize>load<u32>(s + COLLIDER_TRIANGLES) + ((<usize>load<u32>(hit, NEAREST_SLOT)) << 2))
  const i = <usize>load<u32>(s + COLLIDER_INDICES) + <usize>triangle * 12
  const u = load<f32>(hit, NEAREST_U),
    v = load<f32>(hit, NEAREST_V)
  return (
    (1 - u - v) * load<f32>(region + ((<usize>load<u32>(i)) << 2)) +
    u * load<f32>(region + ((<usize>load<u32>(i, 4)) << 2)) +
    v * load<f32>(region + ((<usize>load<u32>(i, 8)) << 2))
  )
}
/** Signed distances, m, of the middles of a row of cells from an object; below zero inside. An open one has no inside. */
export function coverRow(g: usize, r: i32, scratch: usize): void {
  const f = <usize>load<u32>(g + GAS_TABLE)
  const nx = load<i32>(f + FEED_COUNT),
    ny = load<i32>(f + FEED_COUNT + 4)
  const j = r % ny,
    k = r / ny
  const s = <usize>load<u32>(f + FEED_RECORD),
    m = s + COLLIDER_IN1
  const stack = scratch + SCRATCH_STACK,
    hit = scratch + SCRATCH_HIT
  const out = <usize>load<u32>(f + FEED_DISTANCES) + ((<usize>(r * nx)) << 2)
  const per = <f32>1 / load<f32>(s + COLLIDER_SCALE)
  const y = middle(g, f, 4, j),
    z = middle(g, f, 8, k)
  const endless = load<u32>(s) == 1,
    both = (load<u32>(s + COLLIDER_FLAGS) & 1) != 0
  const nodes = <usize>load<u32>(s + COLLIDER_NODES),
    leaves = <usize>load<u32>(s + COLLIDER_LEAVES)
  const region: usize = endless ? 0 : <usize>load<u32>(f + FEED_REGION),
    weights = <usize>load<u32>(f + FEED_WEIGHTS) + ((<usize>(r * nx)) << 2)
  for (let i = 0; i < nx; i++) {
    const x = middle(g, f, 0, i)
    const qx = row(m, 0, x, y, z),
      qy = row(m, 1, x, y, z),
      qz = row(m, 2, x, y, z)
    let far: f32 = qy * per
    if (!endless) {
      store<f32>(hit, 1e30)
      store<u32>(hit, 0xffffffff, NEAREST_SLOT)
      far = 1e15
      if (closestPoint(nodes, leaves, qx, qy, qz, stack, hit)) {
        if (region) store<f32>(weights + ((<usize>i) << 2), amountAt(s, region, hit))
        far = Mathf.sqrt(load<f32>(hit)) * per
        if (!both && isBehind(nodes, leaves, qx, qy, qz, stack, hit)) far = -far
      }
    }
    store<f32>(out + ((<usize>i) << 2), far)
  }
}
/** Smooth noise of places, 0 to 1, that renews itself as its phase goes on. */
function noise(x: f32, y: f32, z: f32, phase: f32, seed: u32): f32 {
  const i = <i32>Mathf.floor(x),
    j = <i32>Mathf.floor(y),
    k = <i32>Mathf.floor(z)
  const fx = x - <f32>i,
    fy = y - <f32>j,
    fz = z - <f32>k
  const sx = fx * fx * (3 - 2 * fx),
    sy = fy * fy * (3 - 2 * fy),
    sz = fz * fz * (3 - 2 * fz)
  let sum: f32 = 0
  for (let c = 0; c < 8; c++) {
    const h = unit(hash3(seed, <u32>((i + (c & 1)) * 73856093) ^ <u32>((j + ((c >> 1) & 1)) * 19349663), <u32>(k + (c >> 2)))) + phase
    const wave = h - Mathf.floor(h)
    sum += (wave < 0.5 ? 2 * wave : 2 - 2 * wave) * (c & 1 ? sx : 1 - sx) * ((c >> 1) & 1 ? sy : 1 - sy) * (c >> 2 ? sz : 1 - sz)
  }
  return sum
}
// @ts-ignore: decorator
@inline function fed(mode: u32, x: f32, amount: f32, c: f32, dt: f32): f32 {
  return mode == FEED_MODE_ADD ? max(<f32>0, x + amount * dt * c) : mode == FEED_MODE_SET ? x + (amount - x) * c : max(x, amount * c)
}
// @ts-ignore: decorator
@inline function led(f: usize): f32 {
  return <f32>1 - f32x4.extract_lane(exp2x4(f32x4.splat(<f32>-1.442695 * load<f32>(f + FEED_LEAD) * load<f32>(f + FEED_DT))), 0)
}
/** How much of a source a cell of its box is, 0 to 1: by its distance, its region and what breaks it up. Outside of the box nothing is. */
function amountIn(g: usize, f: usize, i: i32, j: i32, k: i32): f32 {
  if (i < 0 || j < 0 || k < 0) return 0
  const at = (<usize>(i + load<i32>(f + FEED_COUNT) * (j + load<i32>(f + FEED_COUNT + 4) * k))) << 2
  const far = load<f32>(<usize>load<u32>(f + FEED_DISTANCES) + at),
    thickness = load<f32>(f + FEED_THICKNESS)
  const within = load<u32>(f + FEED_SKIN) == 1 ? thickness - Mathf.abs(far) : thickness - far
  let c = min(max(within / load<f32>(g + GAS_VOXEL) + <f32>0.5, <f32>0), <f32>1)
  if (load<u32>(f + FEED_REGION)) c *= load<f32>(<usize>load<u32>(f + FEED_WEIGHTS) + at)
  const breakUp = load<f32>(f + FEED_BREAK_UP)
  if (c == 0 || breakUp <= 0) return c
  const size = load<f32>(f + FEED_PER_SIZE),
    phase = load<f32>(f + FEED_PHASE),
    seed = load<u32>(f + FEED_SEED)
  const x = middle(g, f, 0, i) * size,
    y = middle(g, f, 4, j) * size,
    z = middle(g, f, 8, k) * size
  const n =
    <f32>0.67 * noise(x, y, z, phase, seed) +
    <f32>0.33 * noise(x * <f32>2.1 + <f32>7, y * <f32>2.1, z * <f32>2.1, phase * <f32>1.7, seed ^ 77)
  return c * min(max(<f32>1 - breakUp * (<f32>1 - <f32>2.6 * (n - <f32>0.3)), <f32>0), <f32>1)
}
/** Leads the velocity on a face to one, by the shares of the cells on both sides: as if each did half of it, in turn. */
// @ts-ignore: decorator
@inline function leadFace(face: usize, to: f32, a: f32, b: f32): void {
  const now = load<f32>(face)
  store<f32>(face, now + (to - now) * (<f32>1 - Mathf.sqrt((<f32>1 - a) * (<f32>1 - b))))
}
/** Feeds a row of the box by its distances: what, how much, and how fast. Of velocity the lower faces, which its cells share with those before. */
export function feedRow(g: usize, r: i32): void {
  const f = <usize>load<u32>(g + GAS_TABLE)
  const nx = load<i32>(f + FEED_COUNT),
    ny = load<i32>(f + FEED_COUNT + 4),
    nz = load<i32>(f + FEED_COUNT + 8)
  const j = r % ny,
    k = r / ny
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const base =
    ((<usize>load<i32>(f + FEED_FIRST)) << 2) +
    <usize>(load<i32>(f + FEED_FIRST + 4) + j) * S +
    <usize>(load<i32>(f + FEED_FIRST + 8) + k) * P
  const distances = <usize>load<u32>(f + FEED_DISTANCES) + ((<usize>(r * nx)) << 2)
  const dt = load<f32>(f + FEED_DT)
  const s = <usize>load<u32>(f + FEED_RECORD)
  const leads = load<f32>(f + FEED_LEAD) > 0,
    share = led(f),
    own = load<f32>(f + FEED_OWN) * load<f32>(f + FEED_PER_SECOND),
    outwards = load<f32>(f + FEED_OUTWARDS)
  const y = middle(g, f, 4, j),
    z = middle(g, f, 8, k)
  const dj: usize = (<usize>nx) << 2,
    dk: usize = (<usize>(nx * ny)) << 2
  let c: f32 = 0
  for (let i = 0; i < nx; i++) {
    const before = c
    c = amountIn(g, f, i, j, k)
    const o = base + ((<usize>i) << 2)
    for (let q: usize = 0; c > 0 && q < SCALAR_COUNT << 2; q += 4) {
      const mode = load<u32>(f + FEED_MODES + q),
        field = <usize>load<u32>(g + GAS_SCALARS + q)
      if (mode && field) store<f32>(field + o, fed(mode, load<f32>(field + o), load<f32>(f + FEED_AMOUNTS + q), c, dt))
    }
    if (!leads) continue
    const below = amountIn(g, f, i, j - 1, k),
      behind = amountIn(g, f, i, j, k - 1)
    if (c + before + below + behind == 0) continue
    const x = middle(g, f, 0, i),
      at = distances + ((<usize>i) << 2)
    let tu = load<f32>(f + FEED_DIRECTION),
      tv = load<f32>(f + FEED_DIRECTION + 4),
      tw = load<f32>(f + FEED_DIRECTION + 8)
    if (own != 0) {
      const m = s + COLLIDER_IN1
      const qx = row(m, 0, x, y, z),
        qy = row(m, 1, x, y, z),
        qz = row(m, 2, x, y, z)
      tu += own * (x - row(s + COLLIDER_OUT0, 0, qx, qy, qz))
      tv += own * (y - row(s + COLLIDER_OUT0, 1, qx, qy, qz))
      tw += own * (z - row(s + COLLIDER_OUT0, 2, qx, qy, qz))
    }
    if (outwards != 0) {
      // Away from the object: the slope of the distances.
      let nu = load<f32>(i < nx - 1 ? at + 4 : at) - load<f32>(i > 0 ? at - 4 : at),
        nv = load<f32>(j < ny - 1 ? at + dj : at) - load<f32>(j > 0 ? at - dj : at),
        nw = load<f32>(k < nz - 1 ? at + dk : at) - load<f32>(k > 0 ? at - dk : at)
      const l = outwards / Mathf.sqrt(nu * nu + nv * nv + nw * nw + <f32>1e-20)
      tu += nu * l
      tv += nv * l
      tw += nw * l
    }
    const a = share * c
    leadFace(<usize>load<u32>(g + GAS_VELOCITY) + o, tu, a, share * before)
    leadFace(<usize>load<u32>(g + GAS_VELOCITY + 4) + o, tv, a, share * below)
    leadFace(<usize>load<u32>(g + GAS_VELOCITY + 8) + o, tw, a, share * behind)
  }
}
/** Cells of a row of the box that are within an object: solid, with its velocity. What has no inside is as thick as it takes to close it. */
export function solidifyRow(g: usize, r: i32): void {
  const f = <usize>load<u32>(g + GAS_TABLE)
  const nx = load<i32>(f + FEED_COUNT),
    ny = load<i32>(f + FEED_COUNT + 4)
  const j = r % ny,
    k = r / ny
  const base =
    ((<usize>load<i32>(f + FEED_FIRST)) << 2) +
    ((<usize>(load<i32>(f + FEED_FIRST + 4) + j) * <usize>load<i32>(g + GAS_ROW)) << 2) +
    ((<usize>(load<i32>(f + FEED_FIRST + 8) + k) * <usize>load<i32>(g + GAS_SLAB)) << 2)
  const distances = <usize>load<u32>(f + FEED_DISTANCES) + ((<usize>(r * nx)) << 2)
  const s = <usize>load<u32>(f + FEED_RECORD),
    m = s + COLLIDER_IN1,
    per = load<f32>(f + FEED_PER_SECOND)
  const both = load<u32>(s) != 1 && (load<u32>(s + COLLIDER_FLAGS) & 1) != 0,
    thickness = max(load<f32>(f + FEED_THICKNESS), both ? <f32>0.6 * load<f32>(g + GAS_VOXEL) : <f32>0)
  const y = middle(g, f, 4, j),
    z = middle(g, f, 8, k)
  for (let i = 0; i < nx; i++) {
    if (load<f32>(distances + ((<usize>i) << 2)) > thickness) continue
    const o = base + ((<usize>i) << 2)
    const x = middle(g, f, 0, i)
    const qx = row(m, 0, x, y, z),
      qy = row(m, 1, x, y, z),
      qz = row(m, 2, x, y, z)
    store<f32>(<usize>load<u32>(g + GAS_FLUID) + o, 0)
    for (let a: usize = 0; a < 3; a++)
      store<f32>(
        <usize>load<u32>(g + GAS_SOLID + (a << 2)) + o,
        (row(s + COLLIDER_OUT1, a, qx, qy, qz) - row(s + COLLIDER_OUT0, a, qx, qy, qz)) * per,
      )
  }
}
/** A direction by a row of a matrix. */
// @ts-ignore: decorator
@inline function turned(m: usize, a: usize, x: f32, y: f32, z: f32): f32 {
  const r = m + (a << 4)
  return load<f32>(r) * x + load<f32>(r, 4) * y + load<f32>(r, 8) * z
}
/** The integral of (1 − d²/r²)² over a ball of radius one. */
const BALL: f32 = 0.95744
/**
 * Feeds by particles, each along its way in the substep: the weight is (1 − d²/r²)², made so that the cells take up together what a ball of
 * that radius would, wherever it lies; one smaller than a cell is as wide as one and thinner by as much. One thread, in their order.
 */
export function splatParticles(g: usize): void {
  const f = <usize>load<u32>(g + GAS_TABLE)
  const columns = <usize>load<u32>(f + FEED_COLUMNS),
    count = load<i32>(f + FEED_PARTICLES)
  const px = <usize>load<u32>(columns + (PX << 2)),
    py = <usize>load<u32>(columns + (PY << 2)),
    pz = <usize>load<u32>(columns + (PZ << 2)),
    vx = <usize>load<u32>(columns + (VX << 2)),
    vy = <usize>load<u32>(columns + (VY << 2)),
    vz = <usize>load<u32>(columns + (VZ << 2)),
    age = <usize>load<u32>(columns + (AGE << 2))
  const out = f + FEED_OUT,
    ago = load<f32>(f + FEED_AGO),
    way = load<f32>(f + FEED_WAY)
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8)
  const per: f32 = 1 / load<f32>(g + GAS_VOXEL),
    dt = load<f32>(f + FEED_DT)
  const wanted = load<f32>(f + FEED_RADIUS) * per,
    radius = max(<f32>1.2, wanted),
    thin = wanted < radius ? (wanted / radius) * (wanted / radius) * (wanted / radius) : <f32>1
  const r2 = radius * radius,
    perR2: f32 = 1 / r2,
    whole = BALL * radius * radius * radius
  const leads = load<f32>(f + FEED_LEAD) > 0,
    share = led(f),
    own = load<f32>(f + FEED_OWN)
  for (let n = 0; n < count; n++) {
    const o = (<usize>n) << 2
    const du = load<f32>(vx + o),
      dv = load<f32>(vy + o),
      dw = load<f32>(vz + o)
    const u = turned(out, 0, du, dv, dw),
      v = turned(out, 1, du, dv, dw),
      w = turned(out, 2, du, dv, dw)
    const ox = load<f32>(px + o),
      oy = load<f32>(py + o),
      oz = load<f32>(pz + o)
    const ex = (row(out, 0, ox, oy, oz) - load<f32>(g + GAS_LOW)) * per - <f32>0.5,
      ey = (row(out, 1, ox, oy, oz) - load<f32>(g + GAS_LOW + 4)) * per - <f32>0.5,
      ez = (row(out, 2, ox, oy, oz) - load<f32>(g + GAS_LOW + 8)) * per - <f32>0.5
    const pieces = min(64, max(1, <i32>Mathf.ceil((Mathf.sqrt(u * u + v * v + w * w) * way * per) / (<f32>0.5 * radius))))
    const seconds = way / <f32>pieces
    for (let q = 0; q < pieces; q++) {
      // Not before it was born.
      const late = ago - way + <f32>(pieces - 1 - q) * seconds
      const lived = min(max((load<f32>(age + o) - late) / seconds, <f32>0), <f32>1)
      if (!(lived > 0)) continue
      const part = lived / <f32>pieces,
        back = per * (late + <f32>0.5 * lived * seconds)
      const x = ex - u * back,
        y = ey - v * back,
        z = ez - w * back
      if (!(x > -radius && y > -radius && z > -radius && x < <f32>nx + radius && y < <f32>ny + radius && z < <f32>nz + radius)) continue
      const i0 = <i32>Mathf.ceil(x - radius),
        i1 = <i32>Mathf.floor(x + radius),
        j0 = <i32>Mathf.ceil(y - radius),
        j1 = <i32>Mathf.floor(y + radius),
        k0 = <i32>Mathf.ceil(z - radius),
        k1 = <i32>Mathf.floor(z + radius)
      let sum: f32 = 0
      for (let k = k0; k <= k1; k++)
        for (let j = j0; j <= j1; j++)
          for (let i = i0; i <= i1; i++) {
            const d = ((<f32>i - x) * (<f32>i - x) + (<f32>j - y) * (<f32>j - y) + (<f32>k - z) * (<f32>k - z)) * perR2
            if (d < 1) sum += (<f32>1 - d) * (<f32>1 - d)
          }
      if (!(sum > 0)) continue
      const even = thin * (whole / sum)
      for (let k = max(0, k0); k <= min(nz - 1, k1); k++)
        for (let j = max(0, j0); j <= min(ny - 1, j1); j++)
          for (let i = max(0, i0); i <= min(nx - 1, i1); i++) {
            const d = ((<f32>i - x) * (<f32>i - x) + (<f32>j - y) * (<f32>j - y) + (<f32>k - z) * (<f32>k - z)) * perR2
            if (d >= 1) continue
            const c = (<f32>1 - d) * (<f32>1 - d)
            const at = <usize>k * P + <usize>j * S + ((<usize>i) << 2)
            for (let a: usize = 0; a < SCALAR_COUNT << 2; a += 4) {
              const mode = load<u32>(f + FEED_MODES + a),
                field = <usize>load<u32>(g + GAS_SCALARS + a)
              if (!mode || !field) continue
              const amount = load<f32>(f + FEED_AMOUNTS + a)
              store<f32>(
                field + at,
                mode == FEED_MODE_ADD
                  ? fed(mode, load<f32>(field + at), amount * even * part, c, dt)
                  : fed(mode, load<f32>(field + at), amount * thin, mode == FEED_MODE_SET ? c * part : c, dt),
              )
            }
            if (!leads) continue
            // A cell does half of what leads each of its faces.
            const a = share * c * part
            const fu = <usize>load<u32>(g + GAS_VELOCITY) + at,
              fv = <usize>load<u32>(g + GAS_VELOCITY + 4) + at,
              fw = <usize>load<u32>(g + GAS_VELOCITY + 8) + at
            leadFace(fu, own * u, a, 0)
            leadFace(fu + 4, own * u, a, 0)
            leadFace(fv, own * v, a, 0)
            leadFace(fv + S, own * v, a, 0)
            leadFace(fw, own * w, a, 0)
            leadFace(fw + P, own * w, a, 0)
          }
    }
  }
}
