import { cosDeg, sinDeg } from './functions'

/** 3x4, by rows: [r00 r01 r02 tx, r10 …]. Maps own space to the world. */
export type Matrix = Float64Array
type V3 = readonly [number, number, number]

export function identity(out: Matrix = new Float64Array(12)): Matrix {
  out.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0])
  return out
}

/** Scale, then rotate about Z, X and Y (degrees), then place. */
export function compose(place: V3, rotate: V3, scale: V3, out: Matrix = new Float64Array(12)): Matrix {
  const sx = sinDeg(rotate[0]),
    cx = cosDeg(rotate[0]),
    sy = sinDeg(rotate[1]),
    cy = cosDeg(rotate[1]),
    sz = sinDeg(rotate[2]),
    cz = cosDeg(rotate[2])
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
  const A = e * i - f * h,
    B = f * g - d * i,
    C = d * h - e * g
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

/** a after b: maps b's own space through both. `out` may be one of them. */
export function multiply(a: Matrix, b: Matrix, out: Matrix = new Float64Array(12)): Matrix {
  const c = new Float64Array(12)
  for (let r = 0; r < 12; r += 4) {
    for (let k = 0; k < 4; k++) c[r + k] = a[r] * b[k] + a[r + 1] * b[4 + k] + a[r + 2] * b[8 + k] + (k === 3 ? a[r + 3] : 0)
  }
  out.set(c)
  return out
}

/** Place, rotation (degrees) and scale of a matrix without shear; for editing only, since it asks JavaScript for the angles. */
export function decompose(m: Matrix): {
  place: [number, number, number]
  rotate: [number, number, number]
  scale: [number, number, number]
} {
  const tidy = (v: number) => Math.round(v * 1e6) / 1e6 + 0
  const length = (k: number) => Math.sqrt(m[k] * m[k] + m[4 + k] * m[4 + k] + m[8 + k] * m[8 + k]) || 1e-9
  const det = m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])
  const s = [length(0), length(1), det < 0 ? -length(2) : length(2)]
  const r = (row: number, k: number) => m[row * 4 + k] / s[k]
  const deg = 180 / Math.PI
  const x = Math.asin(Math.max(-1, Math.min(1, -r(1, 2))))
  // Looking straight up or down, turning about Y and about Z are the same: all of it goes to Y.
  const steep = Math.abs(r(1, 2)) > 0.9999999
  const y = steep ? Math.atan2(-r(2, 0), r(0, 0)) : Math.atan2(r(0, 2), r(2, 2))
  const z = steep ? 0 : Math.atan2(r(1, 0), r(1, 1))
  return {
    place: [tidy(m[3]), tidy(m[7]), tidy(m[11])],
    rotate: [tidy(x * deg), tidy(y * deg), tidy(z * deg)],
    scale: [tidy(s[0]), tidy(s[1]), tidy(s[2])],
  }
}
