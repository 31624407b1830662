import type { Allocator } from '../memory'
import { copyIn } from './copyIn'
import { type Bounds, guideOf, type Mesh } from './mesh'
import { edgeSites, latticeSites, vertexSites } from './sites'

/** A region at a moment: a name for what stays the same, and the amount of each vertex. */
export interface RegionAt {
  key: string
  amounts: Float32Array
}
/** A list of places in the World's memory; with indices and lengths it is one of edges. */
export interface SiteBlocks {
  positions: number
  /** The places at the end of the substep, or 0 while the shape stands. */
  positionsEnd: number
  normals: number
  indices: number
  lengths: number
  guide: number
  guideCount: number
  whole: number
  /** Amount of a region per site, or 0. */
  amounts: number
  count: number
}
/** A mesh as a list is made of it: its shape now, its places at the end of the substep when it changes, and a count of its changes. */
export interface Shape {
  mesh: Mesh
  end: Float32Array | null
  stamp: number
}
/** Lattices of one surface that are kept; a keyed spacing must not fill the memory. */
const MAX_LATTICES = 4

/** Listed places of one surface: its vertices, its edges, lattices inside it. Each is made when first asked for, and again when the shape has changed. */
export class SiteLists {
  private lists = new Map<string, { blocks: SiteBlocks | null; stamp: number; of: Float32Array | null }>()
  private stretches = new Map<string, string>()
  constructor(private heap: Allocator) {}

  /** Corner points, each once; with a region, in shares of its amounts. */
  vertices(shape: Shape, region: RegionAt | null): SiteBlocks | null {
    return this.list(`vertices ${region?.key ?? ''}`, shape, region, () => {
      const s = vertexSites(shape.mesh)
      const end = placesOf(shape.end, s.first)
      if (!region) return this.put(s.positions, end, s.normals, null)
      // As edges without length, whose sums are those of the amounts.
      const indices: number[] = []
      const sums: number[] = []
      let sum = 0
      s.first.forEach((v, i) => {
        if (!(region.amounts[v] > 0)) return
        sum += region.amounts[v]
        indices.push(i, i, i)
        sums.push(sum)
      })
      return this.put(s.positions, end, s.normals, { indices: new Uint32Array(indices), lengths: new Float32Array(sums) })
    })
  }
  /** Edges in shares of their lengths under a stretch (see stretchOf); of stretches the last is kept. */
  edges(shape: Shape, region: RegionAt | null, stretch: readonly number[] | null): SiteBlocks | null {
    const key = `edges ${region?.key ?? ''}`
    const of = stretch?.join() ?? ''
    if (this.stretches.get(key) !== of) {
      this.drop(this.lists.get(key)?.blocks ?? null)
      this.lists.delete(key)
      this.stretches.set(key, of)
    }
    return this.list(key, shape, region, () => {
      const e = edgeSites(shape.mesh, region ? (v) => region.amounts[v] : undefined, stretch)
      const amounts = region && Float32Array.from(e.first, (v) => region.amounts[v])
      return this.put(e.positions, placesOf(shape.end, e.first), e.normals, e, amounts)
    })
  }
  /** The lattice points inside, in the surface's own space; null when the spacing asks for too many. */
  lattice(shape: Shape, spacing: number, bounds: Bounds, isInside: (x: number, y: number, z: number) => boolean): SiteBlocks | null {
    const key = `lattice ${spacing}`
    if (!this.lists.has(key)) {
      const old = [...this.lists.keys()].filter((k) => k.startsWith('lattice'))
      if (old.length >= MAX_LATTICES) {
        this.drop(this.lists.get(old[0])?.blocks ?? null)
        this.lists.delete(old[0])
      }
    }
    return this.list(key, shape, null, () => {
      const sites = latticeSites(bounds, spacing, isInside)
      return sites && this.put(sites.positions, null, sites.normals, null)
    })
  }
  private list(key: string, { stamp }: Shape, region: RegionAt | null, make: () => SiteBlocks | null): SiteBlocks | null {
    const known = this.lists.get(key)
    const of = region?.amounts ?? null
    if (known?.stamp === stamp && known.of === of) return known.blocks
    if (known) this.drop(known.blocks)
    const made = { blocks: make(), stamp, of }
    this.lists.set(key, made)
    return made.blocks
  }
  private put(
    positions: Float32Array,
    end: Float32Array | null,
    normals: Float32Array,
    more: { indices: Uint32Array; lengths: Float32Array } | null,
    amounts: Float32Array | null = null,
  ): SiteBlocks {
    const block = (data: Float32Array | Uint32Array | null | undefined) => (data ? copyIn(this.heap, data) : 0)
    const guide = more && guideOf(more.lengths)
    return {
      positions: block(positions),
      positionsEnd: block(end),
      normals: block(normals),
      indices: block(more?.indices),
      lengths: block(more?.lengths),
      guide: block(guide),
      guideCount: guide?.length ?? 0,
      whole: more?.lengths.at(-1) ?? 0,
      amounts: block(amounts),
      count: more ? more.lengths.length : positions.length / 3,
    }
  }
  private drop(b: SiteBlocks | null): void {
    if (!b) return
    for (const at of [b.positions, b.positionsEnd, b.normals, b.indices, b.lengths, b.guide, b.amounts]) if (at) this.heap.give(at)
  }
  dispose(): void {
    for (const { blocks } of this.lists.values()) this.drop(blocks)
    this.lists.clear()
  }
}
/** Places of sites that stand on vertices. */
function placesOf(places: Float32Array | null, first: Uint32Array): Float32Array | null {
  if (!places) return null
  const out = new Float32Array(first.length * 3)
  first.forEach((v, i) => out.set(places.subarray(v * 3, v * 3 + 3), i * 3))
  return out
}
