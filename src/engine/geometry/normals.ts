import type { Mesh } from './mesh'

const classes = new WeakMap<Mesh, Uint32Array | null>()
/** Numbers of the different pairs of a place and a normal, in the order in which they come: a table by their bits, normals to a thousandth. */
function classed(positions: Float32Array, normals: Float32Array): Uint32Array {
  const n = positions.length / 3
  const out = new Uint32Array(n)
  // Minus zero is zero.
  const plain = new Float32Array(n * 3)
  const places = new Uint32Array(plain.buffer)
  const leans = new Int32Array(n * 3)
  for (let i = 0; i < n * 3; i++) {
    plain[i] = positions[i] + 0
    leans[i] = Math.round(normals[i] * 1e3)
  }
  let size = 16
  while (size < n * 2) size *= 2
  const table = new Int32Array(size).fill(-1)
  let count = 0
  for (let v = 0; v < n; v++) {
    const i = v * 3
    let h = 0
    for (let k = 0; k < 3; k++) {
      h = Math.imul(h ^ places[i + k], 0x9e3779b1)
      h = Math.imul(h ^ (h >>> 15) ^ leans[i + k], 0x85ebca77)
    }
    let at = (h ^ (h >>> 13)) & (size - 1)
    for (; table[at] >= 0; at = (at + 1) & (size - 1)) {
      const w = table[at] * 3
      let same = true
      for (let k = 0; k < 3; k++) same &&= places[w + k] === places[i + k] && leans[w + k] === leans[i + k]
      if (same) break
    }
    if (table[at] < 0) {
      table[at] = v
      out[v] = count++
    } else out[v] = out[table[at]]
  }
  return out
}
/** Vertices that share a place and a normal share a class: they stay smooth together; where normals differ there is an edge. */
function classesOf(m: Mesh): Uint32Array | null {
  const known = classes.get(m)
  if (known !== undefined) return known
  let out: Uint32Array | null = null
  if (m.normals) out = classed(m.positions, m.normals)
  classes.set(m, out)
  return out
}
/** The mesh with its vertices elsewhere, and the normals that they have there: what was smooth together stays so. */
export function movedMesh(m: Mesh, positions: Float32Array): Mesh {
  const moved = { ...m, positions, normals: normalsFor(m, positions) }
  classes.set(moved, classesOf(m))
  return moved
}
/**
 * Normals (unit) for other places of a mesh's vertices: sums over the faces around by area, with edges where the mesh has them. Null when
 * it is flat by face.
 */
export function normalsFor(m: Mesh, places: Float32Array): Float32Array | null {
  const of = classesOf(m)
  if (!of) return null
  const sums = new Float64Array(places.length)
  const p = places
  const { indices } = m
  for (let t = 0; t < indices.length; t += 3) {
    const i = indices[t],
      j = indices[t + 1],
      k = indices[t + 2]
    const a = i * 3,
      b = j * 3,
      c = k * 3
    const ex = p[b] - p[a],
      ey = p[b + 1] - p[a + 1],
      ez = p[b + 2] - p[a + 2]
    const fx = p[c] - p[a],
      fy = p[c + 1] - p[a + 1],
      fz = p[c + 2] - p[a + 2]
    const nx = ey * fz - ez * fy,
      ny = ez * fx - ex * fz,
      nz = ex * fy - ey * fx
    const u = of[i] * 3,
      v = of[j] * 3,
      w = of[k] * 3
    sums[u] += nx
    sums[u + 1] += ny
    sums[u + 2] += nz
    sums[v] += nx
    sums[v + 1] += ny
    sums[v + 2] += nz
    sums[w] += nx
    sums[w + 1] += ny
    sums[w + 2] += nz
  }
  const out = new Float32Array(places.length)
  for (let v = 0; v < of.length; v++) {
    const k = of[v] * 3
    const l = Math.sqrt(sums[k] * sums[k] + sums[k + 1] * sums[k + 1] + sums[k + 2] * sums[k + 2]) || 1
    const o = v * 3
    out[o] = sums[k] / l
    out[o + 1] = sums[k + 1] / l
    out[o + 2] = sums[k + 2] / l
  }
  return out
}
/** Normals that are smooth everywhere: for regions that ask which way a surface looks. */
export function smoothNormals(m: Mesh, places: Float32Array): Float32Array {
  return normalsFor(m, places) ?? (normalsFor({ ...m, normals: new Float32Array(m.positions.length) }, places) as Float32Array)
}
