import { invert, type Matrix, sameMatrix } from './matrix'
import { type Quaternion, rotationOf } from './quaternion'

/** Kinds of motion between two poses, as in memory's MOTION: none, without turning, turning, turning with a change of scale or shear. */
export type PoseMotion = 'still' | 'shift' | 'turn' | 'any'
/**
 * How an object gets from one pose to another: its axes are R(s) · lerp(A, B, s), with A those of the first pose, B those of the second
 * without its rotation relative to the first, and R(s) that rotation's share; its origin goes straight.
 */
export interface PosePath {
  motion: PoseMotion
  /** The relative rotation; the shorter way round. */
  turn: Quaternion
  /** B, 3x3 by rows. */
  end: number[]
  /** Into how many even pieces the motion is cut so that a rotation of less than a tenth of a radian is left in each. */
  pieces: number
}
type Axes = number[]
const PLACES = [0, 1, 2, 4, 5, 6, 8, 9, 10]
const axesOf = (m: Matrix): Axes => PLACES.map((k) => m[k])
const times = (a: Axes, b: Axes): Axes =>
  a.map((_, i) => {
    const [r, c] = [i - (i % 3), i % 3]
    return a[r] * b[c] + a[r + 1] * b[c + 3] + a[r + 2] * b[c + 6]
  })
const transposed = (a: Axes): Axes => [a[0], a[3], a[6], a[1], a[4], a[7], a[2], a[5], a[8]]
const matrixOf = (a: Axes): Matrix => Float64Array.of(a[0], a[1], a[2], 0, a[3], a[4], a[5], 0, a[6], a[7], a[8], 0)
const determinant = (a: Axes): number =>
  a[0] * (a[4] * a[8] - a[5] * a[7]) + a[1] * (a[5] * a[6] - a[3] * a[8]) + a[2] * (a[3] * a[7] - a[4] * a[6])

/** The rotation nearest to a matrix: the orthogonal factor of its polar decomposition, by Newton's iteration (Higham 1986). */
function nearestRotation(d: Axes): Axes {
  let q = d
  for (let k = 0; k < 24; k++) {
    const inverse = invert(matrixOf(q))
    if (!inverse) return [1, 0, 0, 0, 1, 0, 0, 0, 1]
    const other = transposed(axesOf(inverse))
    const next = q.map((v, i) => (v + other[i]) / 2)
    const change = next.reduce((m, v, i) => Math.max(m, Math.abs(v - q[i])), 0)
    q = next
    if (change < 1e-15) break
  }
  return q
}
/** The unit quaternion of a rotation, with w ≥ 0, from the largest of its four squares (Shepperd 1978). */
function quaternionOf(r: Axes): Quaternion {
  const [a, b, c] = [r[0], r[4], r[8]]
  const squares = [1 + a - b - c, 1 - a + b - c, 1 - a - b + c, 1 + a + b + c]
  const k = squares.indexOf(Math.max(...squares))
  const h = Math.sqrt(squares[k]) / 2
  const f = 1 / (4 * h)
  const [yz, zx, xy] = [r[7] - r[5], r[2] - r[6], r[3] - r[1]]
  const [syz, szx, sxy] = [r[7] + r[5], r[2] + r[6], r[3] + r[1]]
  const q: Quaternion[] = [
    [h, sxy * f, szx * f, yz * f],
    [sxy * f, h, syz * f, zx * f],
    [szx * f, syz * f, h, xy * f],
    [yz * f, zx * f, xy * f, h],
  ]
  return q[k][3] < 0 ? (q[k].map((v) => -v) as Quaternion) : q[k]
}
/** The rotation of a matrix, without its scale and shear; null: it is flat or a mirror image. */
export function rotationIn(m: Matrix): Quaternion | null {
  const axes = axesOf(m)
  return determinant(axes) > 0 ? quaternionOf(nearestRotation(axes)) : null
}
/** How an object gets from a pose to another; a mirror image of itself, or a flat one, goes straight there without turning. */
export function posePath(m0: Matrix, m1: Matrix): PosePath {
  const [a, b] = [axesOf(m0), axesOf(m1)]
  const still = { turn: [0, 0, 0, 1] as Quaternion, end: b, pieces: 1 }
  if (sameMatrix(m0, m1)) return { motion: 'still', ...still }
  if (a.every((v, i) => v === b[i])) return { motion: 'shift', ...still }
  const inverse = invert(m0)
  const relative = inverse && times(b, axesOf(inverse))
  if (!relative || !(determinant(relative) > 1e-9)) return { motion: 'any', ...still }
  const turn = quaternionOf(nearestRotation(relative))
  const end = times(transposed(rotationOf(turn).flat()), b)
  const size = Math.max(...a.map(Math.abs))
  const rigid = end.every((v, i) => Math.abs(v - a[i]) <= 1e-9 * size)
  const sine = Math.sqrt(turn[0] * turn[0] + turn[1] * turn[1] + turn[2] * turn[2])
  return { motion: rigid ? 'turn' : 'any', turn, end: rigid ? a : end, pieces: Math.max(1, Math.ceil(24 * sine)) }
}
