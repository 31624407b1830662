import type { Motion } from './motion'
import type { StoredVolume } from './stored'

/** Triangles in flat arrays, in metres, Y up. Counter-clockwise seen from outside. */
export interface Mesh {
  /** xyz per vertex */
  positions: Float32Array
  /** xyz per vertex, or null: flat shading by face */
  normals: Float32Array | null
  /** Linear red, green, blue per vertex, when the file has them. */
  colours?: Float32Array
  /** Places in pictures, two per vertex, 0 to 1 from the upper left. */
  uv?: Float32Array
  /** Pictures on parts, as their files have them: PNG, JPEG or WebP. */
  textures?: (MeshPicture & {
    part: string
    /** Light of black to white as 0 to 255, from the top; null when it cannot be decoded. */
    brightness: { width: number; height: number; data: Uint8Array } | null
    /** Where it is less than half there, nothing is. */
    cut?: boolean
  })[]
  /** What parts are made of beside their colour, as the file's materials have it; pictures need `uv`. */
  surfaces?: MeshSurface[]
  /** How it moves by itself, when the file says so. */
  motion?: Motion
  /** What its file holds in space, where that is one of volumes: to be read where the simulation runs. */
  volume?: StoredVolume
  /** three per triangle */
  indices: Uint32Array
  /** Named runs of triangles; births can be limited to one. Their order and counts cover all triangles they name. */
  parts: MeshPart[]
}
/** A picture of a file: PNG, JPEG or WebP as they are; a picture of light as linear numbers, so many across and down. */
export interface MeshPicture {
  type: string
  data: Uint8Array
  size?: [number, number]
}
export interface MeshSurface {
  part: string
  /** 0 to 1 */
  roughness: number
  metal: number
  /** Linear light that it gives off. */
  glow: [number, number, number]
  /** Normals in tangent space, and how strongly they count. */
  normal?: MeshPicture & { scale: number }
  /** Roughness in its green, metal in its blue; times the values. */
  rough?: MeshPicture
  /** Times the glow. */
  shines?: MeshPicture
}
export interface MeshPart {
  name: string
  firstTriangle: number
  triangleCount: number
}
/** A mesh as it is drawn: what its file holds in space stays where the simulation runs. */
export function drawnMesh(m: Mesh): Mesh {
  if (!m.volume) return m
  const { volume: _, ...rest } = m
  return rest
}
export interface Bounds {
  min: [number, number, number]
  max: [number, number, number]
}
export const triangleCount = (m: Mesh): number => m.indices.length / 3

export function boundsOf(m: Mesh): Bounds {
  const min: Bounds['min'] = [Infinity, Infinity, Infinity]
  const max: Bounds['max'] = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < m.positions.length; i++) {
    const a = i % 3
    const v = m.positions[i]
    if (v < min[a]) min[a] = v
    if (v > max[a]) max[a] = v
  }
  return m.positions.length ? { min, max } : { min: [0, 0, 0], max: [0, 0, 0] }
}

/** Running sums of the triangles' areas (m² in the mesh's own space), in double, rounded once. */
export function runningAreas(m: Mesh): Float32Array {
  const p = m.positions
  const out = new Float32Array(triangleCount(m))
  let sum = 0
  for (let t = 0; t < out.length; t++) {
    const a = m.indices[t * 3] * 3,
      b = m.indices[t * 3 + 1] * 3,
      c = m.indices[t * 3 + 2] * 3
    const ex = p[b] - p[a],
      ey = p[b + 1] - p[a + 1],
      ez = p[b + 2] - p[a + 2]
    const fx = p[c] - p[a],
      fy = p[c + 1] - p[a + 1],
      fz = p[c + 2] - p[a + 2]
    const nx = ey * fz - ez * fy,
      ny = ez * fx - ex * fz,
      nz = ex * fy - ey * fx
    sum += Math.sqrt(nx * nx + ny * ny + nz * nz) / 2
    out[t] = sum
  }
  return out
}

/** Numbers vertices by place: vertices at the very same place (0 and −0 alike) are one. */
export function placeIds(positions: Float32Array): { of: Uint32Array; count: number; first: Uint32Array } {
  const n = positions.length / 3
  // The bits of + 0 and − 0 differ; adding 0 makes them one.
  const clean = positions.map((v) => v + 0)
  const words = new Uint32Array(clean.buffer, clean.byteOffset, clean.length)
  let size = 16
  while (size < n * 2) size *= 2
  const table = new Int32Array(size).fill(-1)
  const of = new Uint32Array(n)
  const first = new Uint32Array(n)
  let count = 0
  for (let v = 0; v < n; v++) {
    const [x, y, z] = [words[v * 3], words[v * 3 + 1], words[v * 3 + 2]]
    let h = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77) ^ Math.imul(z, 0xc2b2ae3d)
    h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
    let at = (h ^ (h >>> 13)) & (size - 1)
    for (;;) {
      const id = table[at]
      if (id < 0) {
        table[at] = count
        first[count] = v
        of[v] = count++
        break
      }
      const w = first[id] * 3
      if (words[w] === x && words[w + 1] === y && words[w + 2] === z) {
        of[v] = id
        break
      }
      at = (at + 1) & (size - 1)
    }
  }
  return { of, count, first: first.slice(0, count) }
}
const closed = new WeakMap<Mesh, boolean>()
/** True when every edge, by place, is used as often in one direction as in the other: the mesh has an inside. */
export function isClosed(m: Mesh): boolean {
  const known = closed.get(m)
  if (known !== undefined) return known
  const { of, count } = placeIds(m.positions)
  // Edges by their two ends, low first, in a table of balances.
  const n = m.indices.length
  let size = 16
  while (size < n * 2) size *= 2
  const low = new Int32Array(size).fill(-1),
    high = new Int32Array(size),
    balance = new Int32Array(size)
  let edges = 0
  for (let t = 0; t < n; t += 3) {
    const v = [of[m.indices[t]], of[m.indices[t + 1]], of[m.indices[t + 2]]]
    if (v[0] === v[1] || v[1] === v[2] || v[2] === v[0]) continue
    for (let k = 0; k < 3; k++) {
      const a = v[k],
        b = v[(k + 1) % 3]
      const [p, q] = a < b ? [a, b] : [b, a]
      let h = Math.imul(p, 0x9e3779b1) ^ Math.imul(q, 0x85ebca77)
      h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
      let at = (h ^ (h >>> 13)) & (size - 1)
      while (low[at] >= 0 && (low[at] !== p || high[at] !== q)) at = (at + 1) & (size - 1)
      if (low[at] < 0) {
        low[at] = p
        high[at] = q
        edges++
      }
      balance[at] += a < b ? 1 : -1
    }
  }
  const whole = edges > 0 && count > 0 && balance.every((b) => b === 0)
  closed.set(m, whole)
  return whole
}

/** A square in the plane y = 0, its front up. */
export function planeMesh(size: number): Mesh {
  const h = size / 2
  return {
    positions: new Float32Array([-h, 0, -h, -h, 0, h, h, 0, h, h, 0, -h]),
    normals: new Float32Array([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0]),
    indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
    parts: [],
  }
}

/** With more steps, single precision could land more than one step too late. */
const GUIDES = 262144
/** How many steps a guide through so many sums has. */
export const guideCountOf = (sums: number): number => Math.max(1, Math.min(sums, GUIDES))
/**
 * Where to begin in running sums: for each of even steps up to the whole, the first place whose sum exceeds it. Steps are taken a
 * little low, so that rounding never begins too late.
 */
export function guideOf(sums: Float32Array): Uint32Array {
  const count = guideCountOf(sums.length)
  const out = new Uint32Array(count)
  const whole = sums.length ? sums[sums.length - 1] : 0
  let at = 0
  for (let k = 0; k < count; k++) {
    const from = (whole * k) / count - whole * 1e-6
    while (at < sums.length - 1 && sums[at] <= from) at++
    out[k] = at
  }
  return out
}
