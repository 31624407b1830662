// Light to the values of a screen, four pixels at once: the tone curve, sRGB, half a step of dither, as the stage's own shader for it has them.
import {
  JOB_CHUNK,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  SCREEN_CURVE_FILM,
  SCREEN_CURVE_GENTLE,
  SCREEN_CURVE,
  SCREEN_DITHER_CHANNEL,
  SCREEN_DITHER_ROW,
  SCREEN_DITHER_SEED,
  SCREEN_EXPOSURE,
  SCREEN_HEIGHT,
  SCREEN_LIGHT,
  SCREEN_OUT,
  SCREEN_TRANSPARENT,
  SCREEN_WIDTH,
} from './layout'
import { fromHalf4, hash3x4, logarithm2, power2, unitx4 } from './math'
import { all } from './vector'

/** a x + b */
// @ts-ignore: decorator
@inline function line(x: v128, a: f32, b: f32): v128 {
  return f32x4.add(f32x4.mul(x, all(a)), all(b))
}
/** Light that is not negative and finite, before the curve. */
// @ts-ignore: decorator
@inline function exposed(halves: v128, exposure: v128): v128 {
  return f32x4.mul(f32x4.pmin(f32x4.pmax(fromHalf4(halves), all(0)), all(60000)), exposure)
}
// @ts-ignore: decorator
@inline function within(x: v128): v128 {
  return f32x4.pmax(f32x4.pmin(x, all(1)), all(0))
}
// @ts-ignore: decorator
@inline function film(x: v128): v128 {
  return f32x4.div(f32x4.mul(x, line(x, 2.51, 0.03)), f32x4.add(f32x4.mul(x, line(x, 2.43, 0.59)), all(0.14)))
}
/** sRGB of values from 0 to 1. */
// @ts-ignore: decorator
@inline function toScreen(y: v128): v128 {
  const power = line(power2(f32x4.mul(logarithm2(f32x4.pmax(y, all(0.001))), all(1.0 / 2.4))), 1.055, -0.055)
  return v128.bitselect(f32x4.mul(y, all(12.92)), power, f32x4.lt(y, all(0.0031308)))
}
/** Four values from 0 to 1 as bytes in words. */
// @ts-ignore: decorator
@inline function bytes(d: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(line(d, 255, 0.5))
}
/** The pixels of a row. */
function screenRow(s: usize, y: i32): void {
  const width = load<i32>(s + SCREEN_WIDTH),
    height = load<i32>(s + SCREEN_HEIGHT),
    curve = load<u32>(s + SCREEN_CURVE),
    transparent = load<u32>(s + SCREEN_TRANSPARENT)
  let from = <usize>load<u32>(s + SCREEN_LIGHT) + ((<usize>y * <usize>width) << 3),
    to = <usize>load<u32>(s + SCREEN_OUT) + ((<usize>(height - 1 - y) * <usize>((width + 3) & ~3)) << 2)
  const exposure = v128.load32_splat(s + SCREEN_EXPOSURE)
  let ids = i32x4.add(i32x4(0, SCREEN_DITHER_ROW, 2 * SCREEN_DITHER_ROW, 3 * SCREEN_DITHER_ROW), i32x4.splat(y))
  for (let x = 0; x < width; x += 4, from += 32, to += 16, ids = i32x4.add(ids, i32x4.splat(4 * SCREEN_DITHER_ROW))) {
    const a = v128.load(from),
      b = v128.load(from, 16)
    const rg = v128.shuffle<i16>(a, b, 0, 4, 8, 12, 1, 5, 9, 13),
      ba = v128.shuffle<i16>(a, b, 2, 6, 10, 14, 3, 7, 11, 15)
    let red = exposed(i32x4.extend_low_i16x8_u(rg), exposure),
      green = exposed(i32x4.extend_high_i16x8_u(rg), exposure),
      blue = exposed(i32x4.extend_low_i16x8_u(ba), exposure)
    if (curve == SCREEN_CURVE_FILM) {
      red = film(red)
      green = film(green)
      blue = film(blue)
    } else if (curve == SCREEN_CURVE_GENTLE) {
      const most = f32x4.pmax(red, f32x4.pmax(green, blue)),
        share = f32x4.div(line(most, 1.0 / 256.0, 1), f32x4.add(most, all(1)))
      red = f32x4.mul(red, share)
      green = f32x4.mul(green, share)
      blue = f32x4.mul(blue, share)
    }
    red = toScreen(within(red))
    green = toScreen(within(green))
    blue = toScreen(within(blue))
    const top = f32x4.pmax(red, f32x4.pmax(green, blue))
    // Black stays black.
    const dither = v128.and(
      f32x4.mul(f32x4.sub(unitx4(hash3x4(i32x4.splat(SCREEN_DITHER_SEED), ids, SCREEN_DITHER_CHANNEL)), all(0.5)), all(1.0 / 255.0)),
      f32x4.ge(top, all(1e-5)),
    )
    red = within(f32x4.add(red, dither))
    green = within(f32x4.add(green, dither))
    blue = within(f32x4.add(blue, dither))
    let alpha = i32x4.splat(255)
    if (transparent) {
      // What only adds light keeps its colour and takes alpha from its brightest channel.
      const covers = f32x4.pmax(within(fromHalf4(i32x4.extend_high_i16x8_u(ba))), f32x4.pmax(red, f32x4.pmax(green, blue))),
        steps = f32x4.ceil(line(covers, 255, -1e-3)),
        per = f32x4.div(all(255), f32x4.pmax(steps, all(1)))
      alpha = i32x4.trunc_sat_f32x4_s(steps)
      red = within(f32x4.mul(red, per))
      green = within(f32x4.mul(green, per))
      blue = within(f32x4.mul(blue, per))
    }
    v128.store(to, v128.or(v128.or(bytes(red), i32x4.shl(bytes(green), 8)), v128.or(i32x4.shl(bytes(blue), 16), i32x4.shl(alpha, 24))))
  }
}
/** Rows of a picture. */
export function screen(job: usize): void {
  const s = <usize>load<u32>(job + JOB_RECORD),
    count = load<i32>(job + JOB_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  for (;;) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    for (let y = begin, end = min(begin + chunk, count); y < end; y++) screenRow(s, y)
  }
}
