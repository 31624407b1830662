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
/** What a tile holds, a bit for each scalar, into the table. */
export function holdsTile(g: usize, t: i32): void {
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const first = ((<usize>((t % tx) * TILE)) << 2) + <usize>(((t / tx) % ty) * TILE) * S + <usize>((t / (tx * ty)) * TILE) * P
  let holds: u32 = 0,
    traces: u32 = 0
  for (let n: usize = 0; n < SCALAR_COUNT << 2; n += 4) {
    const field = <usize>load<u32>(g + GAS_SCALARS + n)
    if (field == 0) continue
    const over = f32x4.splat(least(n))
    let most = f32x4.splat(0)
    for (let k: usize = 0; k < <usize>TILE; k++)
      for (let j: usize = 0; j < <usize>TILE; j++) {
        const at = field + first + j * S + k * P
        most = f32x4.pmax(most, f32x4.pmax(v128.load(at), v128.load(at, 16)))
      }
    if (v128.any_true(f32x4.gt(most, over))) holds = 1
    if (v128.any_true(f32x4.gt(most, f32x4.mul(over, f32x4.splat(TRACE))))) traces |= 1 << (<u32>(n >> 2))
  }
  store<u32>(<usize>load<u32>(g + GAS_TABLE) + ((<usize>t) << 2), holds ? traces : 0)
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
