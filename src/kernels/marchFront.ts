// What of a gas lies in front of each of many depths: small pictures, for what may lie within it.
import {
  MARCH_AHEAD,
  MARCH_BY_HUE,
  MARCH_CELLS,
  MARCH_DIMS0,
  MARCH_COLOURS,
  MARCH_DIMS,
  MARCH_EYE,
  MARCH_FULL,
  MARCH_HEIGHT,
  MARCH_LIGHT,
  MARCH_LIGHT_ROW,
  MARCH_LIGHT_SLAB,
  MARCH_OUT,
  MARCH_RIGHT,
  MARCH_ROW,
  MARCH_SHINE_TONE,
  MARCH_SLAB,
  MARCH_SLICES,
  MARCH_SLICE_FROM,
  MARCH_SLICE_LEFT,
  MARCH_SLICE_STEP,
  MARCH_SLICE_TINT,
  MARCH_STRIDE,
  MARCH_TILES,
  MARCH_UP,
  MARCH_VOXEL,
  MARCH_WIDE,
  MARCH_WIDTH,
  TILE,
} from './layout'
import { shade, tone } from './marchCells'
import { between } from './marchBetween'
import { dither } from './march'
import { exp2x4, LOG2E, toHalf } from './math'

/** What a ray has seen so far, as half floats; `alone`: only how much is left. */
// @ts-ignore: decorator
@inline function leave(out: usize, sum: v128, left: f32, alone: bool): void {
  if (alone) {
    store<u16>(out, <u16>toHalf(left))
    return
  }
  store<u16>(out, <u16>toHalf(f32x4.extract_lane(sum, 0)))
  store<u16>(out, <u16>toHalf(f32x4.extract_lane(sum, 1)), 2)
  store<u16>(out, <u16>toHalf(f32x4.extract_lane(sum, 2)), 4)
  store<u16>(out, <u16>toHalf(left), 6)
}
/** A float of a grid between its cells; `q` counts cells from the one around. */
// @ts-ignore: decorator
@inline function oneBetween(base: usize, row: i32, slab: i32, qx: f32, qy: f32, qz: f32): f32 {
  const i = <i32>qx,
    j = <i32>qy,
    k = <i32>qz
  const fx: f32 = qx - <f32>i,
    fy: f32 = qy - <f32>j,
    fz: f32 = qz - <f32>k
  const at = base + ((<usize>(i + j * row + k * slab)) << 2)
  const S = (<usize>row) << 2,
    P = (<usize>slab) << 2
  // The four rows of the cell, each by two floats: near and far, low and high.
  let a = v128.load64_lane(at + S, v128.load64_zero(at), 1)
  const b = v128.load64_lane(at + S + P, v128.load64_zero(at + P), 1)
  a = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f32x4.splat(fz)))
  const x0 = f32x4.extract_lane(a, 0) + (f32x4.extract_lane(a, 1) - f32x4.extract_lane(a, 0)) * fx,
    x1 = f32x4.extract_lane(a, 2) + (f32x4.extract_lane(a, 3) - f32x4.extract_lane(a, 2)) * fx
  return x0 + (x1 - x0) * fy
}
/** A row of the pictures of what is in front of each depth, from the lowest up. */
export function frontRow(m: usize, y: i32): void {
  const width = load<i32>(m + MARCH_WIDTH),
    height = load<i32>(m + MARCH_HEIGHT)
  const ex = load<f32>(m + MARCH_EYE),
    ey = load<f32>(m + MARCH_EYE + 4),
    ez = load<f32>(m + MARCH_EYE + 8)
  const nx = load<i32>(m + MARCH_DIMS),
    ny = load<i32>(m + MARCH_DIMS + 4),
    nz = load<i32>(m + MARCH_DIMS + 8)
  const tx = load<i32>(m + MARCH_TILES),
    ty = load<i32>(m + MARCH_TILES + 4)
  const row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB),
    cells = <usize>load<u32>(m + MARCH_CELLS),
    dims0 = <usize>load<u32>(m + MARCH_DIMS0)
  const lightRow = load<i32>(m + MARCH_LIGHT_ROW),
    lightSlab = load<i32>(m + MARCH_LIGHT_SLAB),
    light = <usize>load<u32>(m + MARCH_LIGHT),
    perWide: f32 = <f32>1 / <f32>load<i32>(m + MARCH_WIDE)
  const full = <usize>load<u32>(m + MARCH_FULL)
  const colours = <usize>load<u32>(m + MARCH_COLOURS),
    shineTone = <usize>load<u32>(m + MARCH_SHINE_TONE),
    byHue = load<u32>(m + MARCH_BY_HUE) == 1
  const stride = load<f32>(m + MARCH_STRIDE),
    voxel = load<f32>(m + MARCH_VOXEL),
    metres = stride * voxel
  const b: f32 = (2 * (<f32>y + <f32>0.5)) / <f32>height - 1
  const ax = load<f32>(m + MARCH_AHEAD) + b * load<f32>(m + MARCH_UP),
    ay = load<f32>(m + MARCH_AHEAD + 4) + b * load<f32>(m + MARCH_UP + 4),
    az = load<f32>(m + MARCH_AHEAD + 8) + b * load<f32>(m + MARCH_UP + 8)
  const rx = load<f32>(m + MARCH_RIGHT),
    ry = load<f32>(m + MARCH_RIGHT + 4),
    rz = load<f32>(m + MARCH_RIGHT + 8)
  const mx: f32 = <f32>nx - <f32>0.001,
    my: f32 = <f32>ny - <f32>0.001,
    mz: f32 = <f32>nz - <f32>0.001
  const tint = f32x4(load<f32>(m + MARCH_SLICE_TINT), load<f32>(m + MARCH_SLICE_TINT + 4), load<f32>(m + MARCH_SLICE_TINT + 8), 0)
  // Each depth is a picture of its own.
  const slices = load<i32>(m + MARCH_SLICES),
    sliceFrom = load<f32>(m + MARCH_SLICE_FROM),
    sliceStep = load<f32>(m + MARCH_SLICE_STEP),
    alone = load<u32>(m + MARCH_SLICE_LEFT) == 1,
    bytes: usize = alone ? 2 : 8,
    sliceBytes = <usize>(width * height) * bytes
  let out = <usize>load<u32>(m + MARCH_OUT) + <usize>(y * width) * bytes
  for (let x = 0; x < width; x++, out += bytes) {
    const a: f32 = (2 * (<f32>x + <f32>0.5)) / <f32>width - 1
    let dx = ax + a * rx,
      dy = ay + a * ry,
      dz = az + a * rz
    // A metre of depth in the view is so many voxels of way.
    const length = Mathf.sqrt(dx * dx + dy * dy + dz * dz),
      per: f32 = 1 / length
    dx *= per
    dy *= per
    dz *= per
    if (Mathf.abs(dx) < 1e-6) dx = 1e-6
    if (Mathf.abs(dy) < 1e-6) dy = 1e-6
    if (Mathf.abs(dz) < 1e-6) dz = 1e-6
    const ix: f32 = 1 / dx,
      iy: f32 = 1 / dy,
      iz: f32 = 1 / dz
    const px0 = -ex * ix,
      px1 = (<f32>nx - ex) * ix,
      py0 = -ey * iy,
      py1 = (<f32>ny - ey) * iy,
      pz0 = -ez * iz,
      pz1 = (<f32>nz - ez) * iz
    const t0 = max(<f32>0, max(min(px0, px1), max(min(py0, py1), min(pz0, pz1))))
    const t1 = min(max(px0, px1), min(max(py0, py1), max(pz0, pz1)))
    let sum = f32x4.splat(0),
      left: f32 = 1,
      slice = 0
    if (t0 < t1) {
      let t = (Mathf.floor(t0 / stride) + dither(m, x, y)) * stride
      if (t < t0) t += stride
      while (t < t1) {
        for (; slice < slices && t >= (sliceFrom + <f32>slice * sliceStep) * length; slice++)
          leave(out + <usize>slice * sliceBytes, sum, left, alone)
        const x0 = min(max(ex + t * dx, <f32>0), mx),
          y0 = min(max(ey + t * dy, <f32>0), my),
          z0 = min(max(ez + t * dz, <f32>0), mz)
        const bi = <i32>x0 / TILE,
          bj = <i32>y0 / TILE,
          bk = <i32>z0 / TILE
        if (!load<u8>(full + <usize>(bi + bj * tx + bk * tx * ty))) {
          // Out of the empty tile by whole steps: samples stay on their comb.
          const out0 = (<f32>((dx > 0 ? bi + 1 : bi) * TILE) - x0) * ix,
            out1 = (<f32>((dy > 0 ? bj + 1 : bj) * TILE) - y0) * iy,
            out2 = (<f32>((dz > 0 ? bk + 1 : bk) * TILE) - z0) * iz
          t += (Mathf.floor(max(<f32>0, min(out0, min(out1, out2))) / stride) + 1) * stride
          continue
        }
        const c = cells
          ? between(cells, row, slab, x0 + <f32>0.5, y0 + <f32>0.5, z0 + <f32>0.5)
          : f32x4.splat(oneBetween(dims0, row, slab, x0 + <f32>0.5, y0 + <f32>0.5, z0 + <f32>0.5))
        t += stride
        const dims = f32x4.extract_lane(c, 0),
          by = f32x4.extract_lane(c, 1)
        const on = dims > 0 ? f32x4.extract_lane(exp2x4(f32x4.splat(-LOG2E * dims * stride)), 0) : <f32>1
        if (by > 0 && shineTone && !alone) {
          const shines = tone(shineTone, by)
          if (shines > 0)
            sum = f32x4.add(
              sum,
              f32x4.mul(shade(colours, byHue ? f32x4.extract_lane(c, 2) : by), f32x4.splat(left * shines * metres * <f32>0.5 * (1 + on))),
            )
        }
        if (dims > 0) {
          if (light && !alone) {
            const l = between(light, lightRow, lightSlab, x0 * perWide + <f32>0.5, y0 * perWide + <f32>0.5, z0 * perWide + <f32>0.5)
            sum = f32x4.add(sum, f32x4.mul(f32x4.mul(l, tint), f32x4.splat(left * (1 - on))))
          }
          left *= on
        }
      }
    }
    for (; slice < slices; slice++) leave(out + <usize>slice * sliceBytes, sum, left, alone)
  }
}
