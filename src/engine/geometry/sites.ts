import { type Mesh, placeIds } from './mesh'
import { stretched } from './stretch'

/** Points with outward directions, in the mesh's own space: xyz each. */
export interface Sites {
  positions: Float32Array
  normals: Float32Array
}
/** The places of a mesh's vertices that faces use, each once; normals are the sums of the faces around by area (not unit). */
export function vertexSites(
  m: Mesh,
): Sites & { of: Uint32Array /** One vertex of the mesh that stands at each site. */; first: Uint32Array } {
  const { of, count, first } = placeIds(m.positions)
  const sums = new Float64Array(count * 3)
  const used = new Uint8Array(count)
  const p = m.positions
  for (let t = 0; t < m.indices.length; t += 3) {
    const [i, j, k] = [m.indices[t] * 3, m.indices[t + 1] * 3, m.indices[t + 2] * 3]
    const ex = p[j] - p[i],
      ey = p[j + 1] - p[i + 1],
      ez = p[j + 2] - p[i + 2]
    const fx = p[k] - p[i],
      fy = p[k + 1] - p[i + 1],
      fz = p[k + 2] - p[i + 2]
    const n = [ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx]
    for (let c = 0; c < 3; c++) {
      const v = of[m.indices[t + c]]
      used[v] = 1
      for (let a = 0; a < 3; a++) sums[v * 3 + a] += n[a]
    }
  }
  const renumbered = new Uint32Array(count)
  const positions: number[] = []
  const normals: number[] = []
  const at: number[] = []
  for (let v = 0; v < count; v++) {
    if (!used[v]) continue
    at.push(first[v])
    renumbered[v] = positions.length / 3
    positions.push(p[first[v] * 3], p[first[v] * 3 + 1], p[first[v] * 3 + 2])
    const n = [sums[v * 3], sums[v * 3 + 1], sums[v * 3 + 2]]
    const l = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
    normals.push(...(l > 1e-30 ? n.map((x) => x / l) : [0, 1, 0]))
  }
  return {
    positions: new Float32Array(positions),
    normals: new Float32Array(normals),
    of: of.map((v) => renumbered[v]),
    first: new Uint32Array(at),
  }
}
/**
 * The edges of a mesh, each once, as triangles (a, b, b) over `vertexSites`, with running sums of their lengths in metres, times the mean
 * amount of both ends when a region has amounts.
 */
export function edgeSites(
  m: Mesh,
  amount?: (vertex: number) => number,
  stretch: readonly number[] | null = null,
): Sites & { indices: Uint32Array; lengths: Float32Array; first: Uint32Array } {
  const v = vertexSites(m)
  const known = new Set<number>()
  const indices: number[] = []
  const lengths: number[] = []
  const count = v.positions.length / 3
  let sum = 0
  for (let t = 0; t < m.indices.length; t += 3) {
    for (let c = 0; c < 3; c++) {
      const a = v.of[m.indices[t + c]],
        b = v.of[m.indices[t + ((c + 1) % 3)]]
      const key = Math.min(a, b) * count + Math.max(a, b)
      if (a === b || known.has(key)) continue
      known.add(key)
      const [x, y, z] = [0, 1, 2].map((k) => v.positions[b * 3 + k] - v.positions[a * 3 + k])
      const share = amount ? (amount(v.first[a]) + amount(v.first[b])) / 2 : 1
      if (share <= 0) continue
      sum += stretched(stretch, x, y, z) * share
      indices.push(a, b, b)
      lengths.push(sum)
    }
  }
  return {
    positions: v.positions,
    normals: v.normals,
    first: v.first,
    indices: new Uint32Array(indices),
    lengths: new Float32Array(lengths),
  }
}
/** So much of a spacing, and of the box, rounding may take away: a row of points on a face belongs to the inside whichever face it is. */
const EDGE = 1e-4
/** More cells than this are refused: the spacing is too small for the box. */
export const LATTICE_CELLS = 8_000_000
/**
 * The points of an even lattice, middle on the middle of the box, that `inside` takes; up is their direction. Null when there are too many.
 */
export function latticeSites(
  box: { min: readonly number[]; max: readonly number[] },
  spacing: number,
  inside: (x: number, y: number, z: number) => boolean,
): Sites | null {
  const n = [0, 1, 2].map((a) => Math.max(1, Math.floor((box.max[a] - box.min[a]) / spacing + EDGE) + 1))
  if (n[0] * n[1] * n[2] > LATTICE_CELLS) return null
  const from = [0, 1, 2].map((a) => (box.min[a] + box.max[a]) / 2 - ((n[a] - 1) / 2) * spacing)
  const pull = (v: number, a: number) => v + ((box.min[a] + box.max[a]) / 2 - v) * EDGE
  const positions: number[] = []
  for (let j = 0; j < n[1]; j++) {
    for (let k = 0; k < n[2]; k++) {
      for (let i = 0; i < n[0]; i++) {
        const x = from[0] + i * spacing,
          y = from[1] + j * spacing,
          z = from[2] + k * spacing
        if (inside(pull(x, 0), pull(y, 1), pull(z, 2))) positions.push(x, y, z)
      }
    }
  }
  return { positions: new Float32Array(positions), normals: new Float32Array(positions.length).map((_, i) => (i % 3 === 1 ? 1 : 0)) }
}
