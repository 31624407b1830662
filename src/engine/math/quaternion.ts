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
/** After seconds of a constant spin, rad/s, exactly. */
export function spunBy(q: Quaternion, spin: readonly number[], dt: number): Quaternion {
  const speed = Math.sqrt(spin[0] * spin[0] + spin[1] * spin[1] + spin[2] * spin[2])
  if (!(speed * Math.abs(dt) > 0)) return q
  const half = (speed * dt) / 2
  const s = Math.sin(half) / speed
  return multiplyQuaternions([spin[0] * s, spin[1] * s, spin[2] * s, Math.cos(half)], q)
}
/** Rows of the rotation of a unit quaternion. */
export const rotationOf = ([x, y, z, w]: Quaternion): V3[] => [
  [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
  [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
  [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
]
/** The rotation of the second, then that of the first. */
export const multiplyQuaternions = ([a, b, c, d]: Quaternion, [x, y, z, w]: Quaternion): Quaternion => [
  a * w + d * x + b * z - c * y,
  b * w + d * y + c * x - a * z,
  c * w + d * z + a * y - b * x,
  d * w - a * x - b * y - c * z,
]
