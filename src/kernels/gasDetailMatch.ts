// The finer cells of a gas have what it has: what sources and burning change, and the means of blocks: see gasDetail.
import {
  DETAIL_BLOCKS,
  DETAIL_BLOCKS_NEXT,
  DETAIL_CHANGES,
  DETAIL_FACTOR,
  DETAIL_GRIDS,
  DETAIL_LIST,
  DETAIL_MEANS,
  DETAIL_MEANS_ROW,
  DETAIL_MEANS_SLAB,
  GAS_DETAIL,
  GAS_DIMS,
  GAS_ROW,
  GAS_SCALARS,
  GAS_SLAB,
  TILE,
} from './layout'
import { among, blendRow, high, low, mix, roomOf } from './gasBlend'
import { splat, traced } from './gasSample'

/** A step changes what there is by at most so much to meet what the gas has. */
const MOST_GAIN: f32 = 1.25
/** Of as little it is not said how many times less it is than something else. */
const NOTHING: f32 = 1e-4

/** What the gas has in each block of 4³ cells of a tile, and what its finer cells have there, both by the cell. */
export function means(g: usize, d: usize, block: usize, ti: i32, tj: i32, tk: i32): void {
  const factor = load<i32>(d + DETAIL_FACTOR),
    grids = load<i32>(d + DETAIL_GRIDS),
    many = factor * TILE,
    fine = factor * 4
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const first = ((<usize>(ti * TILE)) << 2) + <usize>(tj * TILE) * S + <usize>(tk * TILE) * P
  const row = load<i32>(d + DETAIL_MEANS_ROW),
    slab = load<i32>(d + DETAIL_MEANS_SLAB)
  const out = <usize>load<u32>(d + DETAIL_MEANS)
  for (let q = 0; q < grids; q++) {
    const from = block + ((<usize>(q * many * many * many)) << 2),
      field = <usize>load<u32>(g + GAS_SCALARS + (q ? 12 : 0)) + first
    for (let b = 0; b < 8; b++) {
      const i = b & 1,
        j = (b >> 1) & 1,
        k = b >> 2
      let gas = splat(0),
        own = splat(0)
      for (let z = 0; z < 4; z++)
        for (let y = 0; y < 4; y++)
          gas = f32x4.add(gas, v128.load(field + ((<usize>i) << 4) + <usize>(j * 4 + y) * S + <usize>(k * 4 + z) * P))
      for (let z = 0; z < fine; z++)
        for (let y = 0; y < fine; y++) {
          const o = from + ((<usize>(i * fine + many * (j * fine + y + many * (k * fine + z)))) << 2)
          for (let x: usize = 0; x < <usize>fine; x += 4) own = f32x4.add(own, v128.load(o + (x << 2)))
        }
      const to = out + <usize>((ti * 2 + i + (tj * 2 + j) * row + (tk * 2 + k) * slab) << 4) + ((<usize>q) << 2)
      store<f32>(to, total(gas) * <f32>(1 / 64.0))
      store<f32>(to, total(own) * (<f32>(1 / 64.0) / <f32>(factor * factor * factor)), 8)
    }
  }
}
// @ts-ignore: decorator
@inline function total(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
}
/** Four places of a row of four floats each, lane by lane: the first, second, third and fourth of all of them. */
// @ts-ignore: decorator
@inline function rowAt(rows: usize, x: f32): v128 {
  const cell = <i32>x,
    o = rows + ((<usize>cell) << 4)
  return mix(v128.load(o), v128.load(o, 16), splat(x - <f32>cell))
}
/** Visits the finer cells of a tile, four at a time, with four floats of a grid of cells, or of blocks of cells, blended between. */
// @ts-ignore: decorator
@inline function bring(block: usize, grids: i32, many: i32, grid: usize, S: usize, P: usize, per: f32, rows: usize, gains: bool): void {
  const volume = (<usize>(many * many * many)) << 2
  const two = grids == 2
  for (let k = 0; k < many; k++) {
    const z = among(k, per),
      k0 = <i32>z
    for (let j = 0; j < many; j++) {
      const y = among(j, per),
        j0 = <i32>y
      blendRow(grid + <usize>(j0 - 1) * S + <usize>(k0 - 1) * P - 16, S, P, y - <f32>j0, z - <f32>k0, rows)
      const to = block + ((<usize>((k * many + j) * many)) << 2)
      for (let i = 0; i < many; i += 4) {
        const m0 = rowAt(rows, among(i, per)),
          m1 = rowAt(rows, among(i + 1, per)),
          m2 = rowAt(rows, among(i + 2, per)),
          m3 = rowAt(rows, among(i + 3, per))
        const a = low(m0, m1),
          b = low(m2, m3),
          c = high(m0, m1),
          e = high(m2, m3)
        const at = to + ((<usize>i) << 2)
        v128.store(at, brought(v128.load(at), i32x4.shuffle(a, b, 0, 1, 4, 5), i32x4.shuffle(c, e, 0, 1, 4, 5), gains))
        if (two)
          v128.store(at + volume, brought(v128.load(at + volume), i32x4.shuffle(a, b, 2, 3, 6, 7), i32x4.shuffle(c, e, 2, 3, 6, 7), gains))
      }
    }
  }
}
/** What comes is added to the share that is left; or it becomes as much as there should be, of as much as there is, but for little a step. */
// @ts-ignore: decorator
@inline function brought(now: v128, a: v128, b: v128, gains: bool): v128 {
  if (gains) return traced(f32x4.add(f32x4.mul(now, b), a))
  const by = f32x4.div(f32x4.add(a, splat(NOTHING)), f32x4.add(b, splat(NOTHING)))
  return traced(f32x4.mul(now, f32x4.pmin(f32x4.pmax(by, splat(<f32>1 / MOST_GAIN)), splat(MOST_GAIN))))
}
/** Does to the finer cells of a tile what sources and burning have done to the gas, before both are moved. */
export function gainTile(g: usize, n: i32, thread: i32): void {
  const d = <usize>load<u32>(g + GAS_DETAIL)
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  const t = load<i32>(<usize>load<u32>(d + DETAIL_LIST) + ((<usize>n) << 2))
  const factor = load<i32>(d + DETAIL_FACTOR)
  const S = (<usize>load<i32>(g + GAS_ROW)) << 4,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 4
  const changes =
    <usize>load<u32>(d + DETAIL_CHANGES) +
    ((<usize>((t % tx) * TILE)) << 4) +
    <usize>(((t / tx) % ty) * TILE) * S +
    <usize>((t / (tx * ty)) * TILE) * P
  const block = <usize>load<u32>(<usize>load<u32>(d + DETAIL_BLOCKS) + ((<usize>t) << 2))
  bring(block, load<i32>(d + DETAIL_GRIDS), factor * TILE, changes, S, P, <f32>1 / <f32>factor, roomOf(d, thread), true)
}
/** Brings the finer cells of a tile to what the gas has: by blocks of cells, blended from block to block, so that no edge is seen. */
export function matchTile(g: usize, n: i32, thread: i32): void {
  const d = <usize>load<u32>(g + GAS_DETAIL)
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  const t = load<i32>(<usize>load<u32>(d + DETAIL_LIST) + ((<usize>n) << 2))
  const factor = load<i32>(d + DETAIL_FACTOR)
  const S = (<usize>load<i32>(d + DETAIL_MEANS_ROW)) << 4,
    P = (<usize>load<i32>(d + DETAIL_MEANS_SLAB)) << 4
  const means =
    <usize>load<u32>(d + DETAIL_MEANS) +
    ((<usize>((t % tx) * 2)) << 4) +
    <usize>(((t / tx) % ty) * 2) * S +
    <usize>((t / (tx * ty)) * 2) * P
  const block = <usize>load<u32>(<usize>load<u32>(d + DETAIL_BLOCKS_NEXT) + ((<usize>t) << 2))
  bring(block, load<i32>(d + DETAIL_GRIDS), factor * TILE, means, S, P, <f32>0.25 / <f32>factor, roomOf(d, thread), false)
}
