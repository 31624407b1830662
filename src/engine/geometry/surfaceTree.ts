import { type Allocator, type KernelExports, LEAF_BYTES, MemoryRefused, NODE_BYTES, TREE } from '../memory'
import { buildBvh } from './bvh'
import { copyIn } from './copyIn'
import type { Mesh } from './mesh'

/** A hierarchy in the World's memory. */
export interface SurfaceTree {
  nodes: number
  leaves: number
  triangles: number
  nodeCount: number
  leafCount: number
}
/**
 * Built by the kernel in blocks of the largest size there can be, then copied into ones that fit; by TypeScript where there is no room
 * for that. `positions` and `indices` point to those of the mesh.
 */
export function buildSurfaceTree(
  heap: Allocator,
  kernels: KernelExports,
  mesh: Mesh,
  { positions, indices }: { positions: number; indices: number },
): SurfaceTree {
  const n = mesh.indices.length / 3
  const room = Math.max(1, n)
  const taken: number[] = []
  const take = (bytes: number) => {
    const at = heap.take(bytes)
    taken.push(at)
    return at
  }
  const fit = (from: number, bytes: number) => {
    const to = heap.take(Math.max(4, bytes))
    new Uint8Array(heap.memory.buffer).copyWithin(to, from, from + bytes)
    return to
  }
  try {
    const sizes = [room * 32, room * 4, room * NODE_BYTES, room * LEAF_BYTES, room * 16, TREE.scratchBytes]
    const [boxes, order, nodes, leaves, triangles, scratch] = sizes.map(take)
    const nodeCount = kernels.buildTree(positions, indices, n, boxes, order, nodes, leaves, triangles, scratch)
    if (nodeCount >= 0) {
      const leafCount = Math.max(1, heap.view().getInt32(scratch + TREE.leaves, true))
      return {
        nodes: fit(nodes, nodeCount * NODE_BYTES),
        leaves: fit(leaves, leafCount * LEAF_BYTES),
        triangles: fit(triangles, leafCount * 16),
        nodeCount,
        leafCount,
      }
    }
  } catch (error) {
    if (!(error instanceof MemoryRefused)) throw error
  } finally {
    for (const at of taken) heap.give(at)
  }
  const bvh = buildBvh(mesh)
  return {
    nodes: copyIn(heap, new Uint32Array(bvh.nodes)),
    leaves: copyIn(heap, new Uint32Array(bvh.leaves)),
    triangles: copyIn(heap, bvh.triangles),
    nodeCount: bvh.nodeCount,
    leafCount: bvh.leafCount,
  }
}
