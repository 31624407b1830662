import type { StoredGrid, StoredGridFacts } from '../../engine'
import { LEAF_VOXELS } from './types'

/** Three grids of one number each that are the components of one vector: vel.x, vel.y and vel.z, or vel_x and so on. */
export interface Trio {
  /** Of the vector: vel. */
  name: string
  components: readonly [string, string, string]
}
/** The vectors whose components are grids of their own; none of a name that a grid has. */
export function triosOf(grids: readonly StoredGridFacts[]): Trio[] {
  const names = new Set(grids.map((g) => g.name))
  const single = new Map(grids.filter((g) => g.channels === 1 && g.kind !== 'level set').map((g) => [g.name.toLowerCase(), g.name]))
  return [...single.values()].flatMap((x) => {
    const found = /^(.+)([._])x$/i.exec(x)
    if (!found || names.has(found[1])) return []
    const [y, z] = ['y', 'z'].map((axis) => single.get(`${found[1]}${found[2]}${axis}`.toLowerCase()))
    return y && z ? [{ name: found[1], components: [x, y, z] }] : []
  })
}
/** Three grids as one of vectors, over all places that any of them has; null: they do not lie alike, so that their samples are not those of one place. */
export function joined(components: readonly StoredGrid[]): StoredGrid | null {
  const [first] = components
  const lie = (g: StoredGrid) =>
    g.matrix.every((row, r) => row.every((v, c) => Math.abs(v - first.matrix[r][c]) <= 1e-6 * (1 + Math.abs(v))))
  if (!components.every(lie)) return null
  const at = new Map<string, number>()
  for (const { count, origins } of components)
    for (let n = 0; n < count; n++) {
      const key = origins.subarray(n * 3, n * 3 + 3).join()
      if (!at.has(key)) at.set(key, at.size)
    }
  const origins = Int32Array.from([...at.keys()].flatMap((k) => k.split(',').map(Number)))
  const values = new Float32Array(at.size * LEAF_VOXELS * 3)
  for (const [c, g] of components.entries())
    for (let n = 0; n < g.count; n++) {
      const to = (at.get(g.origins.subarray(n * 3, n * 3 + 3).join()) as number) * LEAF_VOXELS
      for (let i = 0; i < LEAF_VOXELS; i++) values[(to + i) * 3 + c] = g.values[n * LEAF_VOXELS + i]
    }
  return { channels: 3, matrix: first.matrix, count: at.size, origins, values }
}
