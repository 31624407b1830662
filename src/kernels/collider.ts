import { hash3, unit } from './math'

// The record of an object that particles meet, chase or keep to. kind (0 mesh, 1 half space below its own y = 0), flags (1 both sides, 2
// moving, 4 changing shape), nodes, leaves, box low xyz and high xyz in the world over the substep, then four 3x4 matrices by rows: world
// from own at the start and at the end of the substep, own from world at the start and at the end; what happens at a contact:
// restitution and its ±, friction and its ±, way, seed of the act; leaves at the end (of one that changes shape); triangle of each slot of
// a leaf, corners of each triangle, places at both ends; hash of the object's id; own metres for a metre of the world; thickness (m);
// strength at which what sticks lets go (m/s²); share that passes; how many contacts; running sums of the triangles' areas and their count;
// listed places at both ends and their count; a grid of distances that stands for it, or 0.
export const C_FLAGS: usize = 4,
  C_NODES: usize = 8,
  C_LEAVES: usize = 12,
  C_BOX: usize = 16
export const C_OUT0: usize = 40,
  C_OUT1: usize = 88,
  C_IN0: usize = 136,
  C_IN1: usize = 184
export const C_KEEP: usize = 232,
  C_KEEP_VARY: usize = 236,
  C_RUB: usize = 240,
  C_RUB_VARY: usize = 244,
  C_WAY: usize = 248,
  C_SEED: usize = 252,
  C_ENDS: usize = 256
export const C_TRIANGLES: usize = 260,
  C_INDICES: usize = 264,
  C_FROM: usize = 268,
  C_TO: usize = 272,
  C_HASH: usize = 276,
  C_SCALE: usize = 280,
  C_THICK: usize = 284
export const C_LET_GO: usize = 288,
  C_PASSES: usize = 292,
  C_MET: usize = 296,
  C_AREAS: usize = 300,
  C_COUNT: usize = 304,
  C_SITES: usize = 308,
  C_SITES_END: usize = 312,
  C_SITE_COUNT: usize = 316,
  C_GRID: usize = 320
export const COLLIDER_BYTES: usize = 336
/** Ways to meet: bounce (and slide, which keeps nothing), die, stick, pass through. */
export const DIE: u32 = 1,
  STICK: u32 = 2,
  PASS: u32 = 3

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
  const share = load<f32>(collider + C_PASSES)
  return share > 0 && unit(hash3(load<u32>(collider + C_SEED), pseed, 34)) < share
}
/** Where a place on a triangle is: `out` xyz. Of the half space u and v are x and z. `positions`: those of either end of the substep. */
export function placeOn(collider: usize, positions: usize, triangle: u32, u: f32, v: f32, out: usize): void {
  if (load<u32>(collider) == 1) {
    store<f32>(out, u)
    store<f32>(out, 0, 4)
    store<f32>(out, v, 8)
    return
  }
  const i = <usize>load<u32>(collider + C_INDICES) + <usize>triangle * 12
  const a = positions + <usize>load<u32>(i) * 12,
    b = positions + <usize>load<u32>(i, 4) * 12,
    c = positions + <usize>load<u32>(i, 8) * 12
  const w: f32 = 1 - u - v
  for (let k: usize = 0; k < 12; k += 4) store<f32>(out + k, w * load<f32>(a + k) + u * load<f32>(b + k) + v * load<f32>(c + k))
}
