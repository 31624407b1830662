// Which tiles of 8³ finer cells hold anything, and what of them a frame keeps: as gasTiles, with the temperature of the gas between its cells.
import { HOLDS_DENSITY, HOLDS_FLAME, HOLDS_HEAT, isKept, keptGrids } from './gasTiles'
import {
  DETAIL_BLOCKS,
  DETAIL_FACTOR,
  DETAIL_GRIDS,
  DETAIL_LIST,
  GAS_DETAIL,
  GAS_DIMS,
  GAS_OPS,
  GAS_ROW,
  GAS_SCALARS,
  GAS_SLAB,
  GAS_TABLE,
  SCALAR_COUNT,
  TILE,
  TILE_GRID_BYTES,
} from './layout'
import { toHalf } from './math'

/** The first of a grid of a finer tile, in its block. */
// @ts-ignore: decorator
@inline function cornerOf(block: usize, grid: i32, factor: i32, part: i32): usize {
  const many = factor * TILE
  const i = part % factor,
    j = (part / factor) % factor,
    k = part / (factor * factor)
  return block + ((<usize>(i * TILE + many * (j * TILE + many * (k * TILE + many * grid)))) << 2)
}
function holds(corner: usize, many: i32, over: f32): bool {
  let most = f32x4.splat(0)
  for (let k = 0; k < TILE; k++)
    for (let j = 0; j < TILE; j++) {
      const o = corner + ((<usize>(many * (j + many * k))) << 2)
      most = f32x4.pmax(most, f32x4.pmax(v128.load(o), v128.load(o, 16)))
    }
  return v128.any_true(f32x4.gt(most, f32x4.splat(over)))
}
/** Whether the gas holds some of a scalar in a cell of the window that a finer tile shares. */
function isAround(g: usize, slot: usize, over: f32, t: i32, factor: i32, part: i32): bool {
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  const row = load<i32>(g + GAS_ROW),
    slab = load<i32>(g + GAS_SLAB)
  const field =
    <usize>load<u32>(g + GAS_SCALARS + (slot << 2)) +
    ((<usize>((t % tx) * TILE + ((t / tx) % ty) * TILE * row + (t / (tx * ty)) * TILE * slab)) << 2)
  const i = part % factor,
    j = (part / factor) % factor,
    k = part / (factor * factor)
  for (let c = (k * TILE) / factor; c * factor < (k + 1) * TILE; c++)
    for (let b = (j * TILE) / factor; b * factor < (j + 1) * TILE; b++)
      for (let a = (i * TILE) / factor; a * factor < (i + 1) * TILE; a++)
        if (load<f32>(field + ((<usize>(a + b * row + c * slab)) << 2)) > over) return true
  return false
}
/** Whether each finer tile of a tile at work holds anything, into the table, as many words a tile as it has of them. */
export function detailTiles(g: usize, n: i32): void {
  const d = <usize>load<u32>(g + GAS_DETAIL)
  const factor = load<i32>(d + DETAIL_FACTOR),
    many = factor * TILE,
    parts = factor * factor * factor
  const t = load<i32>(<usize>load<u32>(d + DETAIL_LIST) + ((<usize>n) << 2)),
    block = <usize>load<u32>(<usize>load<u32>(d + DETAIL_BLOCKS) + ((<usize>t) << 2))
  const burns = load<i32>(d + DETAIL_GRIDS) == 2
  const out = <usize>load<u32>(g + GAS_TABLE) + ((<usize>(n * parts)) << 2)
  for (let p = 0; p < parts; p++)
    store<u32>(
      out + ((<usize>p) << 2),
      holds(cornerOf(block, 0, factor, p), many, HOLDS_DENSITY) ||
        (burns && holds(cornerOf(block, 1, factor, p), many, HOLDS_FLAME)) ||
        isAround(g, 1, HOLDS_HEAT, t, factor, p) ||
        (isKept(g, 4) && isAround(g, 4, HOLDS_DENSITY, t, factor, p)) ||
        (isKept(g, 5) && isAround(g, 5, HOLDS_DENSITY, t, factor, p))
        ? 1
        : 0,
    )
}
/** A scalar between the middles of cells; places in cells of the window. */
// @ts-ignore: decorator
@inline function between(
  field: usize,
  S: usize,
  P: usize,
  i: usize,
  j: usize,
  k: usize,
  fx: f32,
  fy: f32,
  fz: f32,
  ex: usize,
  ey: usize,
  ez: usize,
): f32 {
  const q = field + i + j + k
  const a = load<f32>(q) + (load<f32>(q + ex) - load<f32>(q)) * fx,
    b = load<f32>(q + ey) + (load<f32>(q + ex + ey) - load<f32>(q + ey)) * fx,
    c = load<f32>(q + ez) + (load<f32>(q + ex + ez) - load<f32>(q + ez)) * fx,
    e = load<f32>(q + ey + ez) + (load<f32>(q + ex + ey + ez) - load<f32>(q + ey + ez)) * fx
  const low = a + (b - a) * fy,
    high = c + (e - c) * fy
  return low + (high - low) * fz
}
/** One finer tile of those that are kept, of which the table says the place in the list and the part: density, temperature, flame and dyes. */
export function detailPack(g: usize, n: i32): void {
  const d = <usize>load<u32>(g + GAS_DETAIL)
  const factor = load<i32>(d + DETAIL_FACTOR),
    many = factor * TILE,
    two = load<i32>(d + DETAIL_GRIDS) == 2
  const which = <usize>load<u32>(g + GAS_TABLE) + ((<usize>n) << 3)
  const t = load<i32>(<usize>load<u32>(d + DETAIL_LIST) + ((<usize>load<u32>(which)) << 2)),
    part = load<i32>(which, 4)
  const block = <usize>load<u32>(<usize>load<u32>(d + DETAIL_BLOCKS) + ((<usize>t) << 2))
  let out = <usize>load<u32>(g + GAS_OPS) + <usize>n * keptGrids(g) * TILE_GRID_BYTES
  for (let q: usize = 0; q < SCALAR_COUNT; q++) {
    if (!isKept(g, q)) continue
    if (q != 0 && q != 3) {
      interpolated(g, q, t, factor, part, out)
      out += TILE_GRID_BYTES
      continue
    }
    const corner = cornerOf(block, q ? 1 : 0, factor, part)
    for (let k = 0; k < TILE; k++)
      for (let j = 0; j < TILE; j++) {
        const row = corner + ((<usize>(many * (j + many * k))) << 2)
        for (let i: usize = 0; i < <usize>TILE; i++, out += 2)
          store<u16>(out, q == 0 || two ? <u16>toHalf(load<f32>(row + (i << 2))) : <u16>0)
      }
  }
}
/** What has no finer cells of its own, between those of the gas. */
function interpolated(g: usize, slot: usize, t: i32, factor: i32, part: i32, to: usize): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8)
  const tx = nx / TILE,
    ty = ny / TILE
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const field = <usize>load<u32>(g + GAS_SCALARS + (slot << 2))
  const i0 = (t % tx) * TILE * factor + (part % factor) * TILE,
    j0 = ((t / tx) % ty) * TILE * factor + ((part / factor) % factor) * TILE,
    k0 = (t / (tx * ty)) * TILE * factor + (part / (factor * factor)) * TILE
  const per: f32 = <f32>1 / <f32>factor
  for (let k = 0; k < TILE; k++) {
    const z = max(<f32>0, (<f32>(k0 + k) + <f32>0.5) * per - <f32>0.5),
      kc = <i32>z
    for (let j = 0; j < TILE; j++) {
      const y = max(<f32>0, (<f32>(j0 + j) + <f32>0.5) * per - <f32>0.5),
        jc = <i32>y
      for (let i = 0; i < TILE; i++, to += 2) {
        const x = max(<f32>0, (<f32>(i0 + i) + <f32>0.5) * per - <f32>0.5),
          ic = <i32>x
        const ex: usize = ic + 1 < nx ? 4 : 0,
          ey: usize = jc + 1 < ny ? S : 0,
          ez: usize = kc + 1 < nz ? P : 0
        store<u16>(
          to,
          <u16>(
            toHalf(between(field, S, P, (<usize>ic) << 2, <usize>jc * S, <usize>kc * P, x - <f32>ic, y - <f32>jc, z - <f32>kc, ex, ey, ez))
          ),
        )
      }
    }
  }
}
