// Grids of four floats a node, and rows of them, blended between; and what every thread works in.
import { DETAIL_ROOM, DETAIL_ROOM_BYTES, TILE } from './layout'
import { splat } from './gasSample'

/** Cells of a row of a tile with one more at each end. */
export const ROW_CELLS: i32 = TILE + 2

// @ts-ignore: decorator
@inline export function mix(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), t))
}
/** Trilinear among four floats a node. */
// @ts-ignore: decorator
@inline export function blend(q: usize, S: usize, P: usize, fx: v128, fy: v128, fz: v128): v128 {
  const a = mix(v128.load(q), v128.load(q + P), fz),
    b = mix(v128.load(q, 16), v128.load(q + P, 16), fz),
    c = mix(v128.load(q + S), v128.load(q + S + P), fz),
    d = mix(v128.load(q + S, 16), v128.load(q + S + P, 16), fz)
  return mix(mix(a, c, fy), mix(b, d, fy), fx)
}
// @ts-ignore: decorator
@inline export function lane0(v: v128): v128 {
  return i32x4.shuffle(v, v, 0, 0, 0, 0)
}
// @ts-ignore: decorator
@inline export function lane1(v: v128): v128 {
  return i32x4.shuffle(v, v, 1, 1, 1, 1)
}
// @ts-ignore: decorator
@inline export function lane2(v: v128): v128 {
  return i32x4.shuffle(v, v, 2, 2, 2, 2)
}
// @ts-ignore: decorator
@inline export function lane3(v: v128): v128 {
  return i32x4.shuffle(v, v, 3, 3, 3, 3)
}
// @ts-ignore: decorator
@inline export function low(a: v128, b: v128): v128 {
  return i32x4.shuffle(a, b, 0, 4, 1, 5)
}
// @ts-ignore: decorator
@inline export function high(a: v128, b: v128): v128 {
  return i32x4.shuffle(a, b, 2, 6, 3, 7)
}
/** Four rows of cells blended into one, from the cell before a tile to the one behind it. */
// @ts-ignore: decorator
@inline export function blendRow(q: usize, S: usize, P: usize, fy: f32, fz: f32, out: usize): void {
  const y = splat(fy),
    z = splat(fz)
  for (let i = 0; i < ROW_CELLS; i++, q += 16, out += 16)
    v128.store(out, mix(mix(v128.load(q), v128.load(q + P), z), mix(v128.load(q + S), v128.load(q + S + P), z), y))
}
/** Where the n-th of the finer cells lies among cells, from the cell before the first on. */
// @ts-ignore: decorator
@inline export function among(n: i32, perFactor: f32): f32 {
  return (<f32>n + <f32>0.5) * perFactor + <f32>0.5
}
// @ts-ignore: decorator
@inline export function roomOf(d: usize, thread: i32): usize {
  return <usize>load<u32>(d + DETAIL_ROOM) + <usize>thread * <usize>load<u32>(d + DETAIL_ROOM_BYTES)
}
