import { buildBvh } from './geometry/bvh'
import { type Bounds, boundsOf, isClosed, type Mesh, runningAreas } from './geometry/mesh'
import type { Heap } from './heap'

/** A mesh in the World's memory: what births and casts read. Blocks are made when first asked for. */
export class Surface {
  readonly bounds: Bounds
  private source: { positions: number; indices: number; areas: number } | null = null
  private collider: { nodes: number; leaves: number; closed: boolean } | null = null

  constructor(private heap: Heap, readonly mesh: Mesh) {
    this.bounds = boundsOf(mesh)
  }
  forBirth(): { positions: number; indices: number; areas: number } {
    if (!this.source) {
      const positions = this.heap.take(this.mesh.positions.byteLength)
      const indices = this.heap.take(this.mesh.indices.byteLength)
      const areas = this.heap.take((this.mesh.indices.length / 3) * 4)
      this.heap.f32(positions, this.mesh.positions.length).set(this.mesh.positions)
      this.heap.u32(indices, this.mesh.indices.length).set(this.mesh.indices)
      this.heap.f32(areas, this.mesh.indices.length / 3).set(runningAreas(this.mesh))
      this.source = { positions, indices, areas }
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
  dispose(): void {
    if (this.source) for (const at of Object.values(this.source)) this.heap.give(at)
    if (this.collider) {
      this.heap.give(this.collider.nodes)
      this.heap.give(this.collider.leaves)
    }
    this.source = null
    this.collider = null
  }
}
