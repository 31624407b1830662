// What comes into a gas: from objects, by their signed distance at its cells, and from particles, along their ways; and what is solid in it.
import { closestPoint } from './closest'
import { row } from './collider'
import {
  COLLIDER_TRIANGLES,
  COLLIDER_INDICES,
  COLLIDER_FLAGS,
  COLLIDER_IN1,
  COLLIDER_LEAVES,
  COLLIDER_NODES,
  COLLIDER_OUT0,
  COLLIDER_OUT1,
  COLLIDER_SCALE,
  FEED_AMOUNTS,
  FEED_BREAK_UP,
  FEED_COUNT,
  FEED_DIRECTION,
  FEED_DISTANCES,
  FEED_DT,
  FEED_FIRST,
  FEED_LEAD,
  FEED_MODES,
  FEED_MODE_ADD,
  FEED_MODE_SET,
  FEED_OUTWARDS,
  FEED_OWN,
  FEED_PER_SECOND,
  FEED_PER_SIZE,
  FEED_PHASE,
  FEED_PORTIONS,
  FEED_RECORD,
  FEED_REGION,
  FEED_SEED,
  FEED_SKIN,
  FEED_THICKNESS,
  FEED_WEIGHTS,
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
  SCALAR_COUNT,
  SCRATCH_HIT,
  SCRATCH_STACK,
} from './layout'
import { exp2x4, hash3x4, unitx4 } from './math'
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
  const a = i * 73856093,
    b = j * 19349663,
    a1 = (i + 1) * 73856093,
    b1 = (j + 1) * 19349663
  let ids = i32x4.splat(a ^ b)
  ids = i32x4.replace_lane(ids, 1, a1 ^ b)
  ids = i32x4.replace_lane(ids, 2, a ^ b1)
  ids = i32x4.replace_lane(ids, 3, a1 ^ b1)
  let wx = f32x4.splat(1 - sx),
    wy = f32x4.splat(1 - sy)
  wx = f32x4.replace_lane(f32x4.replace_lane(wx, 1, sx), 3, sx)
  wy = f32x4.replace_lane(f32x4.replace_lane(wy, 2, sy), 3, sy)
  const seeds = i32x4.splat(<i32>seed)
  return planeOf(seeds, ids, <u32>(k + 1), phase, wx, wy, sz, planeOf(seeds, ids, <u32>k, phase, wx, wy, 1 - sz, 0))
}
/** Adds four corners of a cell of the noise, one after the other. */
// @ts-ignore: decorator
@inline function planeOf(seeds: v128, ids: v128, k: u32, phase: f32, wx: v128, wy: v128, wz: f32, sum: f32): f32 {
  const h = f32x4.add(unitx4(hash3x4(seeds, ids, k)), f32x4.splat(phase))
  const wave = f32x4.sub(h, f32x4.floor(h)),
    twice = f32x4.add(wave, wave)
  const there = v128.bitselect(twice, f32x4.sub(f32x4.splat(2), twice), f32x4.lt(wave, f32x4.splat(0.5)))
  const w = f32x4.mul(f32x4.mul(f32x4.mul(there, wx), wy), f32x4.splat(wz))
  return sum + f32x4.extract_lane(w, 0) + f32x4.extract_lane(w, 1) + f32x4.extract_lane(w, 2) + f32x4.extract_lane(w, 3)
}
// @ts-ignore: decorator
@inline export function fed(mode: u32, x: f32, amount: f32, c: f32, dt: f32): f32 {
  return mode == FEED_MODE_ADD ? max(<f32>0, x + amount * dt * c) : mode == FEED_MODE_SET ? x + (amount - x) * c : max(x, amount * c)
}
// @ts-ignore: decorator
@inline export function led(f: usize): f32 {
  return <f32>1 - f32x4.extract_lane(exp2x4(f32x4.splat(<f32>-1.442695 * load<f32>(f + FEED_LEAD) * load<f32>(f + FEED_DT))), 0)
}
/** How much of a source a cell of its box is, 0 to 1: by its distance, its region and what breaks it up. */
function portionOf(g: usize, f: usize, i: i32, j: i32, k: i32): f32 {
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
/** How much of a source the cells of a row of its box are, found out once: each face asks on both its sides. */
export function portionRow(g: usize, r: i32): void {
  const f = <usize>load<u32>(g + GAS_TABLE)
  const nx = load<i32>(f + FEED_COUNT),
    ny = load<i32>(f + FEED_COUNT + 4)
  const to = <usize>load<u32>(f + FEED_PORTIONS) + ((<usize>(r * nx)) << 2)
  for (let i = 0; i < nx; i++) store<f32>(to + ((<usize>i) << 2), portionOf(g, f, i, r % ny, r / ny))
}
/** Leads the velocity on a face to one, by the shares of the cells on both sides: as if each did half of it, in turn. */
// @ts-ignore: decorator
@inline export function leadFace(face: usize, to: f32, a: f32, b: f32): void {
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
  const distances = <usize>load<u32>(f + FEED_DISTANCES) + ((<usize>(r * nx)) << 2),
    portions = <usize>load<u32>(f + FEED_PORTIONS) + ((<usize>(r * nx)) << 2)
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
    c = load<f32>(portions + ((<usize>i) << 2))
    const o = base + ((<usize>i) << 2)
    for (let q: usize = 0; c > 0 && q < SCALAR_COUNT << 2; q += 4) {
      const mode = load<u32>(f + FEED_MODES + q),
        field = <usize>load<u32>(g + GAS_SCALARS + q)
      if (mode && field) store<f32>(field + o, fed(mode, load<f32>(field + o), load<f32>(f + FEED_AMOUNTS + q), c, dt))
    }
    if (!leads) continue
    // Outside of the box nothing is.
    const below = j > 0 ? load<f32>(portions + ((<usize>i) << 2) - dj) : 0,
      behind = k > 0 ? load<f32>(portions + ((<usize>i) << 2) - dk) : 0
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
