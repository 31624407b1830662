// The engine's own elementary functions and its hash: the same bits on every machine, because they use
// only + - × ÷ and integer operations.

/** 32-bit mix of one word, two multiplications (bias 0.17; Wellons' hash prospector constants). */
// @ts-ignore: decorator
@inline export function mix(v: u32): u32 {
  v = (v ^ (v >> 16)) * 0x7feb352d
  v = (v ^ (v >> 15)) * 0x846ca68b
  return v ^ (v >> 16)
}

/** hash(seed of the element, particle id, channel). */
// @ts-ignore: decorator
@inline export function hash3(seed: u32, id: u32, channel: u32): u32 {
  return mix(seed ^ mix(id ^ mix(channel + 0x9e3779b9)))
}

/** A word to [0, 1) with 24 bits. */
// @ts-ignore: decorator
@inline export function unit(h: u32): f32 {
  return f32(h >> 8) * (1.0 / 16777216.0)
}

/** A word to [-1, 1). */
// @ts-ignore: decorator
@inline export function signed(h: u32): f32 {
  return unit(h) * 2 - 1
}

// @ts-ignore: decorator
@inline function mixx4(v: v128): v128 {
  v = i32x4.mul(v128.xor(v, i32x4.shr_u(v, 16)), i32x4.splat(0x7feb352d))
  v = i32x4.mul(v128.xor(v, i32x4.shr_u(v, 15)), i32x4.splat(<i32>0x846ca68b))
  return v128.xor(v, i32x4.shr_u(v, 16))
}
/** The same for four seeds and ids. */
// @ts-ignore: decorator
@inline export function hash3x4(seeds: v128, ids: v128, channel: u32): v128 {
  return mixx4(v128.xor(seeds, mixx4(v128.xor(ids, i32x4.splat(<i32>mix(channel + 0x9e3779b9))))))
}
/** Four words to [0, 1). */
// @ts-ignore: decorator
@inline export function unitx4(h: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(h, 8)), f32x4.splat(1.0 / 16777216.0))
}
/** Four words to [-1, 1). */
// @ts-ignore: decorator
@inline export function signedx4(h: v128): v128 {
  return f32x4.sub(f32x4.mul(unitx4(h), f32x4.splat(2)), f32x4.splat(1))
}

/** sin(2π x) for any finite x; minimax polynomial of degree 11 on a quarter turn, error below 2e-7. */
export function sinTurn(x: f32): f32 {
  let r = x - Mathf.floor(x + 0.5) // [-0.5, 0.5)
  if (r > 0.25) r = 0.5 - r
  else if (r < -0.25) r = -0.5 - r
  const a = r * 6.2831853071795864769
  const b = a * a
  return a * (1 + b * (-0.16666667 + b * (0.008333331 + b * (-0.00019840874 + b * (0.0000027525562 - b * 2.3889859e-8)))))
}
// @ts-ignore: decorator
@inline export function cosTurn(x: f32): f32 {
  return sinTurn(x + 0.25)
}

/** The exponent of two that e is. */
export const LOG2E: f32 = 1.44269504
/** 2^x for four lanes by a polynomial of degree 6 on half a step to either side, |error| below 3e-7 relative; clamped to ±126. */
// @ts-ignore: decorator
@inline export function exp2x4(x: v128): v128 {
  const c = f32x4.pmax(f32x4.splat(-126), f32x4.pmin(f32x4.splat(126), x))
  const whole = f32x4.nearest(c)
  const f = f32x4.sub(c, whole)
  let p = f32x4.splat(0.0001540353)
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.0013333558))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.0096181291))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.055504109))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.24022651))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.69314718))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1))
  const bits = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23)
  return f32x4.mul(p, bits)
}

/** Added to a number below 2²² it leaves the nearest whole one in the lowest bits: converting costs five times as much. */
export const WHOLE: f32 = 12582912
/** 2^x for x from −100 to 1 by a polynomial of degree 5, |error| below 3e-6 relative. */
// @ts-ignore: decorator
@inline export function power2(x: v128): v128 {
  const n = f32x4.add(x, f32x4.splat(WHOLE)),
    f = f32x4.sub(x, f32x4.sub(n, f32x4.splat(WHOLE)))
  let p = f32x4.add(f32x4.mul(f, f32x4.splat(0.0013333558)), f32x4.splat(0.0096181291))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.055504109))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.24022651))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.69314718))
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1))
  return i32x4.add(p, i32x4.shl(n, 23))
}
/** log2 x for x above 0, by the series of the inverse hyperbolic tangent about 1, |error| below 4e-6; x is no denormal. */
// @ts-ignore: decorator
@inline export function logarithm2(x: v128): v128 {
  // To a part between √½ and √2, and how many times it is doubled.
  const times = i32x4.shr_s(i32x4.sub(x, i32x4.splat(0x3f3504f3)), 23),
    m = i32x4.sub(x, i32x4.shl(times, 23))
  const s = f32x4.div(f32x4.sub(m, f32x4.splat(1)), f32x4.add(m, f32x4.splat(1))),
    q = f32x4.mul(s, s)
  const p = f32x4.add(f32x4.mul(f32x4.add(f32x4.mul(q, f32x4.splat(0.598979)), f32x4.splat(0.96147005)), q), f32x4.splat(2.88539129))
  return f32x4.add(f32x4.mul(p, s), f32x4.convert_i32x4_s(times))
}

/** To the nearest half float; beyond its range the largest. */
// @ts-ignore: decorator
@inline export function toHalf(x: f32): u32 {
  const v = min(max(x, <f32>-65504), <f32>65504)
  const bits = reinterpret<u32>(v),
    sign = (bits >> 16) & 0x8000,
    size = bits & 0x7fffffff
  // Below 2⁻¹⁴ halves lie evenly.
  if (size < 0x38800000) return sign | <u32>Mathf.floor(reinterpret<f32>(size) * <f32>16777216 + <f32>0.5)
  return sign | ((size - 0x38000000 + 0xfff + ((size >> 13) & 1)) >> 13)
}
/** As `toHalf`, four at once. */
// @ts-ignore: decorator
@inline function toHalf4(x: v128): v128 {
  const v = f32x4.pmin(f32x4.pmax(x, f32x4.splat(-65504)), f32x4.splat(65504))
  const sign = v128.and(i32x4.shr_u(v, 16), i32x4.splat(0x8000)),
    size = v128.and(v, i32x4.splat(0x7fffffff))
  const even = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(f32x4.mul(size, f32x4.splat(16777216)), f32x4.splat(0.5))))
  const odd = v128.and(i32x4.shr_u(size, 13), i32x4.splat(1))
  const rounded = i32x4.shr_u(i32x4.add(i32x4.add(i32x4.sub(size, i32x4.splat(0x38000000)), i32x4.splat(0xfff)), odd), 13)
  return v128.or(sign, v128.bitselect(even, rounded, i32x4.lt_s(size, i32x4.splat(0x38800000))))
}
/** The bits of eight half floats nearest to two times four numbers. */
// @ts-ignore: decorator
@inline export function toHalves(a: v128, b: v128): v128 {
  return i16x8.narrow_i32x4_u(toHalf4(a), toHalf4(b))
}
/** The number that a half float stands for; what is no number does not occur. */
export function fromHalf(h: u32): f32 {
  const size = h & 0x7fff
  // Below 2⁻¹⁴ halves lie evenly.
  const v = size < 0x400 ? <f32>size * <f32>5.9604645e-8 : reinterpret<f32>((size << 13) + 0x38000000)
  return h & 0x8000 ? -v : v
}
/** Four numbers of half floats one behind the other, none of them infinite. */
// @ts-ignore: decorator
@inline export function fromHalves(at: usize): v128 {
  return fromHalf4(i32x4.extend_low_i16x8_u(v128.load64_zero(at)))
}
/** Of the bits of four half floats, a word each. */
// @ts-ignore: decorator
@inline export function fromHalf4(h: v128): v128 {
  const size = f32x4.mul(i32x4.shl(v128.and(h, i32x4.splat(0x7fff)), 13), f32x4.splat(5.192296858534828e33))
  return v128.or(size, i32x4.shl(v128.and(h, i32x4.splat(0x8000)), 16))
}
