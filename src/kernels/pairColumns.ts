// Columns of particles that meet each other, and what all of their steps ask.
import { GRID_COLUMNS, GRID_SORTED, GRID_STRIDE } from './layout'
import { hash3, signed } from './math'

// @ts-ignore: decorator
@inline export function at(g: usize, c: usize, s: i32): usize {
  return <usize>load<u32>(g + GRID_SORTED) + c * <usize>load<u32>(g + GRID_STRIDE) + ((<usize>s) << 2)
}
// @ts-ignore: decorator
@inline export function source(g: usize, c: i32, i: i32): usize {
  return <usize>load<u32>(<usize>load<u32>(g + GRID_COLUMNS) + ((<usize>c) << 2)) + ((<usize>i) << 2)
}

/** Which way two that are at one place go apart: by their numbers, each the other's opposite. */
// @ts-ignore: decorator
@inline export function apart(s: i32, j: i32, axis: u32): f32 {
  const direction = signed(hash3(0x51ed270b, <u32>min(s, j) ^ ((<u32>max(s, j)) << 16), axis))
  return s < j ? direction : -direction
}
/** Friction takes away what two slid along each other, up to its share of their overlap (Coulomb): how much of it. */
// @ts-ignore: decorator
@inline export function stopped(tx: f32, ty: f32, tz: f32, maximum: f32): f32 {
  const slid = Mathf.sqrt(tx * tx + ty * ty + tz * tz)
  return slid > 1e-12 ? min(<f32>1, maximum / slid) : 0
}
