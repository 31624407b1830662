import type { Mesh } from './mesh'

export type Point = readonly [number, number, number]
/** Two points of a path that stand on one another still are a stretch of this length, so that no division is by zero. */
const LEAST = 1e-9

/**
 * Points along a path: straight from point to point, or a centripetal Catmull-Rom curve through them (Barry and Goldman 1988; Yuksel,
 * Schaefer and Keyser 2011), which makes no loop or cusp of its own between two points. `pieces` straight pieces for each stretch; a closed
 * path goes back to its first point. Gives xyz each, the first and the last point among them.
 */
export function alongPath(points: readonly Point[], smooth: boolean, closed: boolean, pieces: number): Float32Array {
  const n = points.length
  if (n < 2) throw new Error('a path needs at least two points')
  const stretches = closed && n > 2 ? n : n - 1
  const each = smooth ? pieces : 1
  const out = new Float32Array((stretches * each + 1) * 3)
  const mirror = (a: Point, b: Point): Point => [2 * a[0] - b[0], 2 * a[1] - b[1], 2 * a[2] - b[2]]
  // Beyond an open end lies the mirror of the point before it.
  const at = (i: number): Point =>
    stretches === n ? points[(i + n) % n] : i < 0 ? mirror(points[0], points[1]) : i >= n ? mirror(points[n - 1], points[n - 2]) : points[i]
  const gap = (a: Point, b: Point): number =>
    Math.max(LEAST, Math.sqrt(Math.sqrt((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2)))
  for (let s = 0; s < stretches; s++) {
    const [p0, p1, p2, p3] = [at(s - 1), at(s), at(s + 1), at(s + 2)]
    const t1 = gap(p0, p1),
      t2 = t1 + gap(p1, p2),
      t3 = t2 + gap(p2, p3)
    for (let k = 0; k < each; k++) {
      const t = t1 + ((t2 - t1) * k) / each
      for (let a = 0; a < 3; a++) {
        let v = p1[a]
        if (k > 0) {
          const a1 = ((t1 - t) * p0[a] + t * p1[a]) / t1
          const a2 = ((t2 - t) * p1[a] + (t - t1) * p2[a]) / (t2 - t1)
          const a3 = ((t3 - t) * p2[a] + (t - t2) * p3[a]) / (t3 - t2)
          const b1 = ((t2 - t) * a1 + t * a2) / t2
          const b2 = ((t3 - t) * a2 + (t - t1) * a3) / (t3 - t1)
          v = ((t2 - t) * b1 + (t - t1) * b2) / (t2 - t1)
        }
        out[(s * each + k) * 3 + a] = v
      }
    }
  }
  out.set(at(stretches), stretches * each * 3)
  return out
}
/** Places in a row as a mesh: triangles without area, (a, b, b), whose edges are its pieces. */
export function lineThrough(positions: Float32Array): Mesh {
  const pieces = positions.length / 3 - 1
  const indices = new Uint32Array(pieces * 3)
  for (let i = 0; i < pieces; i++) indices.set([i, i + 1, i + 1], i * 3)
  return { positions, normals: null, indices, parts: [] }
}
