// Fits a hierarchy to places that have moved.
import { LEAF_BYTES, NODE_BYTES } from './layout'

// @ts-ignore: decorator
@inline function lowest(v: v128): f32 {
  const a = f32x4.min(v, i32x4.shuffle(v, v, 2, 3, 0, 1))
  return f32x4.extract_lane(f32x4.min(a, i32x4.shuffle(a, a, 1, 0, 3, 2)), 0)
}
// @ts-ignore: decorator
@inline function highest(v: v128): f32 {
  const a = f32x4.max(v, i32x4.shuffle(v, v, 2, 3, 0, 1))
  return f32x4.extract_lane(f32x4.max(a, i32x4.shuffle(a, a, 1, 0, 3, 2)), 0)
}
/** Writes a leaf from its four triangles' corners. */
// @ts-ignore: decorator
@inline export function fillLeaf(leaf: usize, lane: usize, p: usize, q: usize, r: usize): void {
  for (let c: usize = 0; c < 12; c += 4) {
    const at = leaf + (c << 2) + lane,
      v = load<f32>(p + c)
    store<f32>(at, v)
    store<f32>(at, load<f32>(q + c) - v, 48)
    store<f32>(at, load<f32>(r + c) - v, 96)
  }
}
/**
 * Fits a hierarchy to its triangles' places at the start and at the end of a substep: leaves for both, boxes that hold both. `triangles`
 * has the four triangles of each leaf, `indices` and the places are those of the mesh; a node's children come behind it in memory.
 */
export function refit(
  nodes: usize,
  nodeCount: i32,
  leaves: usize,
  ends: usize,
  leafCount: i32,
  triangles: usize,
  indices: usize,
  from: usize,
  to: usize,
): void {
  for (let l = 0; l < leafCount; l++) {
    const at = <usize>l * LEAF_BYTES
    for (let k: usize = 0; k < 16; k += 4) {
      const i = indices + <usize>load<u32>(triangles + ((<usize>l) << 4) + k) * 12
      const p = <usize>load<u32>(i) * 12,
        q = <usize>load<u32>(i, 4) * 12,
        r = <usize>load<u32>(i, 8) * 12
      fillLeaf(leaves + at, k, from + p, from + q, from + r)
      fillLeaf(ends + at, k, to + p, to + q, to + r)
    }
  }
  for (let n = nodeCount - 1; n >= 0; n--) {
    const node = nodes + <usize>n * NODE_BYTES
    for (let k: usize = 0; k < 16; k += 4) {
      const child = load<i32>(node + k, 96)
      // A lane without a child holds nothing: its low corner lies above its high one.
      if (child == -1 && load<f32>(node + k) > load<f32>(node + k, 48)) continue
      for (let c: usize = 0; c < 48; c += 16) {
        let low: v128, high: v128
        if (child >= 0) {
          const below = nodes + <usize>child * NODE_BYTES + c
          low = v128.load(below)
          high = v128.load(below, 48)
        } else {
          const a = leaves + <usize>~child * LEAF_BYTES + c,
            b = ends + <usize>~child * LEAF_BYTES + c
          const p = v128.load(a),
            q = f32x4.add(p, v128.load(a, 48)),
            r = f32x4.add(p, v128.load(a, 96))
          const x = v128.load(b),
            y = f32x4.add(x, v128.load(b, 48)),
            z = f32x4.add(x, v128.load(b, 96))
          low = f32x4.min(f32x4.min(f32x4.min(p, q), r), f32x4.min(f32x4.min(x, y), z))
          high = f32x4.max(f32x4.max(f32x4.max(p, q), r), f32x4.max(f32x4.max(x, y), z))
        }
        store<f32>(node + c + k, lowest(low))
        store<f32>(node + c + k, highest(high), 48)
      }
    }
  }
}
