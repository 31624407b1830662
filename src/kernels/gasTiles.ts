// Which tiles of a gas hold anything, and what of them a frame keeps: half floats.
import { toHalves } from './math'
import { GAS_DIMS, GAS_OPS, GAS_ROW, GAS_SCALARS, GAS_SLAB, GAS_TABLE, SCALAR_COUNT, TILE, TILE_GRID_BYTES } from './layout'

/** Less than this is nothing. Of fuel as of density. */
export const HOLDS_DENSITY: f32 = 0.002
/** K */
export const HOLDS_HEAT: f32 = 4
export const HOLDS_FLAME: f32 = 0.004
// @ts-ignore: decorator
@inline function least(n: usize): f32 {
  return n == 4 ? HOLDS_HEAT : n == 12 ? HOLDS_FLAME : HOLDS_DENSITY
}

/** Of a tile that holds something, what there is so much less of is nothing. */
const TRACE: f32 = 0.125
/** Set while a tile is looked at: there is enough of something to be seen. */
const SEEN: u32 = 0x80000000
/** So many tiles side by side at once: what is largest in each has to have room in the scratch. */
const SPAN: usize = 512
/** Joins what one scalar says of some tiles side by side to what is known of them. */
function mark(table: usize, count: usize, at: usize, S: usize, P: usize, over: v128, trace: v128, n: usize, scratch: usize): void {
  const end = scratch + (count << 4)
  memory.fill(scratch, 0, count << 4)
  for (let k: usize = 0; k < <usize>TILE; k++)
    for (let j: usize = 0; j < <usize>TILE; j++) {
      let cells = at + j * S + k * P
      for (let most = scratch; most < end; most += 16, cells += 32)
        v128.store(most, f32x4.pmax(v128.load(most), f32x4.pmax(v128.load(cells), v128.load(cells, 16))))
    }
  for (let t: usize = 0; t < count; t++) {
    const most = v128.load(scratch + (t << 4))
    let holds = load<u32>(table + (t << 2))
    if (v128.any_true(f32x4.gt(most, over))) holds |= SEEN
    if (v128.any_true(f32x4.gt(most, trace))) holds |= 1 << (<u32>(n >> 2))
    store<u32>(table + (t << 2), holds)
  }
}
/**
 * What the tiles of a row of them hold, a bit for each scalar, into the table. Row of cells by row of cells, as they stand in memory: tile by
 * tile took nearly three times as long.
 */
export function holdsTiles(g: usize, r: i32, scratch: usize): void {
  const tx = <usize>(load<i32>(g + GAS_DIMS) / TILE),
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const first = <usize>((r % ty) * TILE) * S + <usize>((r / ty) * TILE) * P
  const table = <usize>load<u32>(g + GAS_TABLE) + ((<usize>r * tx) << 2)
  memory.fill(table, 0, tx << 2)
  for (let n: usize = 0; n < SCALAR_COUNT << 2; n += 4) {
    const field = <usize>load<u32>(g + GAS_SCALARS + n)
    if (field == 0) continue
    const over = f32x4.splat(least(n)),
      trace = f32x4.mul(over, f32x4.splat(TRACE))
    for (let t: usize = 0; t < tx; t += SPAN)
      mark(table + (t << 2), min(SPAN, tx - t), field + first + (t << 5), S, P, over, trace, n, scratch)
  }
  for (let t = table, end = table + (tx << 2); t < end; t += 4) {
    const holds = load<u32>(t)
    store<u32>(t, holds & SEEN ? holds & ~SEEN : 0)
  }
}
/** The grids that a record of the frame holds of a gas, by their places among its scalars: all but fuel, and of the dyes those that it has. */
// @ts-ignore: decorator
@inline export function isKept(g: usize, slot: usize): bool {
  return slot != 2 && (slot < 4 || load<u32>(g + GAS_SCALARS + (slot << 2)) != 0)
}
// @ts-ignore: decorator
@inline export function keptGrids(g: usize): usize {
  return 3 + <usize>(isKept(g, 4) ? 1 : 0) + <usize>(isKept(g, 5) ? 1 : 0)
}
/** One tile of those that are kept: density, temperature, flame and dyes of its cells, a grid behind the other. The ops' pointer leads to them. */
export function packTile(g: usize, n: i32): void {
  const t = load<i32>(<usize>load<u32>(g + GAS_TABLE) + ((<usize>n) << 2))
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const first = ((<usize>((t % tx) * TILE)) << 2) + <usize>(((t / tx) % ty) * TILE) * S + <usize>((t / (tx * ty)) * TILE) * P
  let out = <usize>load<u32>(g + GAS_OPS) + <usize>n * keptGrids(g) * TILE_GRID_BYTES
  for (let q: usize = 0; q < SCALAR_COUNT; q++) {
    if (!isKept(g, q)) continue
    const field = <usize>load<u32>(g + GAS_SCALARS + (q << 2))
    for (let k: usize = 0; k < <usize>TILE; k++)
      for (let j: usize = 0; j < <usize>TILE; j++, out += 2 * TILE) {
        const at = field + first + j * S + k * P
        v128.store(out, field ? toHalves(v128.load(at), v128.load(at, 16)) : i32x4.splat(0))
      }
  }
}
