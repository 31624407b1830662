// A picture of tufts, front to back: each is made ready, listed in the tiles of the picture that it may touch, and drawn tile by tile.
import {
  JOB_CHUNK,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  SCRATCH_BYTES,
  TUFTS_ACROSS,
  TUFTS_COUNT,
  TUFTS_HEIGHT,
  TUFTS_LISTS,
  TUFTS_ORDER,
  TUFTS_RAW,
  TUFTS_SHIFT_X,
  TUFTS_SHIFT_Y,
  TUFTS_STARTS,
  TUFTS_STEP,
  TUFTS_TILES_X,
  TUFTS_TILES_Y,
  TUFTS_TUFTS,
  TUFTS_UPWARDS,
  TUFTS_WIDTH,
  TUFT_BYTES,
  TUFT_FAR2,
  TUFT_GAIN,
  TUFT_HEAD,
  TUFT_RIGHT,
  TUFT_STEP_COUNT,
  TUFT_STEP_DRAW,
  TUFT_STEP_PLACE,
  TUFT_STEP_PREPARE,
  TUFT_THICKNESS,
  TUFT_TILE_X,
  TUFT_TILE_Y,
  TUFT_UNLIT,
  TUFT_UP,
  TUFT_X0,
  TUFT_X1,
  TUFT_Y0,
  TUFT_Y1,
} from './layout'
import { fromHalves } from './math'
import { drawTile } from './tuftTile'

/** From where to where a ball is seen along an axis, as x ÷ −z: the tangents from the eye to it. `far`: its view depth, more than its radius. */
// @ts-ignore: decorator
@inline function tangent(x: f32, far: f32, r: f32, side: f32): f32 {
  const long = far * far - r * r
  return (x * far + side * r * Mathf.sqrt(max(x * x + long, 0))) / long
}
// @ts-ignore: decorator
@inline function pixel(ndc: f32, size: i32): i32 {
  return <i32>Mathf.floor(min(max((ndc * <f32>0.5 + <f32>0.5) * <f32>size, <f32>-1), <f32>size + 1))
}
/** The n-th from the nearest on. */
function prepare(m: usize, n: i32): void {
  const count = load<i32>(m + TUFTS_COUNT),
    from = load<i32>(<usize>load<u32>(m + TUFTS_ORDER) + ((<usize>(count - 1 - n)) << 2))
  const slice = (<usize>count) << 4,
    raw = <usize>load<u32>(m + TUFTS_RAW) + ((<usize>from) << 4),
    t = <usize>load<u32>(m + TUFTS_TUFTS) + <usize>n * TUFT_BYTES
  const x = load<f32>(raw),
    y = load<f32>(raw, 4),
    z = load<f32>(raw, 8),
    r = load<f32>(raw, 12)
  store<i32>(t + TUFT_X1, 0)
  store<i32>(t + TUFT_X0, 0)
  if (!(r > 0)) return
  const far2 = x * x + y * y + z * z,
    away = -z
  const width = load<i32>(m + TUFTS_WIDTH),
    height = load<i32>(m + TUFTS_HEIGHT)
  let x0 = 0,
    y0 = 0,
    x1 = width,
    y1 = height
  if (away > r * <f32>1.001) {
    const across = load<f32>(m + TUFTS_ACROSS),
      upwards = load<f32>(m + TUFTS_UPWARDS),
      sx = load<f32>(m + TUFTS_SHIFT_X),
      sy = load<f32>(m + TUFTS_SHIFT_Y)
    x0 = max(0, pixel(tangent(x, away, r, -1) * across - sx, width))
    x1 = min(width, pixel(tangent(x, away, r, 1) * across - sx, width) + 1)
    y0 = max(0, pixel(tangent(y, away, r, -1) * upwards - sy, height))
    y1 = min(height, pixel(tangent(y, away, r, 1) * upwards - sy, height) + 1)
  }
  if (x1 <= x0 || y1 <= y0) return
  store<i32>(t + TUFT_X0, x0)
  store<i32>(t + TUFT_Y0, y0)
  store<i32>(t + TUFT_X1, x1)
  store<i32>(t + TUFT_Y1, y1)
  store<f32>(t + TUFT_HEAD, x)
  store<f32>(t + TUFT_HEAD, y, 4)
  store<f32>(t + TUFT_HEAD, z, 8)
  store<f32>(t + TUFT_FAR2, far2)
  store<f32>(t + TUFT_GAIN, far2 / r)
  // As the vertex shader has them.
  const one: f32 = <f32>1 / Mathf.sqrt(far2),
    ex = -x * one,
    ey = -y * one,
    ez = -z * one
  const ax = ez + <f32>1e-6,
    az = -ex,
    long: f32 = <f32>1 / Mathf.sqrt(ax * ax + az * az),
    rx = ax * long,
    rz = az * long
  store<f32>(t + TUFT_RIGHT, rx)
  store<f32>(t + TUFT_RIGHT, 0, 4)
  store<f32>(t + TUFT_RIGHT, rz, 8)
  store<f32>(t + TUFT_UP, ey * rz)
  store<f32>(t + TUFT_UP, ez * rx - ex * rz, 4)
  store<f32>(t + TUFT_UP, -ey * rx, 8)
  for (let k: usize = 0; k < 3; k++)
    for (let j: usize = 0; j < 2; j++) v128.store(t + TUFT_THICKNESS + (k << 5) + (j << 4), fromHalves(raw + slice * (k + 1) + (j << 3)))
  store<i32>(t + TUFT_UNLIT, from)
}
/**
 * Goes over the tiles of all tufts, the nearest first. At first it counts how many each tile lists, one place on, so that sums say where its list
 * begins; then it lists them, and where lists begin moves on to where they end: each is read from the end of the one before.
 */
function walkTiles(m: usize, lists: usize): void {
  const count = load<i32>(m + TUFTS_COUNT),
    tilesX = load<i32>(m + TUFTS_TILES_X),
    counters = <usize>load<u32>(m + TUFTS_STARTS) + (lists ? 0 : 4)
  let t = <usize>load<u32>(m + TUFTS_TUFTS)
  for (let n = 0; n < count; n++, t += TUFT_BYTES) {
    const x1 = load<i32>(t + TUFT_X1)
    if (!x1) continue
    const tx0 = load<i32>(t + TUFT_X0) / TUFT_TILE_X,
      tx1 = (x1 - 1) / TUFT_TILE_X,
      ty1 = (load<i32>(t + TUFT_Y1) - 1) / TUFT_TILE_Y
    for (let ty = load<i32>(t + TUFT_Y0) / TUFT_TILE_Y; ty <= ty1; ty++)
      for (let tx = tx0; tx <= tx1; tx++) {
        const at = counters + ((<usize>(ty * tilesX + tx)) << 2),
          place = load<u32>(at)
        if (lists) store<i32>(lists + ((<usize>place) << 2), n)
        store<u32>(at, place + 1)
      }
  }
}
/** Where the list of each tile begins; the last has all of them. */
function countTiles(m: usize): void {
  const starts = <usize>load<u32>(m + TUFTS_STARTS),
    tiles = load<i32>(m + TUFTS_TILES_X) * load<i32>(m + TUFTS_TILES_Y)
  memory.fill(starts, 0, (<usize>(tiles + 1)) << 2)
  walkTiles(m, 0)
  for (let k = 1; k <= tiles; k++) {
    const at = starts + ((<usize>k) << 2)
    store<u32>(at, load<u32>(at) + load<u32>(at - 4))
  }
}
/** A share of a step, chunk by chunk from a shared counter. */
export function tufts(job: usize, thread: i32): void {
  const m = <usize>load<u32>(job + JOB_RECORD),
    step = load<u32>(m + TUFTS_STEP)
  const count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  const stop = <usize>load<u32>(job + JOB_STOP),
    scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let n = begin, end = min(begin + chunk, count); n < end; n++) {
      if (step == TUFT_STEP_PREPARE) prepare(m, n)
      else if (step == TUFT_STEP_COUNT) countTiles(m)
      else if (step == TUFT_STEP_PLACE) walkTiles(m, <usize>load<u32>(m + TUFTS_LISTS))
      else if (step == TUFT_STEP_DRAW) drawTile(m, n, scratch)
    }
  }
}
