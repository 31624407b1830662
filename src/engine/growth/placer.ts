import type { Mesh } from '../geometry'
import type { Matrix } from '../math'

export interface Placer {
  /** Where a place within a triangle, by the shares of its second and third corner, is. */
  (triangle: number, b1: number, b2: number, out: Float64Array): void
  /** The unit normal of a triangle, in the space of the positions. */
  normal(triangle: number, out: Float64Array): void
}
/** Where a place within a triangle is in the shot, lifted off the surface by so many metres. */
export function placer(mesh: Mesh, positions: Float32Array, m: Matrix, lift: number): Placer {
  const { indices } = mesh
  const place = (triangle: number, b1: number, b2: number, out: Float64Array): void => {
    const [i, j, k] = [indices[triangle * 3] * 3, indices[triangle * 3 + 1] * 3, indices[triangle * 3 + 2] * 3]
    const b0 = 1 - b1 - b2
    const x = positions[i] * b0 + positions[j] * b1 + positions[k] * b2
    const y = positions[i + 1] * b0 + positions[j + 1] * b1 + positions[k + 1] * b2
    const z = positions[i + 2] * b0 + positions[j + 2] * b1 + positions[k + 2] * b2
    // Both sides of the triangle as they are in the shot: its normal there, whatever the scale.
    const e = [0, 1, 2].map((a) => positions[j + a] - positions[i + a])
    const f = [0, 1, 2].map((a) => positions[k + a] - positions[i + a])
    const [ex, ey, ez] = [0, 4, 8].map((r) => m[r] * e[0] + m[r + 1] * e[1] + m[r + 2] * e[2])
    const [fx, fy, fz] = [0, 4, 8].map((r) => m[r] * f[0] + m[r + 1] * f[1] + m[r + 2] * f[2])
    const [nx, ny, nz] = [ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx]
    const up = lift / Math.max(1e-20, Math.sqrt(nx * nx + ny * ny + nz * nz))
    out[0] = m[0] * x + m[1] * y + m[2] * z + m[3] + nx * up
    out[1] = m[4] * x + m[5] * y + m[6] * z + m[7] + ny * up
    out[2] = m[8] * x + m[9] * y + m[10] * z + m[11] + nz * up
  }
  const normal = (triangle: number, out: Float64Array): void => {
    const [i, j, k] = [indices[triangle * 3] * 3, indices[triangle * 3 + 1] * 3, indices[triangle * 3 + 2] * 3]
    const e = [0, 1, 2].map((a) => positions[j + a] - positions[i + a])
    const f = [0, 1, 2].map((a) => positions[k + a] - positions[i + a])
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]]
    const per = 1 / Math.max(1e-20, Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2))
    for (let q = 0; q < 3; q++) out[q] = n[q] * per
  }
  return Object.assign(place, { normal })
}
