// A gas as it is seen, from the tiles of a frame: what dims, what shines, and where there is anything.
import {
  MARCH_BY_HUE,
  MARCH_HUE_AT,
  MARCH_DIMS_AT,
  MARCH_SHINES_AT,
  MARCH_TINT_AT,
  MARCH_TINTS,
  MARCH_TINT_SHARE,
  MARCH_TILE_BYTES,
  MARCH_PER_DIMS,
  MARCH_PER_HUE,
  MARCH_PER_SHINES,
  MARCH_PER_TINT,
  MARCH_CELLS,
  MARCH_COLOURS,
  MARCH_DIMS,
  MARCH_DIMS0,
  MARCH_DIM_TONE,
  MARCH_EXTINCTION,
  MARCH_FLOATS,
  MARCH_FROM,
  MARCH_FULL,
  MARCH_HALVES,
  MARCH_OUT,
  MARCH_PLACES,
  MARCH_ROW,
  MARCH_ROWS,
  MARCH_SHINES,
  MARCH_SHINE_TONE,
  MARCH_SLAB,
  MARCH_SLABS,
  MARCH_TILES,
  TILE,
} from './layout'
import { toHalf } from './math'

/** A value of a tone of 256 floats, `x` from 0 to 1. */
// @ts-ignore: decorator
@inline export function tone(table: usize, x: f32): f32 {
  const q = min(max(x, <f32>0), <f32>1) * <f32>255
  const i = min(<i32>q, 254)
  const at = table + ((<usize>i) << 2)
  const a = load<f32>(at)
  return a + (load<f32>(at, 4) - a) * (q - <f32>i)
}
/** A colour of 256. */
// @ts-ignore: decorator
@inline export function shade(table: usize, x: f32): v128 {
  const q = min(max(x, <f32>0), <f32>1) * <f32>255
  const i = min(<i32>q, 254)
  const at = table + ((<usize>i) << 4)
  const a = v128.load(at)
  return f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(at, 16), a), f32x4.splat(q - <f32>i)))
}
// @ts-ignore: decorator
@inline function fromHalf(h: u32): f32 {
  return reinterpret<f32>((h & 0x7fff) << 13) * <f32>5.192296858534828e33
}
/** Empties a plane of cells and of what dims, with the cells around. */
export function clearPlane(m: usize, k: i32): void {
  const slab = <usize>load<i32>(m + MARCH_SLAB),
    cells = <usize>load<u32>(m + MARCH_CELLS)
  if (cells) memory.fill(cells + ((<usize>k * slab) << 4), 0, slab << 4)
  memory.fill(<usize>load<u32>(m + MARCH_DIMS0) + ((<usize>k * slab) << 2), 0, slab << 2)
}
/** One tile of the frame into the grids, and how much light it gives. */
export function unpackTile(m: usize, n: i32): void {
  const t = load<i32>(<usize>load<u32>(m + MARCH_PLACES) + ((<usize>n) << 2))
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4)
  const row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB)
  const i0 = (t % tx) * TILE,
    j0 = ((t / tx) % ty) * TILE,
    k0 = (t / (tx * ty)) * TILE
  const tile = <usize>load<u32>(m + MARCH_HALVES) + <usize>n * <usize>load<u32>(m + MARCH_TILE_BYTES)
  const dims = tile + <usize>load<u32>(m + MARCH_DIMS_AT),
    shines = tile + <usize>load<u32>(m + MARCH_SHINES_AT),
    hues = tile + <usize>load<u32>(m + MARCH_HUE_AT),
    tints = tile + <usize>load<u32>(m + MARCH_TINT_AT)
  const perDims = load<f32>(m + MARCH_PER_DIMS),
    perShines = load<f32>(m + MARCH_PER_SHINES),
    perHue = load<f32>(m + MARCH_PER_HUE),
    perTint = load<f32>(m + MARCH_PER_TINT),
    isTinted = load<u32>(m + MARCH_TINTS) != 0,
    isShare = load<u32>(m + MARCH_TINT_SHARE) != 0
  const extinction = load<f32>(m + MARCH_EXTINCTION),
    dimTone = <usize>load<u32>(m + MARCH_DIM_TONE),
    shineTone = <usize>load<u32>(m + MARCH_SHINE_TONE),
    colours = <usize>load<u32>(m + MARCH_COLOURS),
    byHue = load<u32>(m + MARCH_BY_HUE) == 1
  let power = f32x4.splat(0),
    weight: f32 = 0,
    sx: f32 = 0,
    sy: f32 = 0,
    sz: f32 = 0
  let o: usize = 0
  for (let k = 0; k < TILE; k++)
    for (let j = 0; j < TILE; j++) {
      const at = i0 + 1 + (j0 + j + 1) * row + (k0 + k + 1) * slab
      let cell = <usize>load<u32>(m + MARCH_CELLS) + ((<usize>at) << 4),
        dim = <usize>load<u32>(m + MARCH_DIMS0) + ((<usize>at) << 2)
      for (let i = 0; i < TILE; i++, o += 2, cell += 16, dim += 4) {
        const thick = fromHalf(<u32>load<u16>(dims + o)) * perDims
        const ext = extinction > 0 ? extinction * tone(dimTone, thick) : <f32>0
        const by = shineTone ? fromHalf(<u32>load<u16>(shines + o)) * perShines : <f32>0,
          hue = fromHalf(<u32>load<u16>(hues + o)) * perHue
        store<f32>(dim, ext)
        store<f32>(cell, ext)
        store<f32>(cell, by, 4)
        store<f32>(cell, hue, 8)
        if (isTinted) {
          const tint = fromHalf(<u32>load<u16>(tints + o)) * perTint
          store<f32>(cell, isShare ? tint / max(thick, <f32>1e-6) : tint, 12)
        }
        if (by > 0) {
          const light = tone(shineTone, by)
          if (light > 0) {
            power = f32x4.add(power, f32x4.mul(shade(colours, byHue ? hue : by), f32x4.splat(light)))
            weight += light
            sx += light * (<f32>(i0 + i) + <f32>0.5)
            sy += light * (<f32>(j0 + j) + <f32>0.5)
            sz += light * (<f32>(k0 + k) + <f32>0.5)
          }
        }
      }
    }
  const out = <usize>load<u32>(m + MARCH_SHINES) + ((<usize>n) << 5)
  v128.store(out, power)
  const per: f32 = weight > 0 ? 1 / weight : 0
  store<f32>(out, sx * per, 16)
  store<f32>(out, sy * per, 20)
  store<f32>(out, sz * per, 24)
  store<f32>(out, weight, 28)
}
/** Whether a sample anywhere in a tile can find something: it or the cells beside it hold something. */
export function markTile(m: usize, t: i32): void {
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4)
  const row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB)
  const first = (t % tx) * TILE + ((t / tx) % ty) * TILE * row + (t / (tx * ty)) * TILE * slab
  const cells = <usize>load<u32>(m + MARCH_CELLS),
    dims = <usize>load<u32>(m + MARCH_DIMS0)
  let any = v128.splat<i64>(0)
  if (!cells) {
    // Of a cloud, ten cells of what dims in three vectors.
    for (let k = 0; k < TILE + 2; k++)
      for (let j = 0; j < TILE + 2; j++) {
        const at = dims + ((<usize>(first + j * row + k * slab)) << 2)
        any = v128.or(any, v128.or(v128.load(at), v128.or(v128.load(at, 16), v128.load64_zero(at, 32))))
      }
    store<u8>(<usize>load<u32>(m + MARCH_FULL) + <usize>t, v128.any_true(any) ? 1 : 0)
    return
  }
  // What dims, and what shines.
  for (let k = 0; k < TILE + 2; k++)
    for (let j = 0; j < TILE + 2; j++) {
      let at = cells + ((<usize>(first + j * row + k * slab)) << 4)
      for (let i = 0; i < TILE + 2; i++, at += 16) any = v128.or(any, v128.load64_zero(at))
    }
  store<u8>(<usize>load<u32>(m + MARCH_FULL) + <usize>t, v128.any_true(any) ? 1 : 0)
}
/** A plane of means of 2³ cells of the grid before: of what dims. */
export function halvePlane(m: usize, level: usize, k: i32): void {
  const from = <usize>load<u32>(m + MARCH_DIMS0 + ((level - 1) << 2)),
    to = <usize>load<u32>(m + MARCH_DIMS0 + (level << 2))
  const row = load<i32>(m + MARCH_ROWS + ((level - 1) << 2)),
    slab = load<i32>(m + MARCH_SLABS + ((level - 1) << 2))
  const outRow = load<i32>(m + MARCH_ROWS + (level << 2)),
    outSlab = load<i32>(m + MARCH_SLABS + (level << 2))
  const nx = load<i32>(m + MARCH_DIMS) >> <i32>level,
    ny = load<i32>(m + MARCH_DIMS + 4) >> <i32>level
  const S = (<usize>row) << 2,
    P = (<usize>slab) << 2
  for (let j = 0; j < ny; j++) {
    let at = from + ((<usize>(1 + (2 * j + 1) * row + (2 * k + 1) * slab)) << 2),
      out = to + ((<usize>(1 + (j + 1) * outRow + (k + 1) * outSlab)) << 2)
    for (let i = 0; i < nx; i++, at += 8, out += 4)
      store<f32>(
        out,
        <f32>0.125 *
          (load<f32>(at) +
            load<f32>(at, 4) +
            load<f32>(at + S) +
            load<f32>(at + S, 4) +
            load<f32>(at + P) +
            load<f32>(at + P, 4) +
            load<f32>(at + S + P) +
            load<f32>(at + S + P, 4)),
      )
  }
}
/** So many floats as half floats, for textures. */
export function packPiece(m: usize, n: i32): void {
  const floats = load<i32>(m + MARCH_FLOATS)
  let from = <usize>load<u32>(m + MARCH_FROM) + ((<usize>n * <usize>floats) << 2),
    out = <usize>load<u32>(m + MARCH_OUT) + ((<usize>n * <usize>floats) << 1)
  for (let i = 0; i < floats; i++, from += 4, out += 2) store<u16>(out, <u16>toHalf(load<f32>(from)))
}
