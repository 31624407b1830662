// The finer cells of a gas go along: see gasDetail.
import {
  DETAIL_AMPLITUDES,
  DETAIL_BANDS,
  DETAIL_BLOCKS,
  DETAIL_BLOCKS_NEXT,
  DETAIL_FACTOR,
  DETAIL_GONE,
  DETAIL_GRIDS,
  DETAIL_LIST,
  DETAIL_MOVES,
  DETAIL_NOISE,
  DETAIL_NOISE_NODES,
  DETAIL_ORIGIN,
  DETAIL_PER_CELL,
  DETAIL_REACH,
  GAS_DETAIL,
  GAS_DIMS,
  GAS_ROW,
  GAS_SLAB,
  TILE,
} from './layout'
import { blend, blendRow, among, lane0, lane1, lane2, lane3, mix, ROW_CELLS, roomOf } from './gasBlend'
import { cubic, weights, WEIGHTS_BYTES } from './gasCubic'
import { means } from './gasDetailMatch'
import { LOCATED, locate, splat } from './gasSample'

/** A component of the noise is hardly ever larger than so many times its amplitude. */
const NOISE_MOST: f32 = 3
const NODES: i32 = DETAIL_NOISE_NODES + 1

/** Noise of all bands at a place in cells. */
// @ts-ignore: decorator
@inline function noiseAt(d: usize, noise: usize, bands: i32, place: v128): v128 {
  let sum = splat(0)
  for (let b = 0; b < bands; b++) {
    const o = (<usize>b) << 2
    // Bands lie apart, so that they are not multiples of each other.
    const p = f32x4.add(f32x4.mul(place, v128.load32_splat(d + DETAIL_PER_CELL + o)), splat(<f32>(b * 17)))
    const low = f32x4.floor(p),
      f = f32x4.sub(p, low),
      q = v128.and(i32x4.trunc_sat_f32x4_s(low), i32x4.splat(DETAIL_NOISE_NODES - 1))
    const at = i32x4.extract_lane(q, 0) + NODES * (i32x4.extract_lane(q, 1) + NODES * i32x4.extract_lane(q, 2))
    const S: usize = NODES << 4,
      P: usize = (NODES * NODES) << 4
    sum = f32x4.add(
      sum,
      f32x4.mul(v128.load32_splat(d + DETAIL_AMPLITUDES + o), blend(noise + ((<usize>at) << 4), S, P, lane0(f), lane1(f), lane2(f))),
    )
  }
  return sum
}
/** A grid of the tiles around one, `reach` cells far, from the blocks that there are; nothing elsewhere. */
function gather(g: usize, d: usize, grid: i32, i: i32, j: i32, k: i32, n: i32, reach: i32, out: usize): void {
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE,
    tz = load<i32>(g + GAS_DIMS + 8) / TILE
  const blocks = <usize>load<u32>(d + DETAIL_BLOCKS)
  const wide = n + 2 * reach,
    far = (reach + n - 1) / n
  for (let z = 0; z < wide; z++) {
    const fz = z - reach + far * n,
      tk = k + fz / n - far
    for (let y = 0; y < wide; y++) {
      const fy = y - reach + far * n,
        tj = j + fy / n - far
      const to = out + ((<usize>((z * wide + y) * wide)) << 2)
      const is = tk >= 0 && tk < tz && tj >= 0 && tj < ty
      for (let x = 0; x < wide; ) {
        const fx = x - reach + far * n,
          ti = i + fx / n - far,
          begin = fx % n
        const count = min(n - begin, wide - x)
        const block: usize = is && ti >= 0 && ti < tx ? <usize>load<u32>(blocks + ((<usize>(ti + tx * (tj + ty * tk))) << 2)) : 0
        const o = to + ((<usize>x) << 2)
        if (block) memory.copy(o, block + ((<usize>(begin + n * ((fy % n) + n * ((fz % n) + n * grid)))) << 2), (<usize>count) << 2)
        else memory.fill(o, 0, (<usize>count) << 2)
        x += count
      }
    }
  }
}
/** Cells around a tile from which something may come: as far as it goes there at most. */
// @ts-ignore: decorator
@inline function reachOf(moves: usize, S: usize, P: usize, factor: f32, most: i32): i32 {
  let far = splat(0)
  for (let k = 0; k < ROW_CELLS; k++)
    for (let j = 0; j < ROW_CELLS; j++) {
      const q = moves + <usize>(j - 1) * S + <usize>(k - 1) * P - 16
      for (let i: usize = 0; i < <usize>(ROW_CELLS << 4); i += 16) far = f32x4.pmax(far, f32x4.abs(v128.load(q + i)))
    }
  const fast = max(f32x4.extract_lane(far, 0), max(f32x4.extract_lane(far, 1), f32x4.extract_lane(far, 2)))
  return min(most, <i32>ceil(factor * (fast + NOISE_MOST * f32x4.extract_lane(far, 3))) + 3)
}
/** A tile's finer cells after the step, from those before it; and the means of its cells. */
export function carryTile(g: usize, n: i32, thread: i32): void {
  const d = <usize>load<u32>(g + GAS_DETAIL)
  const tx = load<i32>(g + GAS_DIMS) / TILE,
    ty = load<i32>(g + GAS_DIMS + 4) / TILE
  const t = load<i32>(<usize>load<u32>(d + DETAIL_LIST) + ((<usize>n) << 2))
  const ti = t % tx,
    tj = (t / tx) % ty,
    tk = t / (tx * ty)
  const factor = load<i32>(d + DETAIL_FACTOR),
    grids = load<i32>(d + DETAIL_GRIDS),
    many = factor * TILE
  const S = (<usize>load<i32>(g + GAS_ROW)) << 4,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 4
  const first = ((<usize>(ti * TILE)) << 4) + <usize>(tj * TILE) * S + <usize>(tk * TILE) * P
  const moves = <usize>load<u32>(d + DETAIL_MOVES) + first,
    gone = <usize>load<u32>(d + DETAIL_GONE) + first,
    noise = <usize>load<u32>(d + DETAIL_NOISE)
  const bands = load<i32>(d + DETAIL_BANDS)
  const per: f32 = <f32>1 / <f32>factor,
    ff = splat(<f32>factor)
  const reach = reachOf(moves, S, P, <f32>factor, load<i32>(d + DETAIL_REACH)),
    wide = many + 2 * reach
  const rows = roomOf(d, thread)
  const going = rows,
    went = rows + 256,
    at = rows + 512,
    near = rows + 512 + LOCATED + WEIGHTS_BYTES
  const cells = (<usize>(wide * wide * wide)) << 2,
    W = (<usize>wide) << 2
  for (let q = 0; q < grids; q++) gather(g, d, q, ti, tj, tk, many, reach, near + <usize>q * cells)
  const block = <usize>load<u32>(<usize>load<u32>(d + DETAIL_BLOCKS_NEXT) + ((<usize>t) << 2)),
    volume = (<usize>(many * many * many)) << 2
  const origin = d + DETAIL_ORIGIN
  const cornerX = <f32>(load<i32>(origin) + ti * TILE - 1),
    cornerY = <f32>(load<i32>(origin + 4) + tj * TILE - 1),
    cornerZ = <f32>(load<i32>(origin + 8) + tk * TILE - 1)
  const last = wide - 2
  for (let k = 0; k < many; k++) {
    const z = among(k, per),
      k0 = <i32>z
    for (let j = 0; j < many; j++) {
      const y = among(j, per),
        j0 = <i32>y
      const o = <usize>(j0 - 1) * S + <usize>(k0 - 1) * P - 16
      blendRow(moves + o, S, P, y - <f32>j0, z - <f32>k0, going)
      blendRow(gone + o, S, P, y - <f32>j0, z - <f32>k0, went)
      const place = f32x4(0, cornerY + y, cornerZ + z, 0)
      const to = block + ((<usize>((k * many + j) * many)) << 2)
      for (let i = 0; i < many; i += 4) {
        const v0 = moveAt(d, noise, bands, going, went, place, cornerX, among(i, per)),
          v1 = moveAt(d, noise, bands, going, went, place, cornerX, among(i + 1, per)),
          v2 = moveAt(d, noise, bands, going, went, place, cornerX, among(i + 2, per)),
          v3 = moveAt(d, noise, bands, going, went, place, cornerX, among(i + 3, per))
        const a = i32x4.shuffle(v0, v1, 0, 4, 1, 5),
          b = i32x4.shuffle(v2, v3, 0, 4, 1, 5),
          c = f32x4.mul(ff, i32x4.shuffle(i32x4.shuffle(v0, v1, 2, 6, 3, 7), i32x4.shuffle(v2, v3, 2, 6, 3, 7), 0, 1, 4, 5))
        locate(
          f32x4.sub(f32x4.add(splat(<f32>(i + reach)), f32x4(0, 1, 2, 3)), f32x4.mul(ff, i32x4.shuffle(a, b, 0, 1, 4, 5))),
          f32x4.sub(splat(<f32>(j + reach)), f32x4.mul(ff, i32x4.shuffle(a, b, 2, 3, 6, 7))),
          f32x4.sub(splat(<f32>(k + reach)), c),
          1,
          1,
          1,
          last,
          last,
          last,
          wide,
          wide * wide,
          at,
        )
        const e = (<usize>i) << 2
        weights(at)
        v128.store(to + e, cubic(near, at, W, W * <usize>wide))
        if (grids == 2) v128.store(to + e + volume, cubic(near + cells, at, W, W * <usize>wide))
      }
    }
  }
  means(g, d, block, ti, tj, tk)
}
/** Where four floats of a row of cells lead a finer cell to in the step, in cells: with the gas, and with the noise. */
// @ts-ignore: decorator
@inline function moveAt(d: usize, noise: usize, bands: i32, going: usize, went: usize, place: v128, corner: f32, x: f32): v128 {
  const cell = <i32>x,
    o = (<usize>cell) << 4
  const f = splat(x - <f32>cell)
  const v = mix(v128.load(going + o), v128.load(going + o, 16), f),
    c = mix(v128.load(went + o), v128.load(went + o, 16), f)
  if (f32x4.extract_lane(v, 3) <= 0) return v
  return f32x4.add(v, f32x4.mul(lane3(v), noiseAt(d, noise, bands, f32x4.add(c, f32x4.replace_lane(place, 0, corner + x)))))
}
