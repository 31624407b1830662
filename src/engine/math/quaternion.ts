/** x, y, z, w */
export type Quaternion = [number, number, number, number]
type V3 = [number, number, number]

/**
 * A rotation by the mean spin (radians a second) over dt, after another: of unit length whatever the step (Cayley), short by the square of
 * half its angle over three.
 */
export function rotatedBy(q: Quaternion, spin: readonly number[], dt: number): Quaternion {
  const [x, y, z] = spin.map((v) => (v * dt) / 2)
  const [a, b, c, w] = q
  const out = [a + x * w + y * c - z * b, b + y * w + z * a - x * c, c + z * w + x * b - y * a, w - x * a - y * b - z * c]
  const length = Math.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2] + out[3] * out[3])
  return out.map((v) => v / length) as Quaternion
}
/** Rows of the rotation of a unit quaternion. */
export const rotationOf = ([x, y, z, w]: Quaternion): V3[] => [
  [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
  [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
  [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
]
/** One quaternion after another. */
export const after = ([a, b, c, d]: Quaternion, [x, y, z, w]: Quaternion): Quaternion => [
  a * w + d * x + b * z - c * y,
  b * w + d * y + c * x - a * z,
  c * w + d * z + a * y - b * x,
  d * w - a * x - b * y - c * z,
]
/** The rotation of a matrix (three rows of four) without its scale, by the largest of its four parts (Shepperd 1978). */
export function quaternionOf(m: ArrayLike<number>): Quaternion {
  const lengths = [0, 1, 2].map((c) => Math.sqrt(m[c] ** 2 + m[4 + c] ** 2 + m[8 + c] ** 2) || 1)
  const r = (row: number, column: number) => m[row * 4 + column] / lengths[column]
  const [x, y, z] = [0, 1, 2].map((k) => r(k, k))
  const squares = [1 + x - y - z, 1 - x + y - z, 1 - x - y + z, 1 + x + y + z]
  const k = squares.indexOf(Math.max(...squares))
  const s = Math.sqrt(Math.max(squares[k], 1e-12)) * 2
  const [a, b, c] = [r(2, 1) - r(1, 2), r(0, 2) - r(2, 0), r(1, 0) - r(0, 1)]
  const [p, q, t] = [r(0, 1) + r(1, 0), r(0, 2) + r(2, 0), r(1, 2) + r(2, 1)]
  if (k === 0) return [s / 4, p / s, q / s, a / s]
  if (k === 1) return [p / s, s / 4, t / s, b / s]
  if (k === 2) return [q / s, t / s, s / 4, c / s]
  return [a / s, b / s, c / s, s / 4]
}
