import type { BirthParams } from './plan'
import type { RegionAt, Surface } from './surfaces'

/** Kinds of place that the birth kernel knows. */
export const KIND = { point: 0, faces: 1, sites: 2, inside: 3, edges: 4, particles: 5 } as const
/** Where births start on a surface, as pointers into the World's memory. */
export interface Place {
  kind: number
  positions: number
  positionsEnd: number
  amounts: number
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

const NOWHERE = { normals: 0, positionsEnd: 0, amounts: 0, first: 0, cast: null }
/**
 * Where births start on an object with a surface; null is its point, 'nowhere' that the region is empty now. What cannot be is told, and
 * births start at the point.
 */
export function placeOf(
  p: BirthParams,
  surface: Surface,
  region: RegionAt | null,
  system: string,
  scratch: { stack: number; hit: number },
  tell: (message: string) => void,
): Place | null | 'nowhere' {
  if (p.on === 'point' || !surface.mesh.indices.length) return null
  if (p.on === 'vertices' || p.on === 'edges' || p.on === 'lattice') {
    const s =
      p.on === 'vertices'
        ? surface.vertices(region)
        : p.on === 'edges'
          ? surface.edges(region)
          : surface.lattice(Math.fround(p.lattice ?? 0.05), scratch)
    if (s?.count)
      return {
        ...NOWHERE,
        kind: s.indices ? KIND.edges : KIND.sites,
        positions: s.positions,
        positionsEnd: s.positionsEnd,
        amounts: s.amounts,
        normals: s.normals,
        indices: s.indices,
        areas: s.lengths,
        guide: s.guide,
        guideCount: s.guideCount,
        whole: s.whole,
        count: s.count,
      }
    if (region && p.on !== 'lattice') return 'nowhere'
    if (p.on !== 'lattice') tell(`the source of ${system} has no ${p.on}; births start at its point`)
    else if (s)
      tell(
        `no point of the lattice of ${system} lies inside its source; births start at its point: make the spacing smaller, or close the mesh`,
      )
    else tell(`the lattice of ${system} is too fine for its source; births start at its point: make the spacing larger`)
    return null
  }
  // A line, or a mesh all of whose faces are flat to nothing: its edges are what there is of it.
  if (p.on === 'faces' && !(surface.forBirth().whole > 0)) return placeOf({ ...p, on: 'edges' }, surface, region, system, scratch, tell)
  const blocks = surface.forBirth(p.on === 'inside' ? null : region)
  const part = p.part ? surface.mesh.parts.find((x) => x.name === p.part) : null
  const faces = {
    ...NOWHERE,
    ...blocks,
    first: part ? part.firstTriangle : 0,
    count: part ? part.triangleCount : surface.mesh.indices.length / 3,
  }
  if (!faces.count) return null
  if (blocks.amounts && !(surface.upTo(blocks, faces.first + faces.count - 1) > surface.upTo(blocks, faces.first - 1))) return 'nowhere'
  if (p.on !== 'inside') return { ...faces, kind: KIND.faces }
  const cast = surface.forCast()
  if (!cast.closed) tell(`the source of ${system} is open; its inside is what lies behind most of its faces`)
  return { ...faces, kind: KIND.inside, cast }
}
