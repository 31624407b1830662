import type { RegionAt, Surface } from '../geometry'
import { BIRTH_KIND } from '../memory'
import type { BirthParams } from '../plan'

/** Where births start on a surface, as pointers into the World's memory. */
export interface BirthPlace {
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

const NONE = { normals: 0, positionsEnd: 0, amounts: 0, first: 0, cast: null }
/**
 * Where births start on an object with a surface; null is its point, 'nowhere' that the region is empty now. What cannot be is reported, and
 * births start at the point. `stretch`: how the source stretches lengths unevenly (stretchOf): evenly means in the world.
 */
export function birthPlace(
  p: BirthParams,
  surface: Surface,
  region: RegionAt | null,
  system: string,
  scratch: { stack: number; hit: number },
  report: (message: string) => void,
  stretch: readonly number[] | null = null,
): BirthPlace | null | 'nowhere' {
  if (p.on === 'point' || p.on === 'tips' || p.on === 'lines' || !surface.mesh.indices.length) return null
  if (p.on === 'vertices' || p.on === 'edges' || p.on === 'lattice') {
    const s =
      p.on === 'vertices'
        ? surface.vertices(region)
        : p.on === 'edges'
          ? surface.edges(region, stretch)
          : surface.lattice(Math.fround(p.lattice ?? 0.05), scratch)
    if (s?.count) return { ...NONE, ...s, kind: s.indices ? BIRTH_KIND.edges : BIRTH_KIND.sites, areas: s.lengths }
    if (region && p.on !== 'lattice') return 'nowhere'
    if (p.on !== 'lattice') report(`the source of ${system} has no ${p.on}; births start at its point`)
    else if (s)
      report(
        `no point of the lattice of ${system} lies inside its source; births start at its point: make the spacing smaller, or close the mesh`,
      )
    else report(`the lattice of ${system} is too fine for its source; births start at its point: make the spacing larger`)
    return null
  }
  // A line, or a mesh all of whose faces are flat to nothing: its edges are what there is of it.
  if (p.on === 'faces' && !(surface.forBirth(null, stretch).whole > 0))
    return birthPlace({ ...p, on: 'edges' }, surface, region, system, scratch, report, stretch)
  const blocks = surface.forBirth(p.on === 'inside' ? null : region, stretch)
  const part = p.part ? surface.mesh.parts.find((x) => x.name === p.part) : null
  const faces = {
    ...NONE,
    ...blocks,
    first: part ? part.firstTriangle : 0,
    count: part ? part.triangleCount : surface.mesh.indices.length / 3,
  }
  if (!faces.count) return null
  const upTo = (triangle: number) => surface.upTo(blocks, triangle)
  if (blocks.amounts && !(upTo(faces.first + faces.count - 1) > upTo(faces.first - 1))) return 'nowhere'
  if (p.on !== 'inside') return { ...faces, kind: BIRTH_KIND.faces }
  const cast = surface.forCast()
  if (!cast.closed) report(`the source of ${system} is open; its inside is what lies behind most of its faces`)
  return { ...faces, kind: BIRTH_KIND.inside, cast }
}
