import type * as THREE from 'three'
import { INSTANCE_FLOATS } from '../acts'
import { boundsOf, type Level, levelsOf, type Mesh } from '../engine'
import { partsWithMaterial } from './textures'

/** What the picture is seen from, for how large faces are in it. */
export interface BodyView {
  place: readonly number[]
  right: readonly number[]
  up: readonly number[]
  ahead: readonly number[]
  /** Half of the picture over a metre at a metre. */
  wide: number
  high: number
  /** Pixels of a metre at a metre. */
  perMetre: number
}
export function bodyView(camera: THREE.PerspectiveCamera, height: number): BodyView {
  const e = camera.matrixWorld.elements
  const { elements: p } = camera.projectionMatrix
  return {
    place: [e[12], e[13], e[14]],
    ...{ right: [e[0], e[1], e[2]], up: [e[4], e[5], e[6]], ahead: [-e[8], -e[9], -e[10]] },
    ...{ wide: p[0], high: p[5], perMetre: (p[5] * height) / 2 },
  }
}
/** A level with only the vertices that it uses. */
export interface Compact {
  vertices: Uint32Array
  indices: Uint32Array
}
const compacts = new WeakMap<Uint32Array, Compact>()
export function compactOf({ indices }: Level): Compact {
  const known = compacts.get(indices)
  if (known) return known
  const to = new Map<number, number>()
  const own = Uint32Array.from(indices, (v) => {
    const old = to.get(v)
    if (old !== undefined) return old
    to.set(v, to.size)
    return to.size - 1
  })
  const made = { vertices: Uint32Array.from(to.keys()), indices: own }
  compacts.set(indices, made)
  return made
}
const split = new WeakMap<Uint32Array, Uint32Array[]>()
/** The faces of each material of a mesh, as materialsOf has them, over the same vertices; the mesh itself where there is one. */
export function piecesOf(mesh: Mesh): Mesh[] {
  const parts = partsWithMaterial(mesh)
  if (!parts.length) return [mesh]
  let lists = split.get(mesh.indices)
  if (!lists) {
    const of = new Int32Array(mesh.indices.length / 3)
    for (const p of mesh.parts) of.fill(parts.indexOf(p.name) + 1, p.firstTriangle, p.firstTriangle + p.triangleCount)
    lists = ['', ...parts].map((_, k) => mesh.indices.filter((_, i) => of[Math.floor(i / 3)] === k))
    split.set(mesh.indices, lists)
  }
  let made = pieces.get(mesh)
  if (!made) pieces.set(mesh, (made = lists.map((indices) => ({ ...mesh, indices, parts: [] }))))
  return made
}
const pieces = new WeakMap<Mesh, Mesh[]>()
const sameFaces = new WeakMap<Uint32Array, WeakMap<Uint32Array, boolean>>()
function hasFacesOf(mesh: Mesh, other: Mesh): boolean {
  const [a, b] = [mesh.indices, other.indices]
  if (a === b) return true
  let known = sameFaces.get(b)
  if (!known) sameFaces.set(b, (known = new WeakMap()))
  let same = known.get(a)
  if (same === undefined) known.set(a, (same = a.length === b.length && a.every((v, i) => v === b[i])))
  return same
}
/** The levels of a mesh, by those of another with the same faces; of other faces its own. */
export const levelsBy = (mesh: Mesh, first: Mesh): Level[] => levelsOf(hasFacesOf(mesh, first) ? first : mesh)
const levelMeshes = new WeakMap<Mesh, Mesh[]>()
/** The meshes of all levels. */
export function meshesOf(mesh: Mesh, first: Mesh): Mesh[] {
  const known = levelMeshes.get(mesh)
  if (known) return known
  const pick = (from: Float32Array, { vertices }: Compact, each = 3) => {
    const out = new Float32Array(vertices.length * each)
    vertices.forEach((v, k) => out.set(from.subarray(v * each, (v + 1) * each), k * each))
    return out
  }
  const made = levelsBy(mesh, first).map((l, n): Mesh => {
    if (!n) return mesh
    const c = compactOf(l)
    return {
      ...{ positions: pick(mesh.positions, c), normals: mesh.normals && pick(mesh.normals, c), indices: c.indices, parts: [] },
      ...(mesh.colours ? { colours: pick(mesh.colours, c) } : {}),
      ...(mesh.uv ? { uv: pick(mesh.uv, c, 2) } : {}),
    }
  })
  levelMeshes.set(mesh, made)
  return made
}
interface Measure {
  middle: number[]
  /** m, in its own space */
  radius: number
  edge: number
}
const measures = new WeakMap<Mesh, Measure>()
function measureOf(mesh: Mesh): Measure {
  const known = measures.get(mesh)
  if (known) return known
  const { min, max } = boundsOf(mesh)
  const middle = min.map((v, a) => (v + max[a]) / 2)
  const p = mesh.positions
  let far = 0
  for (let i = 0; i < p.length; i += 3)
    far = Math.max(far, (p[i] - middle[0]) ** 2 + (p[i + 1] - middle[1]) ** 2 + (p[i + 2] - middle[2]) ** 2)
  let sum = 0
  for (let t = 0; t < mesh.indices.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [mesh.indices[t + k] * 3, mesh.indices[t + ((k + 1) % 3)] * 3]
      sum += Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2])
    }
  const made = {
    middle,
    radius: Math.sqrt(far),
    edge: sum / Math.max(1, mesh.indices.length),
  }
  measures.set(mesh, made)
  return made
}
/**
 * Which level an instance is drawn in; −1: it is out of view. `o`: where its floats begin. `edge`: pixels that edges have at the least; 0: all faces.
 * `outside`: from so far outside of the picture on, as a share of it, it is left out; null: it never is.
 */
export function levelOf(
  view: BodyView,
  mesh: Mesh,
  levels: readonly Level[],
  data: Float32Array,
  o: number,
  edge: number,
  outside: number | null,
): number {
  const { middle, radius, edge: own } = measureOf(mesh)
  const at = [0, 4, 8].map(
    (r) => data[o + r] * middle[0] + data[o + r + 1] * middle[1] + data[o + r + 2] * middle[2] + data[o + r + 3] - view.place[r / 4],
  )
  const scale = Math.max(...[0, 1, 2].map((k) => Math.hypot(data[o + k], data[o + 4 + k], data[o + 8 + k])))
  const along = (v: readonly number[]) => v[0] * at[0] + v[1] * at[1] + v[2] * at[2]
  const depth = along(view.ahead)
  const r = radius * scale
  if (outside !== null) {
    if (depth < -r) return -1
    const most = 1 + 2 * outside
    // A ball against the four sides of the view: each goes through the eye.
    for (const [x, k] of [
      [along(view.right), view.wide],
      [along(view.up), view.high],
    ])
      if ((Math.abs(x) * k - most * depth) / Math.hypot(k, most) > r) return -1
  }
  if (!(edge > 0) || levels.length < 2) return 0
  const pixels = (own * scale * view.perMetre) / Math.max(1e-6, depth - r, 0.02 * r)
  let n = 0
  while (n + 1 < levels.length && pixels * levels[n + 1].coarser <= edge) n++
  return n
}
/** The instances of each level, out of those of a body. */
export function byLevel(
  view: BodyView,
  mesh: Mesh,
  first: Mesh,
  data: Float32Array,
  count: number,
  o: { edge: number; outside: number | null },
): Float32Array[] {
  const levels = o.edge > 0 ? levelsBy(mesh, first) : [{ indices: mesh.indices, coarser: 1 }]
  const which = Int8Array.from({ length: count }, (_, i) => levelOf(view, mesh, levels, data, i * INSTANCE_FLOATS, o.edge, o.outside))
  return levels.map((_, n) => {
    const out = new Float32Array(which.reduce((sum, k) => sum + (k === n ? 1 : 0), 0) * INSTANCE_FLOATS)
    for (let i = 0, k = 0; i < count; i++)
      if (which[i] === n) out.set(data.subarray(i * INSTANCE_FLOATS, (i + 1) * INSTANCE_FLOATS), k++ * INSTANCE_FLOATS)
    return out
  })
}
