// What particles feel of others near them. Everything is read from a grid's copies of the substep's beginning, so no order between
// threads or particles shows in the result; the outcome goes into columns that an op of the system adds later.
import { flock, swarm } from './flock'
import { along, crowded, inRanges, rangesAround } from './grid'
import {
  GRID_CELL,
  GRID_COLUMNS,
  GRID_COUNT,
  GRID_DIMS,
  GRID_ORDER,
  GRID_SORTED,
  GRID_STRIDE,
  ID,
  JOB_CHUNK,
  JOB_CROWDED,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  PASS_ASKING,
  PASS_COUNT,
  PASS_GRID,
  PASS_KIND,
  PASS_KIND_CLOSEST,
  PASS_KIND_COUNTING,
  PASS_KIND_FLOCK,
  PASS_KIND_ORDERED,
  PASS_KIND_SWARM,
  PASS_OUT,
  PASS_OWN,
  PASS_STRIDE,
  PASS_WORDS,
  PX,
  PY,
  PZ,
  SCRATCH_BYTES,
  SCRATCH_HIT,
} from './layout'
import { gatherCandidates, closest, fillCompaction } from './nearestOthers'

/** Nobody looks at more others than this. */
const MOST: i32 = 8192
/** Kinds of pass. */

// @ts-ignore: decorator
@inline export function sum(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3))
}
// @ts-ignore: decorator
@inline export function total(v: v128): i32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + (i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3))
}
/** Lanes of j to j + 3 that are before `end` and are not `self`. */
// @ts-ignore: decorator
@inline export function lanes(j: i32, end: i32, self: i32): v128 {
  const at = i32x4.add(i32x4.splat(j), i32x4(0, 1, 2, 3))
  return v128.and(i32x4.lt_s(at, i32x4.splat(end)), i32x4.ne(at, i32x4.splat(self)))
}
/** One pass, chunk by chunk of those who ask; the grid's own in the order of its cells, so that what they read lies copied. */
export function neighbours(job: usize, thread: i32): void {
  const p = <usize>load<u32>(job + JOB_RECORD),
    g = <usize>load<u32>(p + PASS_GRID)
  const kind = load<i32>(p + PASS_KIND),
    count = load<i32>(p + PASS_COUNT),
    chunk = load<i32>(job + JOB_CHUNK)
  const own = load<u32>(p + PASS_OWN) != 0
  const stop = <usize>load<u32>(job + JOB_STOP)
  const list = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES + SCRATCH_HIT
  const asking = <usize>load<u32>(p + PASS_ASKING)
  const px = <usize>load<u32>(asking + (PX << 2)),
    py = <usize>load<u32>(asking + (PY << 2)),
    pz = <usize>load<u32>(asking + (PZ << 2))
  const order = own ? <usize>load<u32>(g + GRID_ORDER) : 0,
    cells = own ? <usize>load<u32>(g + GRID_CELL) : 0
  const sorted = own ? <usize>load<u32>(g + GRID_SORTED) : 0,
    stride = own ? <usize>load<u32>(g + GRID_STRIDE) : 0
  const nx = load<i32>(g + GRID_DIMS),
    ny = load<i32>(g + GRID_DIMS + 4)
  const gx = <usize>load<u32>(g + GRID_SORTED),
    gs = <usize>load<u32>(g + GRID_STRIDE),
    rr = v128.load32_splat(p + PASS_WORDS),
    out = <usize>load<u32>(p + PASS_OUT)
  if (kind == PASS_KIND_CLOSEST) fillCompaction(list)
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    const end = min(begin + chunk, count)
    let last = -1,
      pairs = 0,
      dense = false,
      copied: usize = 0
    for (let s = begin; s < end; s++) {
      const i = own ? load<i32>(order + ((<usize>s) << 2)) : s
      const o = (<usize>i) << 2
      if (kind == PASS_KIND_ORDERED) {
        ordered(p, g, i, asking)
        continue
      }
      let x: f32, y: f32, z: f32, cell: i32
      if (own) {
        const at = sorted + ((<usize>s) << 2)
        x = load<f32>(at)
        y = load<f32>(at + stride)
        z = load<f32>(at + stride + stride)
        cell = load<i32>(cells + o)
      } else {
        x = load<f32>(px + o)
        y = load<f32>(py + o)
        z = load<f32>(pz + o)
        cell = (along(g, 2, z) * ny + along(g, 1, y)) * nx + along(g, 0, x)
      }
      if (cell != last) {
        const row = cell / nx
        pairs = rangesAround(g, cell - row * nx, row % ny, row / ny, list)
        last = cell
        dense = inRanges(list, pairs) > MOST
        if (kind == PASS_KIND_CLOSEST) copied = gatherCandidates(g, list, pairs)
      }
      const self = own ? s : -1
      if (dense) {
        crowded(list, pairs, self, MOST)
        atomic.add<u32>(job + JOB_CROWDED, 1)
        last = -1
      }
      // Itself is at no distance.
      if (kind == PASS_KIND_COUNTING)
        store<f32>(out + o, <f32>(counting(gx, gx + gs, gx + gs + gs, rr, x, y, z, list, pairs) - (own ? 1 : 0)))
      else if (kind == PASS_KIND_FLOCK) flock(p, g, i, self, x, y, z, list, pairs)
      else if (kind == PASS_KIND_SWARM) swarm(p, g, i, self, x, y, z, list, pairs)
      else if (kind == PASS_KIND_CLOSEST) closest(p, g, s, i, own, x, y, z, list, pairs, copied)
      else nearest(p, g, i, self, x, y, z, list, pairs)
    }
  }
}
/** How many others are nearer than a radius. Words of the pass: radius² (m²). */
// @ts-ignore: decorator
@inline function counting(sx: usize, sy: usize, sz: usize, rr: v128, x: f32, y: f32, z: f32, list: usize, pairs: i32): i32 {
  const qx = f32x4.splat(x),
    qy = f32x4.splat(y),
    qz = f32x4.splat(z)
  let found: v128 = i32x4.splat(0)
  for (let at = list, last = list + ((<usize>pairs) << 3); at < last; at += 8) {
    const end = (<usize>load<i32>(at, 4)) << 2
    let o = (<usize>load<i32>(at)) << 2
    for (; o + 16 <= end; o += 16) {
      const dx = f32x4.sub(v128.load(sx + o), qx),
        dy = f32x4.sub(v128.load(sy + o), qy),
        dz = f32x4.sub(v128.load(sz + o), qz)
      found = i32x4.sub(found, f32x4.lt(f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)), rr))
    }
    if (o < end) {
      const dx = f32x4.sub(v128.load(sx + o), qx),
        dy = f32x4.sub(v128.load(sy + o), qy),
        dz = f32x4.sub(v128.load(sz + o), qz)
      const before = i32x4.lt_s(i32x4(0, 4, 8, 12), i32x4.splat(<i32>(end - o)))
      found = i32x4.sub(
        found,
        v128.and(f32x4.lt(f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)), rr), before),
      )
    }
  }
  return total(found)
}
/**
 * The nearest within a reach: its place, its velocity, and 1; or 0 when there is none. Word of the pass: reach². The first of two at one
 * distance.
 */
function nearest(p: usize, g: usize, i: i32, self: i32, x: f32, y: f32, z: f32, list: usize, pairs: i32): void {
  const stride = <usize>load<u32>(g + GRID_STRIDE)
  const sx = <usize>load<u32>(g + GRID_SORTED),
    sy = sx + stride,
    sz = sy + stride
  let best = load<f32>(p + PASS_WORDS),
    which = -1
  for (let k: usize = 0; k < <usize>pairs; k++) {
    const e = load<i32>(list + (k << 3), 4)
    for (let j = load<i32>(list + (k << 3)); j < e; j++) {
      const o = (<usize>j) << 2
      const dx = load<f32>(sx + o) - x,
        dy = load<f32>(sy + o) - y,
        dz = load<f32>(sz + o) - z
      const dd = dx * dx + dy * dy + dz * dz
      if (dd < best && j != self) {
        best = dd
        which = j
      }
    }
  }
  target(p, g, i, which)
}
/** By order: the particle whose number is this one's, round and round. */
function ordered(p: usize, g: usize, i: i32, asking: usize): void {
  const n = load<i32>(g + GRID_COUNT)
  const id = load<u32>(<usize>load<u32>(asking + (ID << 2)) + ((<usize>i) << 2))
  const columns = <usize>load<u32>(g + GRID_COLUMNS)
  const out = <usize>load<u32>(p + PASS_OUT) + ((<usize>i) << 2),
    step = <usize>load<u32>(p + PASS_STRIDE)
  const j = n > 0 ? (<usize>(id % <u32>n)) << 2 : 0
  for (let c: usize = 0; c < 6; c++) store<f32>(out + c * step, n > 0 ? load<f32>(<usize>load<u32>(columns + (c << 2)) + j) : <f32>0)
  store<f32>(out + 6 * step, n > 0 ? <f32>1 : <f32>0)
}
function target(p: usize, g: usize, i: i32, j: i32): void {
  const out = <usize>load<u32>(p + PASS_OUT) + ((<usize>i) << 2),
    step = <usize>load<u32>(p + PASS_STRIDE)
  const s = <usize>load<u32>(g + GRID_SORTED) + ((<usize>max(0, j)) << 2),
    stride = <usize>load<u32>(g + GRID_STRIDE)
  for (let c: usize = 0; c < 6; c++) store<f32>(out + c * step, j >= 0 ? load<f32>(s + c * stride) : <f32>0)
  store<f32>(out + 6 * step, j >= 0 ? <f32>1 : <f32>0)
}
