import type { Mesh } from './mesh'

const classes = new WeakMap<Mesh, Uint32Array | null>()
/** Vertices that share a place and a normal share a class: they stay smooth together; where normals differ there is an edge. */
function classesOf(m: Mesh): Uint32Array | null {
  const known = classes.get(m)
  if (known !== undefined) return known
  let out: Uint32Array | null = null
  if (m.normals) {
    const ids = new Map<string, number>()
    out = new Uint32Array(m.positions.length / 3)
    const r = (x: number) => Math.round(x * 1e3)
    for (let v = 0; v < out.length; v++) {
      const i = v * 3
      const key = `${m.positions[i] + 0},${m.positions[i + 1] + 0},${m.positions[i + 2] + 0},${r(m.normals[i])},${r(m.normals[i + 1])},${r(m.normals[i + 2])}`
      let id = ids.get(key)
      if (id === undefined) ids.set(key, (id = ids.size))
      out[v] = id
    }
  }
  classes.set(m, out)
  return out
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
