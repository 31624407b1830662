import type { Matrix } from '../math'
import type { Mesh, MeshPart } from './mesh'

/** A mesh with other triangles, and how places of the old vertices become places of the new ones. */
export interface Rebuilt {
  mesh: Mesh
  carry(places: Float32Array): Float32Array
}
const unitRows = (v: Float32Array): Float32Array => {
  for (let i = 0; i < v.length; i += 3) {
    const l = Math.sqrt(v[i] * v[i] + v[i + 1] * v[i + 1] + v[i + 2] * v[i + 2]) || 1
    for (let a = 0; a < 3; a++) v[i + a] /= l
  }
  return v
}
/** Old vertices first, then one in the middle of each pair. */
const withMiddles =
  (pairs: Uint32Array, size: number) =>
  (old: Float32Array): Float32Array => {
    const out = new Float32Array(old.length + (pairs.length / 2) * size)
    out.set(old)
    for (let i = 0, o = old.length; i < pairs.length; i += 2)
      for (let a = 0; a < size; a++) out[o++] = (old[pairs[i] * size + a] + old[pairs[i + 1] * size + a]) / 2
    return out
  }
/** Cuts every edge that `cut` names in its middle. Both sides of an edge must be named alike, so that no gap opens. Parts stay. */
function cutEdges(m: Mesh, cut: (a: number, b: number) => boolean): Rebuilt {
  const count = m.positions.length / 3
  const known = new Map<number, number>()
  const pairs: number[] = []
  const middle = (a: number, b: number): number => {
    if (!cut(a, b)) return -1
    const key = a < b ? a * count + b : b * count + a
    let v = known.get(key)
    if (v === undefined) {
      v = count + pairs.length / 2
      pairs.push(Math.min(a, b), Math.max(a, b))
      known.set(key, v)
    }
    return v
  }
  const out: number[] = []
  const begins = new Uint32Array(m.indices.length / 3 + 1)
  for (let t = 0; t < m.indices.length; t += 3) {
    begins[t / 3] = out.length / 3
    const c = [m.indices[t], m.indices[t + 1], m.indices[t + 2]]
    const mid = [middle(c[0], c[1]), middle(c[1], c[2]), middle(c[2], c[0])]
    const n = mid.filter((x) => x >= 0).length
    if (n === 0) out.push(...c)
    else if (n === 3) out.push(c[0], mid[0], mid[2], mid[0], c[1], mid[1], mid[2], mid[1], c[2], mid[0], mid[1], mid[2])
    else {
      // Begin at the one edge that is cut, or that is not.
      const k = mid.findIndex((x) => (n === 1 ? x >= 0 : x < 0))
      const [p, q, r] = [c[k], c[(k + 1) % 3], c[(k + 2) % 3]]
      if (n === 1) out.push(p, mid[k], r, mid[k], q, r)
      else {
        const [qr, rp] = [mid[(k + 1) % 3], mid[(k + 2) % 3]]
        out.push(p, q, qr, p, qr, rp, rp, qr, r)
      }
    }
  }
  begins[m.indices.length / 3] = out.length / 3
  const list = new Uint32Array(pairs)
  const carry = withMiddles(list, 3)
  const parts: MeshPart[] = m.parts.map((p) => ({
    name: p.name,
    firstTriangle: begins[p.firstTriangle],
    triangleCount: begins[p.firstTriangle + p.triangleCount] - begins[p.firstTriangle],
  }))
  return {
    mesh: {
      positions: carry(m.positions),
      normals: m.normals && unitRows(carry(m.normals)),
      indices: new Uint32Array(out),
      parts,
      ...(m.colours ? { colours: withMiddles(list, 3)(m.colours) } : {}),
      ...(m.uv ? { uv: withMiddles(list, 2)(m.uv), textures: m.textures } : {}),
      ...(m.surfaces ? { surfaces: m.surfaces } : {}),
    },
    carry,
  }
}
const chain = (a: Rebuilt, b: Rebuilt): Rebuilt => ({ mesh: b.mesh, carry: (p) => b.carry(a.carry(p)) })
/** Every triangle into four, so many times; flat faces stay flat. */
export function subdivide(m: Mesh, times: number): Rebuilt {
  let r: Rebuilt = { mesh: m, carry: (p) => p }
  for (let n = 0; n < times; n++)
    r = chain(
      r,
      cutEdges(r.mesh, () => true),
    )
  return r
}
/** Cuts edges in half until none is longer than `longest` metres, or there would be more than `most` triangles. */
export function refine(m: Mesh, longest: number, maximum: number): Rebuilt {
  let r: Rebuilt = { mesh: m, carry: (p) => p }
  while (r.mesh.indices.length / 3 < maximum) {
    const p = r.mesh.positions
    let any = false
    const next = cutEdges(r.mesh, (a, b) => {
      const x = p[a * 3] - p[b * 3],
        y = p[a * 3 + 1] - p[b * 3 + 1],
        z = p[a * 3 + 2] - p[b * 3 + 2]
      const long = x * x + y * y + z * z > longest * longest
      any ||= long
      return long
    })
    if (!any || next.mesh.indices.length / 3 > maximum) break
    r = chain(r, next)
  }
  return r
}
/** Joins vertices that lie within `distance` metres of an earlier one; triangles that lose their area go. Normals are recomputed. */
export function weld(m: Mesh, distance: number): Rebuilt {
  const count = m.positions.length / 3
  const cell = Math.max(distance, 1e-9)
  const cells = new Map<string, number[]>()
  const to = new Uint32Array(count)
  const kept: number[] = []
  const p = m.positions
  for (let v = 0; v < count; v++) {
    const c = [0, 1, 2].map((a) => Math.floor(p[v * 3 + a] / cell))
    let found = -1
    for (let i = -1; i <= 1 && found < 0; i++)
      for (let j = -1; j <= 1 && found < 0; j++)
        for (let k = -1; k <= 1 && found < 0; k++) {
          for (const w of cells.get(`${c[0] + i},${c[1] + j},${c[2] + k}`) ?? []) {
            const u = kept[w]
            const x = p[u * 3] - p[v * 3],
              y = p[u * 3 + 1] - p[v * 3 + 1],
              z = p[u * 3 + 2] - p[v * 3 + 2]
            if (x * x + y * y + z * z <= distance * distance) {
              found = w
              break
            }
          }
        }
    if (found < 0) {
      found = kept.push(v) - 1
      const key = c.join()
      const list = cells.get(key)
      if (list) list.push(found)
      else cells.set(key, [found])
    }
    to[v] = found
  }
  const indices: number[] = []
  const begins = new Uint32Array(m.indices.length / 3 + 1)
  for (let t = 0; t < m.indices.length; t += 3) {
    begins[t / 3] = indices.length / 3
    const [a, b, c] = [to[m.indices[t]], to[m.indices[t + 1]], to[m.indices[t + 2]]]
    if (a !== b && b !== c && c !== a) indices.push(a, b, c)
  }
  begins[m.indices.length / 3] = indices.length / 3
  const pick = (old: Float32Array): Float32Array => {
    const out = new Float32Array(kept.length * 3)
    kept.forEach((v, i) => out.set(old.subarray(v * 3, v * 3 + 3), i * 3))
    return out
  }
  const parts = m.parts
    .map((x) => ({
      name: x.name,
      firstTriangle: begins[x.firstTriangle],
      triangleCount: begins[x.firstTriangle + x.triangleCount] - begins[x.firstTriangle],
    }))
    .filter((x) => x.triangleCount > 0)
  return {
    mesh: {
      positions: pick(m.positions),
      normals: null,
      indices: new Uint32Array(indices),
      parts,
      ...(m.colours ? { colours: pick(m.colours) } : {}),
    },
    carry: pick,
  }
}
/**
 * Closes holes of at most `most` edges with a fan from their middle. Vertices must be joined first (see weld): a seam is no hole. Holes
 * that touch at a point stay open.
 */
export function closeHoles(m: Mesh, maximum: number): Rebuilt & { closed: number } {
  const count = m.positions.length / 3
  const edges = new Set<number>()
  for (let t = 0; t < m.indices.length; t += 3)
    for (let k = 0; k < 3; k++) edges.add(m.indices[t + k] * count + m.indices[t + ((k + 1) % 3)])
  // Along a hole, edges have no partner; the hole runs against them.
  const next = new Map<number, number>()
  const twice = new Set<number>()
  for (const e of edges) {
    const a = Math.floor(e / count),
      b = e % count
    if (edges.has(b * count + a)) continue
    if (next.has(b)) twice.add(b)
    next.set(b, a)
  }
  const rings: number[][] = []
  const seen = new Set<number>()
  for (const start of next.keys()) {
    const ring: number[] = []
    let v: number | undefined = start
    while (v !== undefined && !seen.has(v)) {
      seen.add(v)
      ring.push(v)
      v = next.get(v)
    }
    if (v === start && ring.length >= 3 && ring.length <= maximum && !ring.some((x) => twice.has(x))) rings.push(ring)
  }
  const indices = [...m.indices]
  rings.forEach((ring, n) => ring.forEach((v, i) => indices.push(v, ring[(i + 1) % ring.length], count + n)))
  const carry = (old: Float32Array): Float32Array => {
    const out = new Float32Array(old.length + rings.length * 3)
    out.set(old)
    rings.forEach((ring, n) => {
      for (let a = 0; a < 3; a++) out[old.length + n * 3 + a] = ring.reduce((s, v) => s + old[v * 3 + a], 0) / ring.length
    })
    return out
  }
  return {
    mesh: {
      positions: carry(m.positions),
      normals: null,
      indices: new Uint32Array(indices),
      parts: m.parts,
      ...(m.colours ? { colours: carry(m.colours) } : {}),
    },
    carry,
    closed: rings.length,
  }
}
/**
 * The same triangles `count` times, each copy with vertices of its own. Copies of a triangle follow one another, so that parts stay runs.
 */
export function repeat(m: Mesh, count: number): Mesh {
  const vertices = m.positions.length / 3
  const many = (v: Float32Array) => {
    const out = new Float32Array(v.length * count)
    for (let c = 0; c < count; c++) out.set(v, c * v.length)
    return out
  }
  const indices = new Uint32Array(m.indices.length * count)
  for (let t = 0, o = 0; t < m.indices.length; t += 3)
    for (let c = 0; c < count; c++, o += 3) for (let k = 0; k < 3; k++) indices[o + k] = m.indices[t + k] + c * vertices
  return {
    positions: many(m.positions),
    normals: m.normals && many(m.normals),
    indices,
    parts: m.parts.map((p) => ({ name: p.name, firstTriangle: p.firstTriangle * count, triangleCount: p.triangleCount * count })),
    ...(m.colours ? { colours: many(m.colours) } : {}),
    ...(m.uv ? { uv: many(m.uv), textures: m.textures } : {}),
    ...(m.surfaces ? { surfaces: m.surfaces } : {}),
  }
}
/** Places of all copies, each by its matrix. */
export function repeatedPlaces(places: Float32Array, matrices: readonly Matrix[]): Float32Array {
  const out = new Float32Array(places.length * matrices.length)
  let o = 0
  for (const m of matrices) {
    for (let i = 0; i < places.length; i += 3) {
      const x = places[i],
        y = places[i + 1],
        z = places[i + 2]
      out[o++] = m[0] * x + m[1] * y + m[2] * z + m[3]
      out[o++] = m[4] * x + m[5] * y + m[6] * z + m[7]
      out[o++] = m[8] * x + m[9] * y + m[10] * z + m[11]
    }
  }
  return out
}
/**
 * Several meshes as one, one behind the other. Normals stay when all have them; colours when one has them, white where there were none;
 * pictures only of a mesh that is alone.
 */
export function joinMeshes(list: readonly Mesh[]): Mesh {
  if (list.length === 1) return { ...list[0] }
  const vertices = list.reduce((n, m) => n + m.positions.length / 3, 0)
  const positions = new Float32Array(vertices * 3)
  const indices = new Uint32Array(list.reduce((n, m) => n + m.indices.length, 0))
  const normals = list.every((m) => m.normals) ? new Float32Array(vertices * 3) : null
  const colours = list.some((m) => m.colours) ? new Float32Array(vertices * 3).fill(1) : undefined
  const parts: Mesh['parts'] = []
  let v = 0,
    i = 0
  for (const m of list) {
    positions.set(m.positions, v * 3)
    if (normals) normals.set(m.normals as Float32Array, v * 3)
    if (colours && m.colours) colours.set(m.colours, v * 3)
    for (let k = 0; k < m.indices.length; k++) indices[i + k] = m.indices[k] + v
    parts.push(...m.parts.map((p) => ({ ...p, firstTriangle: p.firstTriangle + i / 3 })))
    v += m.positions.length / 3
    i += m.indices.length
  }
  return { positions, normals, indices, parts, ...(colours ? { colours } : {}) }
}
