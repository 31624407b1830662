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
  MARCH_SHINING,
  MARCH_SHINE_TONE,
  MARCH_SLAB,
  MARCH_SLABS,
  MARCH_TILES,
  TILE,
} from './layout'
import { fromHalves, toHalf } from './math'

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
/** Four values of a tone, as `tone` gives them. */
// @ts-ignore: decorator
@inline function tone4(table: usize, x: v128): v128 {
  // Where nothing is, most often, all are the first.
  if (!v128.any_true(x)) return f32x4.splat(load<f32>(table))
  const q = f32x4.mul(f32x4.min(f32x4.max(x, f32x4.splat(0)), f32x4.splat(1)), f32x4.splat(255))
  const i = i32x4.min_s(i32x4.trunc_sat_f32x4_s(q), i32x4.splat(254)),
    at = i32x4.shl(i, 2)
  const ab = v128.load64_lane(table + <usize>i32x4.extract_lane(at, 1), v128.load64_zero(table + <usize>i32x4.extract_lane(at, 0)), 1),
    cd = v128.load64_lane(table + <usize>i32x4.extract_lane(at, 3), v128.load64_zero(table + <usize>i32x4.extract_lane(at, 2)), 1)
  const low = v128.shuffle<f32>(ab, cd, 0, 2, 4, 6),
    high = v128.shuffle<f32>(ab, cd, 1, 3, 5, 7)
  return f32x4.add(low, f32x4.mul(f32x4.sub(high, low), f32x4.sub(q, f32x4.convert_i32x4_s(i))))
}
/** Four cells of which each vector has one float. */
// @ts-ignore: decorator
@inline export function store4(at: usize, a: v128, b: v128, c: v128, d: v128): void {
  const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5),
    cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5),
    abHigh = v128.shuffle<f32>(a, b, 2, 6, 3, 7),
    cdHigh = v128.shuffle<f32>(c, d, 2, 6, 3, 7)
  v128.store(at, v128.shuffle<i64>(ab, cd, 0, 2))
  v128.store(at, v128.shuffle<i64>(ab, cd, 1, 3), 16)
  v128.store(at, v128.shuffle<i64>(abHigh, cdHigh, 0, 2), 32)
  v128.store(at, v128.shuffle<i64>(abHigh, cdHigh, 1, 3), 48)
}
/** Empties a plane of cells and of what dims, with the cells around. */
export function clearPlane(m: usize, k: i32): void {
  const slab = <usize>load<i32>(m + MARCH_SLAB),
    cells = <usize>load<u32>(m + MARCH_CELLS)
  if (cells) memory.fill(cells + ((<usize>k * slab) << 4), 0, slab << 4)
  memory.fill(<usize>load<u32>(m + MARCH_DIMS0) + ((<usize>k * slab) << 2), 0, slab << 2)
}
/** Which tiles see the cells of a row that hold something, a bit each of 3³ around their own: those that they lie beside. */
function sides(holds: u32, j: i32, k: i32): u32 {
  const x: u32 = (holds & 1 ? 1 : 0) | 2 | (holds >> (TILE - 1) ? 4 : 0)
  const y: u32 = j == 0 ? x | (x << 3) : j == TILE - 1 ? (x << 3) | (x << 6) : x << 3
  return k == 0 ? y | (y << 9) : k == TILE - 1 ? (y << 9) | (y << 18) : y << 9
}
/** Marks, in bytes of tiles, those around one in which a sample can find something of it. Several threads may write the same. */
function markAround(m: usize, marks: usize, t: i32, found: u32): void {
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4),
    tz = load<i32>(m + MARCH_TILES + 8)
  for (let n = 0; n < 27; n++) {
    if (!((found >> n) & 1)) continue
    const i = (t % tx) + (n % 3) - 1,
      j = ((t / tx) % ty) + ((n / 3) % 3) - 1,
      k = t / (tx * ty) + n / 9 - 1
    if (i >= 0 && j >= 0 && k >= 0 && i < tx && j < ty && k < tz) store<u8>(marks + <usize>(i + tx * (j + ty * k)), 1)
  }
}
/** One tile of the frame into the grids, how much light it gives, and where samples find something of it. */
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
  let o: usize = 0,
    found: u32 = 0,
    lit: u32 = 0
  for (let k = 0; k < TILE; k++)
    for (let j = 0; j < TILE; j++) {
      let holds: u32 = 0,
        shine: u32 = 0
      const at = i0 + 1 + (j0 + j + 1) * row + (k0 + k + 1) * slab
      let cell = <usize>load<u32>(m + MARCH_CELLS) + ((<usize>at) << 4),
        dim = <usize>load<u32>(m + MARCH_DIMS0) + ((<usize>at) << 2)
      for (let i = 0; i < TILE; i += 4, o += 8, cell += 64, dim += 16) {
        const thick = f32x4.mul(fromHalves(dims + o), f32x4.splat(perDims))
        const ext = extinction > 0 ? f32x4.mul(f32x4.splat(extinction), tone4(dimTone, thick)) : f32x4.splat(0)
        const by = shineTone ? f32x4.mul(fromHalves(shines + o), f32x4.splat(perShines)) : f32x4.splat(0),
          hue = f32x4.mul(fromHalves(hues + o), f32x4.splat(perHue))
        let tint = f32x4.splat(0)
        if (isTinted) {
          tint = f32x4.mul(fromHalves(tints + o), f32x4.splat(perTint))
          if (isShare) tint = f32x4.div(tint, f32x4.max(thick, f32x4.splat(1e-6)))
        }
        holds |= (<u32>i32x4.bitmask(f32x4.ne(ext, f32x4.splat(0)))) << i
        v128.store(dim, ext)
        store4(cell, ext, by, hue, tint)
        if (!v128.any_true(by)) continue
        shine |= (<u32>i32x4.bitmask(f32x4.ne(by, f32x4.splat(0)))) << i
        for (let c = 0; c < 4; c++) {
          const at = cell + ((<usize>c) << 4),
            by = load<f32>(at, 4)
          if (!(by > 0)) continue
          const light = tone(shineTone, by)
          if (!(light > 0)) continue
          power = f32x4.add(power, f32x4.mul(shade(colours, byHue ? load<f32>(at, 8) : by), f32x4.splat(light)))
          weight += light
          sx += light * (<f32>(i0 + i + c) + <f32>0.5)
          sy += light * (<f32>(j0 + j) + <f32>0.5)
          sz += light * (<f32>(k0 + k) + <f32>0.5)
        }
      }
      if (holds | shine) found |= sides(holds | shine, j, k)
      if (shine) lit |= sides(shine, j, k)
    }
  if (found) markAround(m, <usize>load<u32>(m + MARCH_FULL), t, found)
  if (lit) markAround(m, <usize>load<u32>(m + MARCH_SHINING), t, lit)
  const out = <usize>load<u32>(m + MARCH_SHINES) + ((<usize>n) << 5)
  v128.store(out, power)
  const per: f32 = weight > 0 ? 1 / weight : 0
  store<f32>(out, sx * per, 16)
  store<f32>(out, sy * per, 20)
  store<f32>(out, sz * per, 24)
  store<f32>(out, weight, 28)
}
/** Whether a sample anywhere in a tile of a cloud can find something: it or the cells beside it hold something. */
export function markTile(m: usize, t: i32): void {
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4)
  const row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB)
  const first = (t % tx) * TILE + ((t / tx) % ty) * TILE * row + (t / (tx * ty)) * TILE * slab
  const dims = <usize>load<u32>(m + MARCH_DIMS0)
  let any = v128.splat<i64>(0)
  // Ten cells in three vectors.
  for (let k = 0; k < TILE + 2; k++)
    for (let j = 0; j < TILE + 2; j++) {
      const at = dims + ((<usize>(first + j * row + k * slab)) << 2)
      any = v128.or(any, v128.or(v128.load(at), v128.or(v128.load(at, 16), v128.load64_zero(at, 32))))
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
/** Empties so many floats. */
export function blankPiece(m: usize, n: i32): void {
  const bytes = (<usize>load<i32>(m + MARCH_FLOATS)) << 2
  memory.fill(<usize>load<u32>(m + MARCH_FROM) + <usize>n * bytes, 0, bytes)
}
/** So many floats as half floats, for textures. */
export function packPiece(m: usize, n: i32): void {
  const floats = load<i32>(m + MARCH_FLOATS)
  let from = <usize>load<u32>(m + MARCH_FROM) + ((<usize>n * <usize>floats) << 2),
    out = <usize>load<u32>(m + MARCH_OUT) + ((<usize>n * <usize>floats) << 1)
  for (let i = 0; i < floats; i++, from += 4, out += 2) store<u16>(out, <u16>toHalf(load<f32>(from)))
}
