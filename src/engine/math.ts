// sin and cos for matrices, from + - × only, so that Node.js and every browser give the same bits; JavaScript's own may differ.

const TAU = 6.283185307179586

/** sin of an angle in turns, |error| < 1e-12 over ±1e6 turns. Taylor to x^19 on a quarter turn. */
export function sinTurns(x: number): number {
  let r = x - Math.floor(x + 0.5)
  if (r > 0.25) r = 0.5 - r
  else if (r < -0.25) r = -0.5 - r
  const a = r * TAU
  const b = a * a
  let sum = 1
  for (let k = 9; k >= 1; k--) sum = 1 - (b / (2 * k * (2 * k + 1))) * sum
  return a * sum
}
export const cosTurns = (x: number): number => sinTurns(x + 0.25)
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
