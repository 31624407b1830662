import { type Mesh, placeIds } from '../geometry'
import { cosTurns, sinTurns } from '../math'

/** A place on a mesh: a triangle and how far it is towards each of its corners (they add up to 1). */
export interface SurfacePlace {
  triangle: number
  b0: number
  b1: number
  b2: number
}
export type V3 = [number, number, number]
const dot = (a: ArrayLike<number>, b: ArrayLike<number>): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const cross = (a: ArrayLike<number>, b: ArrayLike<number>): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
const scaled = (a: ArrayLike<number>, k: number): V3 => [a[0] * k, a[1] * k, a[2] * k]
const unit = (a: ArrayLike<number>): V3 => scaled(a, 1 / Math.max(1e-20, Math.sqrt(dot(a, a))))
/** Crossings of edges in one step: more is going round a corner for ever. */
const MOST_CROSSINGS = 4096
/** What one that has just come over an edge has of the corner before it: inside, so that it does not go back at once. */
const INSIDE = 1e-9

/** What walking over a mesh needs: which triangles share an edge (corners at the same place are one), normals, and how shares of corners change. */
export class WalkableMesh {
  readonly triangles: number
  /** By edge (triangle · 3 + edge, from corner k to k + 1): the edge on the other side, or −1 at a rim. */
  readonly across: Int32Array
  /** xyz of each corner of each triangle. */
  readonly corners: Float64Array
  /** By triangle: unit normal; by corner: how fast its share changes in each direction, 1/m. */
  readonly normals: Float64Array
  readonly gradients: Float64Array

  constructor(readonly mesh: Mesh) {
    const { indices, positions } = mesh
    this.triangles = indices.length / 3
    this.corners = new Float64Array(indices.length * 3)
    for (let i = 0; i < indices.length; i++) for (let a = 0; a < 3; a++) this.corners[i * 3 + a] = positions[indices[i] * 3 + a]
    const { of, count } = placeIds(positions)
    this.across = new Int32Array(indices.length).fill(-1)
    const open = new Map<number, number>()
    for (let e = 0; e < indices.length; e++) {
      const t = e - (e % 3)
      const [a, b] = [of[indices[e]], of[indices[t + ((e + 1) % 3)]]]
      const key = Math.min(a, b) * count + Math.max(a, b)
      const other = open.get(key)
      if (other === undefined) open.set(key, e)
      else if (other >= 0) {
        this.across[e] = other
        this.across[other] = e
        // A third triangle at the same edge finds nobody.
        open.set(key, -1)
      }
    }
    this.normals = new Float64Array(indices.length)
    this.gradients = new Float64Array(indices.length * 3)
    for (let t = 0; t < this.triangles; t++) {
      const corner = (k: number) => this.corners.subarray((t * 3 + (k % 3)) * 3, (t * 3 + (k % 3)) * 3 + 3)
      const edge = (k: number): V3 => [0, 1, 2].map((a) => corner(k + 1)[a] - corner(k)[a]) as V3
      const n = cross(edge(0), [0, 1, 2].map((a) => corner(2)[a] - corner(0)[a]) as V3)
      const area2 = dot(n, n)
      if (!(area2 > 1e-30)) continue
      this.normals.set(unit(n), t * 3)
      // Across the opposite edge.
      for (let k = 0; k < 3; k++) this.gradients.set(scaled(cross(n, edge(k + 1)), 1 / area2), (t * 3 + k) * 3)
    }
  }
  normal(triangle: number): V3 {
    return [this.normals[triangle * 3], this.normals[triangle * 3 + 1], this.normals[triangle * 3 + 2]]
  }
  placeOf({ triangle, b0, b1, b2 }: SurfacePlace): V3 {
    const [c, o] = [this.corners, triangle * 9]
    return [0, 1, 2].map((a) => c[o + a] * b0 + c[o + 3 + a] * b1 + c[o + 6 + a] * b2) as V3
  }
  /** A direction laid into a triangle; any there where it stands upright on it. */
  laid(triangle: number, d: ArrayLike<number>): V3 {
    const n = this.normal(triangle)
    const up = dot(d, n)
    const flat: V3 = [d[0] - n[0] * up, d[1] - n[1] * up, d[2] - n[2] * up]
    const o = triangle * 9
    return dot(flat, flat) > 1e-12 ? unit(flat) : unit([0, 1, 2].map((a) => this.corners[o + 3 + a] - this.corners[o + a]))
  }
}

/** Somebody who walks over a mesh: where, and in which direction. */
export class Walker {
  triangle = 0
  readonly b = new Float64Array(3)
  readonly d = new Float64Array(3)

  constructor(private readonly surface: WalkableMesh) {}
  start(place: SurfacePlace, direction: ArrayLike<number>): void {
    this.triangle = place.triangle
    this.b[0] = place.b0
    this.b[1] = place.b1
    this.b[2] = place.b2
    this.d.set(direction)
  }
  get place(): SurfacePlace {
    return { triangle: this.triangle, b0: this.b[0], b1: this.b[1], b2: this.b[2] }
  }
  /** Turns within the triangle, to the left as seen from outside. */
  turn(turns: number): void {
    if (turns === 0) return
    const { d } = this
    const n = this.surface.normals
    const o = this.triangle * 3
    const [c, s] = [cosTurns(turns), sinTurns(turns)]
    const [x, y, z] = d
    d[0] = x * c + (n[o + 1] * z - n[o + 2] * y) * s
    d[1] = y * c + (n[o + 2] * x - n[o] * z) * s
    d[2] = z * c + (n[o] * y - n[o + 1] * x) * s
  }
  /**
   * Straight on over the surface: within a triangle along a line, over an edge by unfolding the next triangle into its plane (a straightest
   * geodesic, Polthier and Schmies 1998). False where it came to a rim.
   */
  go(metres: number): boolean {
    const { b, d } = this
    const { across, gradients, corners, normals } = this.surface
    let left = metres
    for (let n = 0; n < MOST_CROSSINGS; n++) {
      let o = this.triangle * 9
      let [out, far] = [-1, left]
      const r0 = gradients[o] * d[0] + gradients[o + 1] * d[1] + gradients[o + 2] * d[2]
      const r1 = gradients[o + 3] * d[0] + gradients[o + 4] * d[1] + gradients[o + 5] * d[2]
      const r2 = gradients[o + 6] * d[0] + gradients[o + 7] * d[1] + gradients[o + 8] * d[2]
      if (r0 < 0 && b[0] < -r0 * far) [out, far] = [0, Math.max(0, b[0] / -r0)]
      if (r1 < 0 && b[1] < -r1 * far) [out, far] = [1, Math.max(0, b[1] / -r1)]
      if (r2 < 0 && b[2] < -r2 * far) [out, far] = [2, Math.max(0, b[2] / -r2)]
      b[0] = Math.max(0, b[0] + r0 * far)
      b[1] = Math.max(0, b[1] + r1 * far)
      b[2] = Math.max(0, b[2] + r2 * far)
      const sum = b[0] + b[1] + b[2]
      b[0] /= sum
      b[1] /= sum
      b[2] /= sum
      left -= far
      if (out < 0) return true
      // Over the edge opposite to that corner.
      const edge = (out + 1) % 3
      const other = across[this.triangle * 3 + edge]
      if (other < 0) return false
      const [p, q] = [o + edge * 3, o + ((edge + 1) % 3) * 3]
      let [ax, ay, az] = [corners[q] - corners[p], corners[q + 1] - corners[p + 1], corners[q + 2] - corners[p + 2]]
      const l = 1 / Math.max(1e-20, Math.sqrt(ax * ax + ay * ay + az * az))
      ax *= l
      ay *= l
      az *= l
      const along = ax * d[0] + ay * d[1] + az * d[2]
      const m = this.triangle * 3
      // Out of this triangle across the edge, and into the next one.
      const onward =
        (ay * normals[m + 2] - az * normals[m + 1]) * d[0] +
        (az * normals[m] - ax * normals[m + 2]) * d[1] +
        (ax * normals[m + 1] - ay * normals[m]) * d[2]
      const e = other % 3
      const next = (other - e) / 3
      o = next * 9
      const [u, v] = [o + e * 3, o + ((e + 1) % 3) * 3]
      const same = (corners[v] - corners[u]) * ax + (corners[v + 1] - corners[u + 1]) * ay + (corners[v + 2] - corners[u + 2]) * az > 0
      // The next triangle lies to the left of its own edge; ours may run either way.
      const k = same ? 1 : -1
      const w = next * 3
      const ix = k * (normals[w + 1] * az - normals[w + 2] * ay)
      const iy = k * (normals[w + 2] * ax - normals[w] * az)
      const iz = k * (normals[w] * ay - normals[w + 1] * ax)
      let [dx, dy, dz] = [ax * along + ix * onward, ay * along + iy * onward, az * along + iz * onward]
      const size = 1 / Math.max(1e-20, Math.sqrt(dx * dx + dy * dy + dz * dz))
      dx *= size
      dy *= size
      dz *= size
      d[0] = dx
      d[1] = dy
      d[2] = dz
      const [first, second] = [b[edge], b[(edge + 1) % 3]]
      b[e] = same ? first : second
      b[(e + 1) % 3] = same ? second : first
      b[(e + 2) % 3] = INSIDE
      this.triangle = next
    }
    return false
  }
}
