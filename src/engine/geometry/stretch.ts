import type { Matrix } from '../math'

/** Stretches that differ by less than this share count as even, and as the same. */
const STEP = 1e-5
/**
 * How a matrix stretches lengths, apart from rotation and an even scale: the upper triangle xx xy xz yy yz zz of the Cholesky factor of MᵀM
 * over its mean; null when it stretches all directions alike, or is flat. Rounded, so that an object that only rotates keeps its numbers.
 */
export function stretchOf(m: Matrix): number[] | null {
  const dot = (a: number, b: number) => m[a] * m[b] + m[4 + a] * m[4 + b] + m[8 + a] * m[8 + b]
  const mean = (dot(0, 0) + dot(1, 1) + dot(2, 2)) / 3
  if (!(mean > 0)) return null
  const g = (a: number, b: number) => Math.round(dot(a, b) / mean / STEP) * STEP
  const even = [g(0, 0) - 1, g(1, 1) - 1, g(2, 2) - 1, g(0, 1), g(0, 2), g(1, 2)]
  if (even.every((v) => Math.abs(v) < 2 * STEP)) return null
  const xx = Math.sqrt(Math.max(0, g(0, 0)))
  const xy = xx > 0 ? g(0, 1) / xx : 0
  const xz = xx > 0 ? g(0, 2) / xx : 0
  const yy = Math.sqrt(Math.max(0, g(1, 1) - xy * xy))
  const yz = yy > 0 ? (g(1, 2) - xy * xz) / yy : 0
  return [xx, xy, xz, yy, yz, Math.sqrt(Math.max(0, g(2, 2) - xz * xz - yz * yz))]
}
/** The length of a vector under a stretch. */
export function stretched(s: readonly number[] | null, x: number, y: number, z: number): number {
  if (!s) return Math.sqrt(x * x + y * y + z * z)
  const [u, v, w] = [s[0] * x + s[1] * y + s[2] * z, s[3] * y + s[4] * z, s[5] * z]
  return Math.sqrt(u * u + v * v + w * w)
}
