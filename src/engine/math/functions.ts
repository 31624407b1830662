// sin and cos for matrices, from + - × only, so that Node.js and every browser give the same bits; JavaScript's own may differ.

const TAU = 6.283185307179586

/** Taylor to x^17 and x^18 on an eighth of a turn to either side. */
function quarter(q: number, r: number): number {
  const a = r * TAU
  const b = a * a
  let sum = 1
  if (q & 1) {
    for (let k = 9; k >= 1; k--) sum = 1 - (b / ((2 * k - 1) * 2 * k)) * sum
  } else {
    for (let k = 8; k >= 1; k--) sum = 1 - (b / (2 * k * (2 * k + 1))) * sum
    sum *= a
  }
  return q & 2 ? -sum : sum
}
/** sin of an angle in turns, |error| < 1e-15 for one turn; exact at whole quarters, so that what is not rotated stays bit for bit. */
export function sinTurns(x: number): number {
  const q = Math.floor(x * 4 + 0.5)
  return quarter(q & 3, x - q / 4)
}
export function cosTurns(x: number): number {
  const q = Math.floor(x * 4 + 0.5)
  return quarter((q + 1) & 3, x - q / 4)
}
export const sinDeg = (deg: number): number => sinTurns(deg / 360)
export const cosDeg = (deg: number): number => cosTurns(deg / 360)

/** 32-bit mix, as kernels/math.ts. */
export function mix(v: number): number {
  let x = v >>> 0
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d)
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b)
  return (x ^ (x >>> 16)) >>> 0
}
/** hash(seed of the element, particle id, channel), as kernels/math.ts. */
export const hash3 = (seed: number, id: number, channel: number): number => mix(seed ^ mix(id ^ mix((channel + 0x9e3779b9) >>> 0)))
/** A word to [0, 1), as kernels/math.ts. */
export const unit = (h: number): number => (h >>> 8) / 16777216

const words = new DataView(new ArrayBuffer(8))
/** Logarithm to base 2 of a positive number, |relative error| < 1e-14: exponent from the bits, the rest by atanh's series. */
export function log2(x: number): number {
  if (!(x > 0)) return x === 0 ? Number.NEGATIVE_INFINITY : Number.NaN
  if (x === Number.POSITIVE_INFINITY) return x
  let e = 0
  let m = x
  if (m < 2.2250738585072014e-308) {
    m *= 18014398509481984
    e = -54
  }
  words.setFloat64(0, m)
  const high = words.getUint32(0)
  e += ((high >>> 20) & 2047) - 1023
  words.setUint32(0, (high & 0xfffff) | 0x3ff00000)
  m = words.getFloat64(0)
  if (m > 1.4142135623730951) {
    m /= 2
    e++
  }
  const z = (m - 1) / (m + 1)
  const w = z * z
  let sum = 0
  for (let k = 21; k >= 1; k -= 2) sum = sum * w + 1 / k
  return e + 2 * z * sum * 1.4426950408889634
}
/** 2 to the power of x: whole part by the exponent's bits, the rest by the exponential series. */
export function exp2(x: number): number {
  if (!(x < 1024)) return x >= 1024 ? Number.POSITIVE_INFINITY : Number.NaN
  if (x < -1022) return 0
  const n = Math.floor(x + 0.5)
  const a = (x - n) * 0.6931471805599453
  let sum = 1
  for (let k = 18; k >= 1; k--) sum = 1 + (a / k) * sum
  words.setUint32(0, (n + 1023) << 20)
  words.setUint32(4, 0)
  return n === 1024 ? sum * 2 * 8.98846567431158e307 : sum * words.getFloat64(0)
}
/** x to the power of y. Whole powers by multiplying, so that they also take negative x; others of x below 0 are not numbers. */
export function power(x: number, y: number): number {
  if (Number.isInteger(y) && Math.abs(y) <= 1024) {
    let r = 1,
      base = y < 0 ? 1 / x : x
    for (let n = Math.abs(y); n > 0; n = Math.floor(n / 2)) {
      if (n % 2) r *= base
      base *= base
    }
    return r
  }
  return x === 0 ? (y > 0 ? 0 : Number.POSITIVE_INFINITY) : exp2(y * log2(x))
}
/** A whole number within a period, from 0 on; without a period (0) as it is. */
export const wrapped = (n: number, period: number): number => (period ? ((n % period) + period) % period : n)
/**
 * Smooth random path over x, values in -1 to 1: lattice values joined by a quintic, whose second derivative does not jump. `period`: it comes
 * again after so many of them; 0: never.
 */
export function noise1(seed: number, x: number, period = 0): number {
  const i = Math.floor(x)
  const f = x - i
  const at = (k: number) => unit(hash3(seed, wrapped(i + k, period) | 0, 31)) * 2 - 1
  const w = f * f * f * (f * (f * 6 - 15) + 10)
  const a = at(0)
  return a + (at(1) - a) * w
}
