const bits = new Uint32Array(1)
const real = new Float32Array(bits.buffer)
const MOST_HALF = 65504
/** The nearest 16-bit float (IEEE 754 binary16), ties to even; what is larger becomes the largest, what is no number 0. */
export function toHalf(v: number): number {
  if (Number.isNaN(v)) return 0
  const sign = v < 0 ? 0x8000 : 0
  const a = Math.min(Math.abs(v), MOST_HALF)
  // Below 2^-14 they are evenly spaced, by 2^-24.
  if (a < 2 ** -14) return sign | roundEven(a * 2 ** 24)
  real[0] = a
  const e = (bits[0] >>> 23) - 112
  const m = bits[0] & 0x7fffff
  const kept = m >>> 13
  const rest = m & 0x1fff
  // A mantissa that overflows goes over into the exponent, as it should.
  return sign | ((e << 10) + kept + (rest > 0x1000 || (rest === 0x1000 && kept & 1) ? 1 : 0))
}
const roundEven = (x: number): number => {
  const low = Math.floor(x)
  const rest = x - low
  return rest > 0.5 || (rest === 0.5 && low % 2) ? low + 1 : low
}
