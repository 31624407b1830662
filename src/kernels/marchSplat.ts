// A cloud of soft balls as what dims: each spreads its amount over the voxels that it reaches, by (1 − d²/r²)².
import {
  CLOUD_LEAST,
  MARCH_BALLS,
  MARCH_BALLS_FROM,
  MARCH_BALL_AMOUNT,
  MARCH_BALL_BYTES,
  MARCH_BALL_COUNT,
  MARCH_BALL_LOW,
  MARCH_BALL_PLACE,
  MARCH_BALL_RADIUS,
  MARCH_BALL_STARTS,
  MARCH_DIMS0,
  MARCH_ROW,
  MARCH_SLAB,
  MARCH_TILES,
  MARCH_VOXEL,
  TILE,
} from './layout'

/** ∫ (1 − d²)² over the unit ball, 32π/105, by which 2/3 π is divided. */
const SHARE: f32 = 2.1875
/** The layers of tiles that a ball reaches into, the first and the one after the last. */
let from: i32 = 0
let to: i32 = 0
// @ts-ignore: decorator
@inline function reach(m: usize, z: f32, r: f32): void {
  const layers = load<i32>(m + MARCH_TILES + 8)
  from = max(0, <i32>Mathf.floor((z - r) * (<f32>1 / <f32>TILE)))
  to = min(layers, <i32>Mathf.floor((z + r) * (<f32>1 / <f32>TILE)) + 1)
}
/** How many balls reach into each layer of tiles, as where each begins; twice, for they are counted on while balls are placed. */
export function countBalls(m: usize): void {
  const starts = <usize>load<u32>(m + MARCH_BALL_STARTS),
    layers = <usize>load<i32>(m + MARCH_TILES + 8)
  const per: f32 = 1 / load<f32>(m + MARCH_VOXEL),
    low = load<f32>(m + MARCH_BALL_LOW + 8)
  memory.fill(starts, 0, (layers + 1) << 2)
  let ball = <usize>load<u32>(m + MARCH_BALLS_FROM)
  for (let n = 0, count = load<i32>(m + MARCH_BALL_COUNT); n < count; n++, ball += MARCH_BALL_BYTES) {
    reach(m, (load<f32>(ball + MARCH_BALL_PLACE + 8) - low) * per, max(CLOUD_LEAST, load<f32>(ball + MARCH_BALL_RADIUS) * per))
    for (let k = from; k < to; k++) {
      const at = starts + ((<usize>k + 1) << 2)
      store<u32>(at, load<u32>(at) + 1)
    }
  }
  for (let k: usize = 0; k < layers; k++) {
    const at = starts + (k << 2)
    store<u32>(at, load<u32>(at) + load<u32>(at, 4), 4)
  }
  memory.copy(starts + ((layers + 1) << 2), starts, (layers + 1) << 2)
}
/**
 * Balls in voxels, by the layers of tiles that they reach into. One as wide as 2r that dims by τ through its middle holds τ / 2r · 4/3 π r³ = 2/3 π r² τ
 * of what dims, in m². Its voxels get that on the mean over all ways to lie between them.
 */
export function placeBalls(m: usize): void {
  const next = <usize>load<u32>(m + MARCH_BALL_STARTS) + ((<usize>load<i32>(m + MARCH_TILES + 8) + 1) << 2)
  const per: f32 = 1 / load<f32>(m + MARCH_VOXEL),
    lowX = load<f32>(m + MARCH_BALL_LOW),
    lowY = load<f32>(m + MARCH_BALL_LOW + 4),
    lowZ = load<f32>(m + MARCH_BALL_LOW + 8)
  const out = <usize>load<u32>(m + MARCH_BALLS)
  let ball = <usize>load<u32>(m + MARCH_BALLS_FROM)
  for (let n = 0, count = load<i32>(m + MARCH_BALL_COUNT); n < count; n++, ball += MARCH_BALL_BYTES) {
    const r = load<f32>(ball + MARCH_BALL_RADIUS) * per,
      wide = max(CLOUD_LEAST, r),
      amount = (SHARE * (r * r * load<f32>(ball + MARCH_BALL_AMOUNT))) / (wide * wide * wide)
    const x = (load<f32>(ball + MARCH_BALL_PLACE) - lowX) * per,
      y = (load<f32>(ball + MARCH_BALL_PLACE + 4) - lowY) * per,
      z = (load<f32>(ball + MARCH_BALL_PLACE + 8) - lowZ) * per
    reach(m, z, wide)
    for (let k = from; k < to; k++) {
      const counter = next + ((<usize>k) << 2),
        at = load<u32>(counter)
      store<u32>(counter, at + 1)
      const o = out + <usize>at * MARCH_BALL_BYTES
      store<f32>(o + MARCH_BALL_PLACE, x)
      store<f32>(o + MARCH_BALL_PLACE + 4, y)
      store<f32>(o + MARCH_BALL_PLACE + 8, z)
      store<f32>(o + MARCH_BALL_RADIUS, wide)
      store<f32>(o + MARCH_BALL_AMOUNT, amount)
    }
  }
}
/** d²/r² of four voxels of a row along it, the first at `i`. */
// @ts-ignore: decorator
@inline function along(i: i32, x: f32, per: f32): v128 {
  const d = f32x4.add(f32x4.splat(<f32>i + <f32>0.5 - x), f32x4(0, 1, 2, 3))
  return f32x4.mul(f32x4.mul(d, d), f32x4.splat(per))
}
/** Adds to four voxels what a ball gives them; nothing where the distance is more than the radius. */
// @ts-ignore: decorator
@inline function add(at: usize, rest: v128, along: v128, share: v128): void {
  const w = f32x4.max(f32x4.splat(0), f32x4.sub(rest, along))
  v128.store(at, f32x4.add(v128.load(at), f32x4.mul(f32x4.mul(w, w), share)))
}
/**
 * The balls that reach into a layer of tiles, in their order, so that sums are the same on any number of threads. The window holds every ball whole.
 */
export function splatLayer(m: usize, layer: i32): void {
  const row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB),
    dims = <usize>load<u32>(m + MARCH_DIMS0)
  const starts = <usize>load<u32>(m + MARCH_BALL_STARTS) + ((<usize>layer) << 2)
  const low = layer * TILE,
    high = low + TILE - 1
  for (let n = load<u32>(starts), end = load<u32>(starts, 4); n < end; n++) {
    const ball = <usize>load<u32>(m + MARCH_BALLS) + <usize>n * MARCH_BALL_BYTES
    const x = load<f32>(ball + MARCH_BALL_PLACE),
      y = load<f32>(ball + MARCH_BALL_PLACE + 4),
      z = load<f32>(ball + MARCH_BALL_PLACE + 8),
      r = load<f32>(ball + MARCH_BALL_RADIUS),
      share = f32x4.splat(load<f32>(ball + MARCH_BALL_AMOUNT))
    const per: f32 = <f32>1 / (r * r)
    const i0 = <i32>Mathf.ceil(x - r - <f32>0.5),
      i1 = <i32>Mathf.floor(x + r - <f32>0.5),
      j0 = <i32>Mathf.ceil(y - r - <f32>0.5),
      j1 = <i32>Mathf.floor(y + r - <f32>0.5),
      k0 = max(<i32>Mathf.ceil(z - r - <f32>0.5), low),
      k1 = min(<i32>Mathf.floor(z + r - <f32>0.5), high)
    const near = along(i0, x, per),
      rows = (<usize>row) << 2
    // Most reach no more than four rows of four: as many turns each time are quicker than fewer now and then, and beyond a ball nothing is added.
    if (i1 - i0 < 4 && j1 - j0 < 4) {
      const lefts = f32x4.sub(f32x4.splat(1), along(j0, y, per))
      let at = dims + ((<usize>(i0 + 1 + (j0 + 1) * row + (k0 + 1) * slab)) << 2)
      for (let k = k0; k <= k1; k++, at += (<usize>slab) << 2) {
        const dz = <f32>k + <f32>0.5 - z
        const left = f32x4.sub(lefts, f32x4.splat(dz * dz * per))
        add(at, f32x4.splat(f32x4.extract_lane(left, 0)), near, share)
        add(at + rows, f32x4.splat(f32x4.extract_lane(left, 1)), near, share)
        add(at + 2 * rows, f32x4.splat(f32x4.extract_lane(left, 2)), near, share)
        add(at + 3 * rows, f32x4.splat(f32x4.extract_lane(left, 3)), near, share)
      }
      continue
    }
    for (let k = k0; k <= k1; k++) {
      const dz = <f32>k + <f32>0.5 - z
      for (let j = j0; j <= j1; j++) {
        const dy = <f32>j + <f32>0.5 - y,
          left: f32 = 1 - (dy * dy + dz * dz) * per
        const rest = f32x4.splat(left)
        let at = dims + ((<usize>(i0 + 1 + (j + 1) * row + (k + 1) * slab)) << 2)
        add(at, rest, near, share)
        for (let i = i0 + 4; i <= i1; i += 4) {
          at += 16
          add(at, rest, along(i, x, per), share)
        }
      }
    }
  }
}
