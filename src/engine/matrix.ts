import { cosDeg, sinDeg } from './math'

/** 3x4, by rows: [r00 r01 r02 tx, r10 …]. Maps own space to the world. */
export type Matrix = Float64Array
type V3 = readonly [number, number, number]

export function identity(out: Matrix = new Float64Array(12)): Matrix {
  out.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0])
  return out
}

/** Scale, then rotate about Z, X and Y (degrees), then place. */
export function compose(place: V3, rotate: V3, scale: V3, out: Matrix = new Float64Array(12)): Matrix {
  const sx = sinDeg(rotate[0]), cx = cosDeg(rotate[0]), sy = sinDeg(rotate[1]), cy = cosDeg(rotate[1]), sz = sinDeg(rotate[2]), cz = cosDeg(rotate[2])
  out[0] = (cy * cz + sy * sx * sz) * scale[0]
  out[1] = (-cy * sz + sy * sx * cz) * scale[1]
  out[2] = sy * cx * scale[2]
  out[4] = cx * sz * scale[0]
  out[5] = cx * cz * scale[1]
  out[6] = -sx * scale[2]
  out[8] = (-sy * cz + cy * sx * sz) * scale[0]
  out[9] = (sy * sz + cy * sx * cz) * scale[1]
  out[10] = cy * cx * scale[2]
  out[3] = place[0]
  out[7] = place[1]
  out[11] = place[2]
  return out
}

/** Null when the matrix is flat (a scale of zero): nothing can be asked in its own space. */
export function invert(m: Matrix, out: Matrix = new Float64Array(12)): Matrix | null {
  const [a, b, c, tx, d, e, f, ty, g, h, i, tz] = m
  const A = e * i - f * h, B = f * g - d * i, C = d * h - e * g
  const det = a * A + b * B + c * C
  if (!(Math.abs(det) > 1e-18)) return null
  const k = 1 / det
  out[0] = A * k
  out[1] = (c * h - b * i) * k
  out[2] = (b * f - c * e) * k
  out[4] = B * k
  out[5] = (a * i - c * g) * k
  out[6] = (c * d - a * f) * k
  out[8] = C * k
  out[9] = (b * g - a * h) * k
  out[10] = (a * e - b * d) * k
  out[3] = -(out[0] * tx + out[1] * ty + out[2] * tz)
  out[7] = -(out[4] * tx + out[5] * ty + out[6] * tz)
  out[11] = -(out[8] * tx + out[9] * ty + out[10] * tz)
  return out
}

export const apply = (m: Matrix, x: number, y: number, z: number): [number, number, number] => [
  m[0] * x + m[1] * y + m[2] * z + m[3],
  m[4] * x + m[5] * y + m[6] * z + m[7],
  m[8] * x + m[9] * y + m[10] * z + m[11],
]
export const sameMatrix = (a: Matrix, b: Matrix): boolean => a.every((v, i) => v === b[i])
