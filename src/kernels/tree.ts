// Builds the 4-wide hierarchy of cast.ts: by the surface-area heuristic over bins (Wald 2007), two levels of splits to a node.
import { fillLeaf } from './refit'
import { LEAF_BYTES, NODE_BYTES, TREE_LEAVES } from './layout'

/** Bins of an axis, and the bytes of one: low corner, high corner, count. */
const BINS: i32 = 12
const BIN: usize = 48
/** In the scratch: bins of three axes, costs from the right, the limits of a node's children, the stack of ranges still to build. */
const COSTS: usize = 1728,
  LIMITS: usize = 1792,
  STACK: usize = 1856
/** Ranges longer than this are cut across their longest side only: the other two rarely win there, and binning is most of the time. */
const WIDE: i32 = 4096
const LEAF_TRIANGLES: i32 = 4

// @ts-ignore: decorator
@inline function half(lo: v128, hi: v128): f32 {
  const d = f32x4.sub(hi, lo)
  const x = f32x4.extract_lane(d, 0),
    y = f32x4.extract_lane(d, 1),
    z = f32x4.extract_lane(d, 2)
  return x < 0 ? 0 : x * y + y * z + z * x
}

/** Cuts the triangles order[b..e) in two; returns where the second part begins. Boxes lie at 32 bytes each, low and high corner. */
function split(order: usize, boxes: usize, b: i32, e: i32, scratch: usize): i32 {
  let cl = f32x4.splat(Infinity),
    ch = f32x4.splat(-Infinity)
  for (let i = b; i < e; i++) {
    const box = boxes + ((<usize>load<u32>(order + ((<usize>i) << 2))) << 5)
    // Twice the middle: where it lies among the others is all that counts.
    const c = f32x4.add(v128.load(box), v128.load(box, 16))
    cl = f32x4.min(cl, c)
    ch = f32x4.max(ch, c)
  }
  const wide = f32x4.sub(ch, cl)
  const scale = f32x4.div(f32x4.splat(<f32>BINS - <f32>0.01), f32x4.max(wide, f32x4.splat(1e-20)))
  let first = 0,
    last = 3
  if (e - b > WIDE) {
    const x = f32x4.extract_lane(wide, 0),
      y = f32x4.extract_lane(wide, 1),
      z = f32x4.extract_lane(wide, 2)
    first = x >= y && x >= z ? 0 : y >= z ? 1 : 2
    last = first + 1
  }
  const inf = f32x4.splat(Infinity),
    none = f32x4.splat(-Infinity)
  for (let k = first * BINS; k < last * BINS; k++) {
    const bin = scratch + <usize>k * BIN
    v128.store(bin, inf)
    v128.store(bin, none, 16)
    store<i32>(bin, 0, 32)
  }
  for (let i = b; i < e; i++) {
    const box = boxes + ((<usize>load<u32>(order + ((<usize>i) << 2))) << 5)
    const lo = v128.load(box),
      hi = v128.load(box, 16)
    const at = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.add(lo, hi), cl), scale))
    for (let a = first; a < last; a++) {
      const k = a == 0 ? i32x4.extract_lane(at, 0) : a == 1 ? i32x4.extract_lane(at, 1) : i32x4.extract_lane(at, 2)
      const bin = scratch + <usize>(a * BINS + min(max(k, 0), BINS - 1)) * BIN
      v128.store(bin, f32x4.min(v128.load(bin), lo))
      v128.store(bin, f32x4.max(v128.load(bin, 16), hi), 16)
      store<i32>(bin, load<i32>(bin, 32) + 1, 32)
    }
  }
  let best: f32 = Infinity
  let axis = first,
    cut = 0
  for (let a = first; a < last; a++) {
    let lo = inf,
      hi = none,
      count = 0
    for (let k = BINS - 1; k > 0; k--) {
      const bin = scratch + <usize>(a * BINS + k) * BIN
      lo = f32x4.min(lo, v128.load(bin))
      hi = f32x4.max(hi, v128.load(bin, 16))
      count += load<i32>(bin, 32)
      store<f32>(scratch + COSTS + ((<usize>k) << 2), half(lo, hi) * <f32>count)
    }
    lo = inf
    hi = none
    count = 0
    for (let k = 0; k + 1 < BINS; k++) {
      const bin = scratch + <usize>(a * BINS + k) * BIN
      lo = f32x4.min(lo, v128.load(bin))
      hi = f32x4.max(hi, v128.load(bin, 16))
      count += load<i32>(bin, 32)
      const cost = half(lo, hi) * <f32>count + load<f32>(scratch + COSTS + ((<usize>(k + 1)) << 2))
      if (count > 0 && count < e - b && cost < best) {
        best = cost
        axis = a
        cut = k
      }
    }
  }
  let m = b
  const lane = (<usize>axis) << 2
  const from: f32 = axis == 0 ? f32x4.extract_lane(cl, 0) : axis == 1 ? f32x4.extract_lane(cl, 1) : f32x4.extract_lane(cl, 2)
  const by: f32 = axis == 0 ? f32x4.extract_lane(scale, 0) : axis == 1 ? f32x4.extract_lane(scale, 1) : f32x4.extract_lane(scale, 2)
  for (let i = b; i < e; i++) {
    const at = order + ((<usize>i) << 2)
    const t = load<u32>(at)
    const box = boxes + ((<usize>t) << 5) + lane
    if (<i32>((load<f32>(box) + load<f32>(box, 16) - from) * by) <= cut) {
      const to = order + ((<usize>m) << 2)
      store<u32>(at, load<u32>(to))
      store<u32>(to, t)
      m++
    }
  }
  return m > b && m < e ? m : (b + e) >> 1
}

/**
 * Builds the hierarchy of `n` triangles. Blocks: boxes 32 bytes and order 4 bytes a triangle, nodes and leaves as many as there are
 * triangles, `triangles` four words a leaf, scratch 16 KB. Returns the number of nodes, or -1 when it would be too deep; that of leaves
 * stands at scratch + 1824.
 */
export function buildTree(
  positions: usize,
  indices: usize,
  n: i32,
  boxes: usize,
  order: usize,
  nodes: usize,
  leaves: usize,
  triangles: usize,
  scratch: usize,
): i32 {
  for (let t = 0; t < n; t++) {
    const i = indices + <usize>t * 12
    const p = positions + <usize>load<u32>(i) * 12,
      q = positions + <usize>load<u32>(i, 4) * 12,
      r = positions + <usize>load<u32>(i, 8) * 12
    const a = f32x4(load<f32>(p), load<f32>(p, 4), load<f32>(p, 8), 0),
      b = f32x4(load<f32>(q), load<f32>(q, 4), load<f32>(q, 8), 0),
      c = f32x4(load<f32>(r), load<f32>(r, 4), load<f32>(r, 8), 0)
    const box = boxes + ((<usize>t) << 5)
    v128.store(box, f32x4.min(f32x4.min(a, b), c))
    v128.store(box, f32x4.max(f32x4.max(a, b), c), 16)
    store<u32>(order + ((<usize>t) << 2), t)
  }
  let nodeCount = 0,
    leafCount = 0
  const bottom = scratch + STACK
  let top = bottom
  store<i32>(top, 0)
  store<i32>(top, n, 4)
  store<i32>(top, -1, 8)
  top += 16
  const limits = scratch + LIMITS
  while (top > bottom) {
    top -= 16
    const b = load<i32>(top),
      e = load<i32>(top, 4),
      parent = load<i32>(top, 8)
    // Deeper than anything but places spread over all numbers: the caller builds it by halves.
    if (top > scratch + 16384 - 128) return -1
    const id = nodeCount++
    if (parent >= 0) store<i32>(nodes + <usize>(parent >> 2) * NODE_BYTES + ((<usize>(parent & 3)) << 2), id, 96)
    let count = 2
    store<i32>(limits, b)
    store<i32>(limits, e, 4)
    while (count < 5) {
      let big = 0
      for (let i = 1; i + 1 < count; i++) {
        const at = limits + ((<usize>i) << 2),
          was = limits + ((<usize>big) << 2)
        if (load<i32>(at, 4) - load<i32>(at) > load<i32>(was, 4) - load<i32>(was)) big = i
      }
      const at = limits + ((<usize>big) << 2)
      if (load<i32>(at, 4) - load<i32>(at) <= LEAF_TRIANGLES) break
      const m = split(order, boxes, load<i32>(at), load<i32>(at, 4), scratch)
      for (let i = count; i > big + 1; i--) store<i32>(limits + ((<usize>i) << 2), load<i32>(limits + ((<usize>(i - 1)) << 2)))
      store<i32>(at, m, 4)
      count++
    }
    const node = nodes + <usize>id * NODE_BYTES
    for (let i = 0; i < 4; i++) {
      const lane = node + ((<usize>i) << 2)
      const from = i + 1 < count ? load<i32>(limits + ((<usize>i) << 2)) : 0,
        to = i + 1 < count ? load<i32>(limits + ((<usize>i) << 2), 4) : 0
      if (to <= from) {
        for (let c: usize = 0; c < 48; c += 16) {
          store<f32>(lane + c, 1e30)
          store<f32>(lane + c, -1e30, 48)
        }
        store<i32>(lane, -1, 96)
        continue
      }
      let lo = f32x4.splat(Infinity),
        hi = f32x4.splat(-Infinity)
      for (let k = from; k < to; k++) {
        const box = boxes + ((<usize>load<u32>(order + ((<usize>k) << 2))) << 5)
        lo = f32x4.min(lo, v128.load(box))
        hi = f32x4.max(hi, v128.load(box, 16))
      }
      store<f32>(lane, f32x4.extract_lane(lo, 0))
      store<f32>(lane + 16, f32x4.extract_lane(lo, 1))
      store<f32>(lane + 32, f32x4.extract_lane(lo, 2))
      store<f32>(lane, f32x4.extract_lane(hi, 0), 48)
      store<f32>(lane + 16, f32x4.extract_lane(hi, 1), 48)
      store<f32>(lane + 32, f32x4.extract_lane(hi, 2), 48)
      if (to - from <= LEAF_TRIANGLES) {
        const leaf = leaves + <usize>leafCount * LEAF_BYTES
        for (let k = 0; k < 4; k++) {
          const t = load<u32>(order + ((<usize>min(from + k, to - 1)) << 2))
          store<u32>(triangles + ((<usize>(leafCount * 4 + k)) << 2), t)
          const at = indices + <usize>t * 12
          fillLeaf(
            leaf,
            (<usize>k) << 2,
            positions + <usize>load<u32>(at) * 12,
            positions + <usize>load<u32>(at, 4) * 12,
            positions + <usize>load<u32>(at, 8) * 12,
          )
        }
        store<i32>(lane, ~leafCount, 96)
        leafCount++
      } else {
        store<i32>(top, from)
        store<i32>(top, to, 4)
        store<i32>(top, (id << 2) | i, 8)
        top += 16
      }
    }
  }
  store<i32>(scratch + TREE_LEAVES, leafCount)
  return nodeCount
}
