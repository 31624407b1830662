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
