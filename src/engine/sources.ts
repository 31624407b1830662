import type { KernelExports } from './kernels'
import type { BirthParams } from './plan'
import type { Surface } from './surfaces'

/** Kinds of place that the birth kernel knows. */
export const KIND = { point: 0, faces: 1, sites: 2, inside: 3, edges: 4, particles: 5 } as const
/** Where births start on a surface, as pointers into the World's memory. */
export interface Place {
  kind: number
  positions: number
  normals: number
  indices: number
  areas: number
  /** Where to begin in the running sums of areas or lengths, for even steps up to the whole. */
  guide: number
  guideCount: number
  whole: number
  first: number
  count: number
  cast: { nodes: number; leaves: number } | null
}

/** Where births start on an object with a surface; null is its point. What cannot be is told, and births start at the point. */
export function placeOf(p: BirthParams, surface: Surface, system: string, kernels: KernelExports, scratch: { stack: number; hit: number }, tell: (message: string) => void): Place | null {
  if (p.on === 'point' || !surface.mesh.indices.length) return null
  if (p.on === 'vertices' || p.on === 'edges' || p.on === 'lattice') {
    const s = p.on === 'vertices' ? surface.vertices() : p.on === 'edges' ? surface.edges() : surface.lattice(Math.fround(p.lattice ?? 0.05), kernels, scratch)
    if (s?.count) return { kind: p.on === 'edges' ? KIND.edges : KIND.sites, positions: s.positions, normals: s.normals, indices: s.indices, areas: s.lengths, guide: s.guide, guideCount: s.guideCount, whole: s.whole, first: 0, count: s.count, cast: null }
    if (p.on !== 'lattice') tell(`the source of ${system} has no ${p.on}; births start at its point`)
    else if (s) tell(`no point of the lattice of ${system} lies inside its source; births start at its point: make the spacing smaller, or close the mesh`)
    else tell(`the lattice of ${system} is too fine for its source; births start at its point: make the spacing larger`)
    return null
  }
  const blocks = surface.forBirth()
  const part = p.part ? surface.mesh.parts.find((x) => x.name === p.part) : null
  const faces = { positions: blocks.positions, normals: 0, indices: blocks.indices, areas: blocks.areas, guide: blocks.guide, guideCount: blocks.guideCount, whole: blocks.whole, first: part ? part.firstTriangle : 0, count: part ? part.triangleCount : surface.mesh.indices.length / 3 }
  if (!faces.count) return null
  if (p.on !== 'inside') return { ...faces, kind: KIND.faces, cast: null }
  const cast = surface.forCast()
  if (!cast.closed) tell(`the source of ${system} is open; its inside is what lies behind most of its faces`)
  return { ...faces, kind: KIND.inside, cast }
}
