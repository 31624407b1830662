import { LEAF_BYTES, NODE_BYTES } from '../memory'
import type { Mesh } from './mesh'

/** A 4-wide bounding volume hierarchy in the byte layout of kernels/cast.ts. */
export interface Bvh {
  nodes: ArrayBuffer
  leaves: ArrayBuffer
  /** The four triangles of each leaf; a short one repeats its last. */
  triangles: Uint32Array<ArrayBuffer>
  nodeCount: number
  leafCount: number
}

const BINS = 12
const LEAF_TRIANGLES = 4

/**
 * Builds by the surface-area heuristic over 12 bins on each axis (Wald 2007), two levels of splits to a node.
 * Time grows as n log n; triangles with an index out of range must have been refused by the reader.
 */
export function buildBvh(mesh: Mesh): Bvh {
  const n = mesh.indices.length / 3
  const lo = new Float32Array(n * 3)
  const hi = new Float32Array(n * 3)
  const mid = new Float32Array(n * 3)
  const p = mesh.positions
  for (let t = 0; t < n; t++) {
    for (let a = 0; a < 3; a++) {
      const x = p[mesh.indices[t * 3] * 3 + a],
        y = p[mesh.indices[t * 3 + 1] * 3 + a],
        z = p[mesh.indices[t * 3 + 2] * 3 + a]
      const l = Math.min(x, y, z),
        h = Math.max(x, y, z)
      lo[t * 3 + a] = l
      hi[t * 3 + a] = h
      mid[t * 3 + a] = (l + h) * 0.5
    }
  }
  const order = new Uint32Array(n)
  for (let i = 0; i < n; i++) order[i] = i

  const capacity = Math.max(1, n)
  const nodes = new ArrayBuffer(capacity * NODE_BYTES)
  const leaves = new ArrayBuffer(capacity * LEAF_BYTES)
  const nf = new Float32Array(nodes)
  const ni = new Int32Array(nodes)
  const lf = new Float32Array(leaves)
  const triangles = new Uint32Array(capacity * 4)
  let nodeCount = 0
  let leafCount = 0

  const counts = new Int32Array(3 * BINS)
  const boxes = new Float32Array(3 * BINS * 6)
  const right = new Float32Array(BINS)
  const half = (b: Float32Array, o: number) => {
    const x = b[o + 3] - b[o],
      y = b[o + 4] - b[o + 1],
      z = b[o + 5] - b[o + 2]
    return x < 0 ? 0 : x * y + y * z + z * x
  }
  const run = new Float32Array(6)
  const clear = (b: Float32Array, o: number) => {
    b[o] = b[o + 1] = b[o + 2] = Infinity
    b[o + 3] = b[o + 4] = b[o + 5] = -Infinity
  }
  const join = (o: number) => {
    for (let a = 0; a < 3; a++) {
      if (boxes[o + a] < run[a]) run[a] = boxes[o + a]
      if (boxes[o + 3 + a] > run[3 + a]) run[3 + a] = boxes[o + 3 + a]
    }
  }
  function split(b: number, e: number): number {
    const cl = [Infinity, Infinity, Infinity],
      ch = [-Infinity, -Infinity, -Infinity]
    for (let i = b; i < e; i++) {
      const t = order[i] * 3
      for (let a = 0; a < 3; a++) {
        if (mid[t + a] < cl[a]) cl[a] = mid[t + a]
        if (mid[t + a] > ch[a]) ch[a] = mid[t + a]
      }
    }
    const scale = [0, 1, 2].map((a) => (BINS - 0.01) / Math.max(ch[a] - cl[a], 1e-20))
    counts.fill(0)
    for (let k = 0; k < 3 * BINS; k++) clear(boxes, k * 6)
    for (let i = b; i < e; i++) {
      const t = order[i] * 3
      for (let a = 0; a < 3; a++) {
        const bin = a * BINS + (((mid[t + a] - cl[a]) * scale[a]) | 0)
        const o = bin * 6
        counts[bin]++
        for (let c = 0; c < 3; c++) {
          if (lo[t + c] < boxes[o + c]) boxes[o + c] = lo[t + c]
          if (hi[t + c] > boxes[o + 3 + c]) boxes[o + 3 + c] = hi[t + c]
        }
      }
    }
    let best = Infinity,
      axis = 0,
      cut = 0
    for (let a = 0; a < 3; a++) {
      let count = 0
      clear(run, 0)
      for (let k = BINS - 1; k > 0; k--) {
        join((a * BINS + k) * 6)
        count += counts[a * BINS + k]
        right[k] = half(run, 0) * count
      }
      count = 0
      clear(run, 0)
      for (let k = 0; k + 1 < BINS; k++) {
        join((a * BINS + k) * 6)
        count += counts[a * BINS + k]
        const cost = half(run, 0) * count + right[k + 1]
        if (count && count < e - b && cost < best) {
          best = cost
          axis = a
          cut = k
        }
      }
    }
    let m = b
    for (let i = b; i < e; i++) {
      const t = order[i]
      if ((((mid[t * 3 + axis] - cl[axis]) * scale[axis]) | 0) <= cut) {
        order[i] = order[m]
        order[m++] = t
      }
    }
    return m > b && m < e ? m : (b + e) >> 1
  }
  function leaf(b: number, e: number): number {
    const o = (leafCount * LEAF_BYTES) / 4
    for (let i = 0; i < 4; i++) {
      const t = order[Math.min(b + i, e - 1)] * 3
      triangles[leafCount * 4 + i] = t / 3
      const v0 = mesh.indices[t] * 3,
        v1 = mesh.indices[t + 1] * 3,
        v2 = mesh.indices[t + 2] * 3
      for (let a = 0; a < 3; a++) {
        lf[o + a * 4 + i] = p[v0 + a]
        lf[o + 12 + a * 4 + i] = p[v1 + a] - p[v0 + a]
        lf[o + 24 + a * 4 + i] = p[v2 + a] - p[v0 + a]
      }
    }
    return leafCount++
  }
  function build(b: number, e: number): number {
    const id = nodeCount++
    const lim = [b, e]
    while (lim.length < 5) {
      let big = 0
      for (let i = 1; i + 1 < lim.length; i++) if (lim[i + 1] - lim[i] > lim[big + 1] - lim[big]) big = i
      if (lim[big + 1] - lim[big] <= LEAF_TRIANGLES) break
      lim.splice(big + 1, 0, split(lim[big], lim[big + 1]))
    }
    const o = (id * NODE_BYTES) / 4
    for (let i = 0; i < 4; i++) {
      let child = -1
      clear(run, 0)
      const used = i + 1 < lim.length && lim[i + 1] > lim[i]
      if (used) {
        for (let k = lim[i]; k < lim[i + 1]; k++) {
          const t = order[k] * 3
          for (let a = 0; a < 3; a++) {
            if (lo[t + a] < run[a]) run[a] = lo[t + a]
            if (hi[t + a] > run[3 + a]) run[3 + a] = hi[t + a]
          }
        }
      }
      for (let a = 0; a < 3; a++) {
        nf[o + a * 4 + i] = used ? run[a] : 1e30
        nf[o + 12 + a * 4 + i] = used ? run[3 + a] : -1e30
      }
      if (used) child = lim[i + 1] - lim[i] <= LEAF_TRIANGLES ? ~leaf(lim[i], lim[i + 1]) : build(lim[i], lim[i + 1])
      ni[o + 24 + i] = child
    }
    return id
  }
  if (n > 0) build(0, n)
  else {
    nodeCount = 1
    for (let k = 0; k < 12; k++) {
      nf[k] = 1e30
      nf[12 + k] = -1e30
    }
  }
  return {
    nodes: nodes.slice(0, Math.max(1, nodeCount) * NODE_BYTES),
    leaves: leaves.slice(0, Math.max(1, leafCount) * LEAF_BYTES),
    triangles: triangles.slice(0, Math.max(1, leafCount) * 4),
    nodeCount,
    leafCount,
  }
}
