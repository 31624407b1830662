import { buildBvh } from './geometry/bvh'
import { edgeSites, latticeSites, type Sites, vertexSites } from './geometry/sites'
import type { KernelExports } from './kernels'
import { type Bounds, boundsOf, guideOf, isClosed, type Mesh, runningAreas } from './geometry/mesh'
import type { Heap } from './heap'

/** A list of places in the World's memory; with indices and lengths it is one of edges. */
export interface SiteBlocks {
  positions: number
  normals: number
  indices: number
  lengths: number
  guide: number
  guideCount: number
  whole: number
  count: number
}
/** Lattices of one surface that are kept; a keyed spacing must not fill the memory. */
const LATTICES = 4
/** A mesh in the World's memory: what births and casts read. Blocks are made when first asked for. */
export class Surface {
  readonly bounds: Bounds
  private source: { positions: number; indices: number; areas: number; guide: number; guideCount: number; whole: number } | null = null
  private collider: { nodes: number; leaves: number; closed: boolean } | null = null

  private lists = new Map<string, SiteBlocks | null>()

  constructor(private heap: Heap, readonly mesh: Mesh) {
    this.bounds = boundsOf(mesh)
  }
  forBirth(): { positions: number; indices: number; areas: number; guide: number; guideCount: number; whole: number } {
    if (!this.source) {
      const positions = this.heap.take(this.mesh.positions.byteLength)
      const indices = this.heap.take(this.mesh.indices.byteLength)
      const areas = this.heap.take((this.mesh.indices.length / 3) * 4)
      this.heap.f32(positions, this.mesh.positions.length).set(this.mesh.positions)
      this.heap.u32(indices, this.mesh.indices.length).set(this.mesh.indices)
      const sums = runningAreas(this.mesh)
      const steps = guideOf(sums)
      const guide = this.heap.take(steps.byteLength)
      this.heap.f32(areas, sums.length).set(sums)
      this.heap.u32(guide, steps.length).set(steps)
      this.source = { positions, indices, areas, guide, guideCount: steps.length, whole: sums[sums.length - 1] ?? 0 }
    }
    return this.source
  }
  forCast(): { nodes: number; leaves: number; closed: boolean } {
    if (!this.collider) {
      const bvh = buildBvh(this.mesh)
      const nodes = this.heap.take(bvh.nodes.byteLength)
      const leaves = this.heap.take(bvh.leaves.byteLength)
      // Copied as words: children are integers, and as floats some would be NaN, whose bits a copy may change.
      this.heap.u32(nodes, bvh.nodes.byteLength / 4).set(new Uint32Array(bvh.nodes))
      this.heap.u32(leaves, bvh.leaves.byteLength / 4).set(new Uint32Array(bvh.leaves))
      this.collider = { nodes, leaves, closed: isClosed(this.mesh) }
    }
    return this.collider
  }
  private put(s: Sites, more: { indices: Uint32Array; lengths: Float32Array } | null): SiteBlocks {
    const block = (data: Float32Array | Uint32Array) => {
      const at = this.heap.take(Math.max(4, data.byteLength))
      this.heap.u32(at, data.length).set(new Uint32Array(data.buffer, data.byteOffset, data.length))
      return at
    }
    const steps = more && guideOf(more.lengths)
    return { positions: block(s.positions), normals: block(s.normals), indices: more ? block(more.indices) : 0, lengths: more ? block(more.lengths) : 0, guide: steps ? block(steps) : 0, guideCount: steps?.length ?? 0, whole: more?.lengths.at(-1) ?? 0, count: more ? more.lengths.length : s.positions.length / 3 }
  }
  private drop(b: SiteBlocks | null): void {
    for (const at of b ? [b.positions, b.normals, b.indices, b.lengths, b.guide] : []) if (at) this.heap.give(at)
  }
  private list(key: string, make: () => SiteBlocks | null): SiteBlocks | null {
    const known = this.lists.get(key)
    if (known !== undefined) return known
    const made = make()
    this.lists.set(key, made)
    return made
  }
  vertices(): SiteBlocks | null {
    return this.list('vertices', () => this.put(vertexSites(this.mesh), null))
  }
  edges(): SiteBlocks | null {
    return this.list('edges', () => {
      const e = edgeSites(this.mesh)
      return this.put(e, e)
    })
  }
  /** The lattice points inside, in the surface's own space; null when the spacing asks for too many. `scratch`: as the birth kernel's. */
  lattice(spacing: number, kernels: KernelExports, scratch: { stack: number; hit: number }): SiteBlocks | null {
    const key = `lattice ${spacing}`
    if (!this.lists.has(key)) {
      const old = [...this.lists.keys()].filter((k) => k.startsWith('lattice'))
      if (old.length >= LATTICES) {
        this.drop(this.lists.get(old[0]) as SiteBlocks)
        this.lists.delete(old[0])
      }
    }
    return this.list(key, () => {
      const cast = this.forCast()
      const reach = 2 * [0, 1, 2].reduce((s, a) => s + this.bounds.max[a] - this.bounds.min[a], 0)
      const sites = latticeSites(this.bounds, spacing, (x, y, z) => kernels.insideMesh(cast.nodes, cast.leaves, x, y, z, reach, scratch.stack, scratch.hit) !== 0)
      return sites && this.put(sites, null)
    })
  }
  dispose(): void {
    for (const b of this.lists.values()) this.drop(b)
    this.lists.clear()
    if (this.source) for (const at of [this.source.positions, this.source.indices, this.source.areas, this.source.guide]) this.heap.give(at)
    if (this.collider) {
      this.heap.give(this.collider.nodes)
      this.heap.give(this.collider.leaves)
    }
    this.source = null
    this.collider = null
  }
}
