// A cloud of soft balls as what dims: each spreads its amount over the voxels that it reaches, by (1 − d²/r²)².
import {
  MARCH_BALLS,
  MARCH_BALL_AMOUNT,
  MARCH_BALL_BYTES,
  MARCH_BALL_PLACE,
  MARCH_BALL_RADIUS,
  MARCH_BALL_STARTS,
  MARCH_DIMS0,
  MARCH_ROW,
  MARCH_SLAB,
  TILE,
} from './layout'

/** Weights of four voxels of a row, the first at `i`; none where the distance is more than the radius. */
// @ts-ignore: decorator
@inline function weights(i: i32, x: f32, rest: f32, per: f32): v128 {
  const d = f32x4.add(f32x4.splat(<f32>i + <f32>0.5 - x), f32x4(0, 1, 2, 3))
  const w = f32x4.max(f32x4.splat(0), f32x4.sub(f32x4.splat(rest), f32x4.mul(f32x4.mul(d, d), f32x4.splat(per))))
  return f32x4.mul(w, w)
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
    for (let k = k0; k <= k1; k++) {
      const dz = <f32>k + <f32>0.5 - z
      for (let j = j0; j <= j1; j++) {
        const dy = <f32>j + <f32>0.5 - y,
          rest: f32 = 1 - (dy * dy + dz * dz) * per
        if (!(rest > 0)) continue
        let at = dims + ((<usize>(i0 + 1 + (j + 1) * row + (k + 1) * slab)) << 2)
        for (let i = i0; i <= i1; i += 4, at += 16) v128.store(at, f32x4.add(v128.load(at), f32x4.mul(weights(i, x, rest, per), share)))
      }
    }
  }
}
