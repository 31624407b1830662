// A picture of a gas: from the eye through it in even steps, front to back, over the grids that hold what dims, what shines, and its light.
import {
  BLUE_NOISE,
  MARCH_BLUE,
  MARCH_AHEAD,
  MARCH_BY_HUE,
  MARCH_CELLS,
  MARCH_COLOURS,
  MARCH_DEPTH,
  MARCH_DIMS,
  MARCH_EXIT,
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
  MARCH_SHINING,
  MARCH_SLAB,
  MARCH_STRIDE,
  MARCH_TILES,
  MARCH_UP,
  MARCH_VOXEL,
  MARCH_WIDE,
  MARCH_WIDTH,
  TILE,
} from './layout'
import { blend } from './marchBetween'
import { shade, tone } from './marchCells'
import { dims4 } from './marchWay'
import { exp2x4, LOG2E } from './math'

/** Where in a step the march of a pixel begins: blue noise, whose error is as fine as the pixels. */
// @ts-ignore: decorator
@inline export function dither(m: usize, x: i32, y: i32): f32 {
  return load<f32>(<usize>load<u32>(m + MARCH_BLUE) + ((<usize>((x & (BLUE_NOISE - 1)) + BLUE_NOISE * (y & (BLUE_NOISE - 1)))) << 2))
}
/** A vector along each axis of four pixels: two of a row and two of the next. */
// @ts-ignore: decorator
@inline function ray(m: usize, axis: usize, a: v128, b: v128): v128 {
  return f32x4.add(
    f32x4.splat(load<f32>(m + MARCH_AHEAD + axis)),
    f32x4.add(f32x4.mul(a, f32x4.splat(load<f32>(m + MARCH_RIGHT + axis))), f32x4.mul(b, f32x4.splat(load<f32>(m + MARCH_UP + axis)))),
  )
}
// @ts-ignore: decorator
@inline function away(d: v128): v128 {
  const least = f32x4.splat(1e-6)
  return v128.bitselect(least, d, f32x4.lt(f32x4.abs(d), least))
}
/**
 * Two rows of the picture, from the lowest up, two by two pixels at once: light that comes out of the gas, and how much it covers. What dims is
 * found for the four together; what shines only in tiles that do.
 */
export function marchRows(m: usize, n: i32): void {
  const width = load<i32>(m + MARCH_WIDTH),
    height = load<i32>(m + MARCH_HEIGHT)
  const ex = f32x4.splat(load<f32>(m + MARCH_EYE)),
    ey = f32x4.splat(load<f32>(m + MARCH_EYE + 4)),
    ez = f32x4.splat(load<f32>(m + MARCH_EYE + 8))
  const nx = f32x4.splat(<f32>load<i32>(m + MARCH_DIMS)),
    ny = f32x4.splat(<f32>load<i32>(m + MARCH_DIMS + 4)),
    nz = f32x4.splat(<f32>load<i32>(m + MARCH_DIMS + 8))
  const tx = load<i32>(m + MARCH_TILES),
    txy = tx * load<i32>(m + MARCH_TILES + 4)
  const row = load<i32>(m + MARCH_ROW),
    slab = load<i32>(m + MARCH_SLAB),
    cells = <usize>load<u32>(m + MARCH_CELLS),
    rows = i32x4.splat(row),
    slabs = i32x4.splat(slab),
    S = (<usize>row) << 4,
    P = (<usize>slab) << 4
  const lightRow = load<i32>(m + MARCH_LIGHT_ROW),
    lightSlab = load<i32>(m + MARCH_LIGHT_SLAB),
    lightRows = i32x4.splat(lightRow),
    lightSlabs = i32x4.splat(lightSlab),
    LS = (<usize>lightRow) << 4,
    LP = (<usize>lightSlab) << 4,
    light = <usize>load<u32>(m + MARCH_LIGHT),
    perWide = f32x4.splat(<f32>1 / <f32>load<i32>(m + MARCH_WIDE))
  const full = <usize>load<u32>(m + MARCH_FULL),
    shining = <usize>load<u32>(m + MARCH_SHINING),
    depth = <usize>load<u32>(m + MARCH_DEPTH)
  const colours = <usize>load<u32>(m + MARCH_COLOURS),
    shineTone = <usize>load<u32>(m + MARCH_SHINE_TONE),
    byHue = load<u32>(m + MARCH_BY_HUE) == 1
  const stride = load<f32>(m + MARCH_STRIDE),
    strides = f32x4.splat(stride),
    perStride = f32x4.splat(1 / stride),
    metres = stride * load<f32>(m + MARCH_VOXEL)
  const exit = f32x4.splat(load<f32>(m + MARCH_EXIT)),
    dimmed = f32x4.splat(-LOG2E * stride)
  const zero = f32x4.splat(0),
    one = f32x4.splat(1),
    half = f32x4.splat(0.5),
    tile = f32x4.splat(<f32>TILE),
    perTile = f32x4.splat(<f32>1 / <f32>TILE)
  const little = f32x4.splat(0.001),
    mx = f32x4.sub(nx, little),
    my = f32x4.sub(ny, little),
    mz = f32x4.sub(nz, little)
  const out = <usize>load<u32>(m + MARCH_OUT),
    y = 2 * n
  const b = f32x4.sub(
    f32x4.mul(f32x4(0.5, 0.5, 1.5, 1.5), f32x4.splat(<f32>2 / <f32>height)),
    f32x4.splat(1 - (<f32>2 * <f32>y) / <f32>height),
  )
  const second = y + 1 < height
  for (let x = 0; x < width; x += 2) {
    const a = f32x4.sub(
      f32x4.mul(f32x4(0.5, 1.5, 0.5, 1.5), f32x4.splat(<f32>2 / <f32>width)),
      f32x4.splat(1 - (<f32>2 * <f32>x) / <f32>width),
    )
    let dx = ray(m, 0, a, b),
      dy = ray(m, 4, a, b),
      dz = ray(m, 8, a, b)
    // A metre of depth in the view is so many voxels of way.
    const length = f32x4.sqrt(f32x4.add(f32x4.mul(dx, dx), f32x4.add(f32x4.mul(dy, dy), f32x4.mul(dz, dz)))),
      per = f32x4.div(one, length)
    dx = away(f32x4.mul(dx, per))
    dy = away(f32x4.mul(dy, per))
    dz = away(f32x4.mul(dz, per))
    const ix = f32x4.div(one, dx),
      iy = f32x4.div(one, dy),
      iz = f32x4.div(one, dz)
    const px0 = f32x4.mul(f32x4.neg(ex), ix),
      px1 = f32x4.mul(f32x4.sub(nx, ex), ix),
      py0 = f32x4.mul(f32x4.neg(ey), iy),
      py1 = f32x4.mul(f32x4.sub(ny, ey), iy),
      pz0 = f32x4.mul(f32x4.neg(ez), iz),
      pz1 = f32x4.mul(f32x4.sub(nz, ez), iz)
    const t0 = f32x4.pmax(zero, f32x4.pmax(f32x4.pmin(px0, px1), f32x4.pmax(f32x4.pmin(py0, py1), f32x4.pmin(pz0, pz1))))
    let t1 = f32x4.pmin(f32x4.pmax(px0, px1), f32x4.pmin(f32x4.pmax(py0, py1), f32x4.pmax(pz0, pz1)))
    if (depth) {
      const at = depth + ((<usize>(y * width + x)) << 2),
        up = second ? at + ((<usize>width) << 2) : at,
        side: usize = x + 1 < width ? 4 : 0
      const d = f32x4.replace_lane(
        f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(load<f32>(at)), 1, load<f32>(at + side)), 2, load<f32>(up)),
        3,
        load<f32>(up + side),
      )
      t1 = f32x4.pmin(t1, v128.bitselect(f32x4.mul(d, length), f32x4.splat(1e30), f32x4.gt(d, zero)))
    }
    let left = one,
      s0 = zero,
      s1 = zero,
      s2 = zero,
      s3 = zero
    if (v128.any_true(f32x4.lt(t0, t1))) {
      const jitter = f32x4.replace_lane(
        f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(dither(m, x, y)), 1, dither(m, x + 1, y)), 2, dither(m, x, y + 1)),
        3,
        dither(m, x + 1, y + 1),
      )
      let t = f32x4.mul(f32x4.add(f32x4.floor(f32x4.mul(t0, perStride)), jitter), strides)
      t = f32x4.add(t, v128.and(f32x4.lt(t, t0), strides))
      const ux = v128.and(f32x4.gt(dx, zero), tile),
        uy = v128.and(f32x4.gt(dy, zero), tile),
        uz = v128.and(f32x4.gt(dz, zero), tile)
      // Light changes less from sample to sample than what dims: it is taken once for two of them, where their weights lie.
      let waits = zero,
        weights = zero,
        places = zero
      while (true) {
        const live = v128.and(f32x4.lt(t, t1), f32x4.gt(left, exit)),
          at0 = t
        if (!v128.any_true(v128.or(live, waits))) break
        const x0 = within(f32x4.add(ex, f32x4.mul(t, dx)), mx),
          y0 = within(f32x4.add(ey, f32x4.mul(t, dy)), my),
          z0 = within(f32x4.add(ez, f32x4.mul(t, dz)), mz)
        const bx = f32x4.floor(f32x4.mul(x0, perTile)),
          by = f32x4.floor(f32x4.mul(y0, perTile)),
          bz = f32x4.floor(f32x4.mul(z0, perTile))
        const at = i32x4.add(
          i32x4.trunc_sat_f32x4_s(bx),
          i32x4.add(i32x4.mul(i32x4.trunc_sat_f32x4_s(by), i32x4.splat(tx)), i32x4.mul(i32x4.trunc_sat_f32x4_s(bz), i32x4.splat(txy))),
        )
        const flags = i32x4(
          load<u8>(full + <usize>i32x4.extract_lane(at, 0)),
          load<u8>(full + <usize>i32x4.extract_lane(at, 1)),
          load<u8>(full + <usize>i32x4.extract_lane(at, 2)),
          load<u8>(full + <usize>i32x4.extract_lane(at, 3)),
        )
        const holds = i32x4.ne(flags, i32x4.splat(0)),
          on = v128.and(live, holds)
        if (!i32x4.all_true(holds)) {
          // Out of an empty tile by whole steps: samples stay on their comb.
          const exits = f32x4.pmin(
            f32x4.mul(f32x4.sub(f32x4.add(f32x4.mul(bx, tile), ux), x0), ix),
            f32x4.pmin(
              f32x4.mul(f32x4.sub(f32x4.add(f32x4.mul(by, tile), uy), y0), iy),
              f32x4.mul(f32x4.sub(f32x4.add(f32x4.mul(bz, tile), uz), z0), iz),
            ),
          )
          const hop = f32x4.mul(f32x4.add(f32x4.floor(f32x4.mul(f32x4.pmax(exits, zero), perStride)), one), strides)
          t = f32x4.add(t, v128.bitselect(strides, hop, holds))
          if (!v128.any_true(v128.or(on, waits))) continue
        } else t = f32x4.add(t, strides)
        const dims = v128.and(dims4(m, 0, x0, y0, z0), on)
        const thick = v128.any_true(f32x4.gt(dims, zero))
        const goes = thick ? exp2x4(f32x4.mul(dimmed, dims)) : one
        const bright = shineTone ? i32x4.bitmask(on) & flagsOf(shining, at) : 0
        if (bright) {
          const weight = f32x4.mul(f32x4.mul(left, f32x4.splat(metres * <f32>0.5)), f32x4.add(one, goes))
          const qx = f32x4.add(x0, half),
            qy = f32x4.add(y0, half),
            qz = f32x4.add(z0, half)
          const i = i32x4.trunc_sat_f32x4_s(qx),
            j = i32x4.trunc_sat_f32x4_s(qy),
            k = i32x4.trunc_sat_f32x4_s(qz)
          const fx = f32x4.sub(qx, f32x4.convert_i32x4_s(i)),
            fy = f32x4.sub(qy, f32x4.convert_i32x4_s(j)),
            fz = f32x4.sub(qz, f32x4.convert_i32x4_s(k))
          const cell = i32x4.shl(i32x4.add(i, i32x4.add(i32x4.mul(j, rows), i32x4.mul(k, slabs))), 4)
          if (bright & 1) {
            const c = blend(cells + <usize>i32x4.extract_lane(cell, 0), S, P, lane0(fx), lane0(fy), lane0(fz))
            s0 = f32x4.add(s0, glow(c, shineTone, colours, byHue, f32x4.extract_lane(weight, 0)))
          }
          if (bright & 2) {
            const c = blend(cells + <usize>i32x4.extract_lane(cell, 1), S, P, lane1(fx), lane1(fy), lane1(fz))
            s1 = f32x4.add(s1, glow(c, shineTone, colours, byHue, f32x4.extract_lane(weight, 1)))
          }
          if (bright & 4) {
            const c = blend(cells + <usize>i32x4.extract_lane(cell, 2), S, P, lane2(fx), lane2(fy), lane2(fz))
            s2 = f32x4.add(s2, glow(c, shineTone, colours, byHue, f32x4.extract_lane(weight, 2)))
          }
          if (bright & 8) {
            const c = blend(cells + <usize>i32x4.extract_lane(cell, 3), S, P, lane3(fx), lane3(fy), lane3(fz))
            s3 = f32x4.add(s3, glow(c, shineTone, colours, byHue, f32x4.extract_lane(weight, 3)))
          }
        }
        const now = i32x4.bitmask(waits)
        if (!thick && !now) continue
        const next = f32x4.mul(left, goes),
          weight = f32x4.sub(left, next)
        left = next
        weights = f32x4.add(weights, weight)
        places = f32x4.add(places, f32x4.mul(weight, at0))
        waits = v128.andnot(f32x4.gt(weights, zero), waits)
        if (!now) continue
        const mean = f32x4.div(places, weights)
        const lx = f32x4.add(f32x4.mul(within(f32x4.add(ex, f32x4.mul(mean, dx)), mx), perWide), half),
          ly = f32x4.add(f32x4.mul(within(f32x4.add(ey, f32x4.mul(mean, dy)), my), perWide), half),
          lz = f32x4.add(f32x4.mul(within(f32x4.add(ez, f32x4.mul(mean, dz)), mz), perWide), half)
        const li = i32x4.trunc_sat_f32x4_s(lx),
          lj = i32x4.trunc_sat_f32x4_s(ly),
          lk = i32x4.trunc_sat_f32x4_s(lz)
        const gx = f32x4.sub(lx, f32x4.convert_i32x4_s(li)),
          gy = f32x4.sub(ly, f32x4.convert_i32x4_s(lj)),
          gz = f32x4.sub(lz, f32x4.convert_i32x4_s(lk))
        const place = i32x4.shl(i32x4.add(li, i32x4.add(i32x4.mul(lj, lightRows), i32x4.mul(lk, lightSlabs))), 4)
        if (now & 1)
          s0 = lit(s0, lane0(weights), blend(light + <usize>i32x4.extract_lane(place, 0), LS, LP, lane0(gx), lane0(gy), lane0(gz)))
        if (now & 2)
          s1 = lit(s1, lane1(weights), blend(light + <usize>i32x4.extract_lane(place, 1), LS, LP, lane1(gx), lane1(gy), lane1(gz)))
        if (now & 4)
          s2 = lit(s2, lane2(weights), blend(light + <usize>i32x4.extract_lane(place, 2), LS, LP, lane2(gx), lane2(gy), lane2(gz)))
        if (now & 8)
          s3 = lit(s3, lane3(weights), blend(light + <usize>i32x4.extract_lane(place, 3), LS, LP, lane3(gx), lane3(gy), lane3(gz)))
        weights = v128.and(weights, waits)
        places = v128.and(places, waits)
      }
    }
    const covers = f32x4.sub(one, left)
    const at = out + ((<usize>(y * width + x)) << 4),
      up = at + ((<usize>width) << 4)
    v128.store(at, f32x4.replace_lane(s0, 3, f32x4.extract_lane(covers, 0)))
    if (x + 1 < width) v128.store(at + 16, f32x4.replace_lane(s1, 3, f32x4.extract_lane(covers, 1)))
    if (!second) continue
    v128.store(up, f32x4.replace_lane(s2, 3, f32x4.extract_lane(covers, 2)))
    if (x + 1 < width) v128.store(up + 16, f32x4.replace_lane(s3, 3, f32x4.extract_lane(covers, 3)))
  }
}
// @ts-ignore: decorator
@inline function within(p: v128, most: v128): v128 {
  return f32x4.pmin(f32x4.pmax(p, f32x4.splat(0)), most)
}
/** A bit for each of four tiles: whether its byte is set. */
// @ts-ignore: decorator
@inline function flagsOf(bytes: usize, at: v128): i32 {
  return (
    load<u8>(bytes + <usize>i32x4.extract_lane(at, 0)) |
    (load<u8>(bytes + <usize>i32x4.extract_lane(at, 1)) << 1) |
    (load<u8>(bytes + <usize>i32x4.extract_lane(at, 2)) << 2) |
    (load<u8>(bytes + <usize>i32x4.extract_lane(at, 3)) << 3)
  )
}
/** What a sample shines, `weight` as much. */
// @ts-ignore: decorator
@inline function glow(c: v128, shineTone: usize, colours: usize, byHue: bool, weight: f32): v128 {
  const by = f32x4.extract_lane(c, 1)
  return f32x4.mul(shade(colours, byHue ? f32x4.extract_lane(c, 2) : by), f32x4.splat(tone(shineTone, by) * weight))
}
// @ts-ignore: decorator
@inline function lit(sum: v128, weight: v128, light: v128): v128 {
  return f32x4.add(sum, f32x4.mul(light, weight))
}
/** One lane everywhere. */
// @ts-ignore: decorator
@inline function lane0(v: v128): v128 {
  return v128.shuffle<f32>(v, v, 0, 0, 0, 0)
}
// @ts-ignore: decorator
@inline function lane1(v: v128): v128 {
  return v128.shuffle<f32>(v, v, 1, 1, 1, 1)
}
// @ts-ignore: decorator
@inline function lane2(v: v128): v128 {
  return v128.shuffle<f32>(v, v, 2, 2, 2, 2)
}
// @ts-ignore: decorator
@inline function lane3(v: v128): v128 {
  return v128.shuffle<f32>(v, v, 3, 3, 3, 3)
}
