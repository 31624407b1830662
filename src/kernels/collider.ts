import { COLLIDER_INDICES, COLLIDER_PASSES, COLLIDER_SEED } from './layout'
import { hash3, unit } from './math'

/** Ways to meet: bounce (and slide, which keeps nothing), die, stick, pass through. */

// @ts-ignore: decorator
@inline export function lerp(m: usize, n: usize, i: usize, s: f32): f32 {
  const a = load<f32>(m + (i << 2))
  return a + s * (load<f32>(n + (i << 2)) - a)
}
// @ts-ignore: decorator
@inline export function row(m: usize, r: usize, x: f32, y: f32, z: f32): f32 {
  const o = m + r * 16
  return load<f32>(o) * x + load<f32>(o + 4) * y + load<f32>(o + 8) * z + load<f32>(o + 12)
}
/** Whether this particle is one of those that the collider lets pass. */
// @ts-ignore: decorator
@inline export function passes(collider: usize, pseed: u32): bool {
  const share = load<f32>(collider + COLLIDER_PASSES)
  return share > 0 && unit(hash3(load<u32>(collider + COLLIDER_SEED), pseed, 34)) < share
}
/** Where a place on a triangle is: `out` xyz. Of the half space u and v are x and z. `positions`: those of either end of the substep. */
export function placeOn(collider: usize, positions: usize, triangle: u32, u: f32, v: f32, out: usize): void {
  if (load<u32>(collider) == 1) {
    store<f32>(out, u)
    store<f32>(out, 0, 4)
    store<f32>(out, v, 8)
    return
  }
  const i = <usize>load<u32>(collider + COLLIDER_INDICES) + <usize>triangle * 12
  const a = positions + <usize>load<u32>(i) * 12,
    b = positions + <usize>load<u32>(i, 4) * 12,
    c = positions + <usize>load<u32>(i, 8) * 12
  const w: f32 = 1 - u - v
  for (let k: usize = 0; k < 12; k += 4) store<f32>(out + k, w * load<f32>(a + k) + u * load<f32>(b + k) + v * load<f32>(c + k))
}
