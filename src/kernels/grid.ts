// A uniform grid over the particles of one system as a substep begins: who is near whom. Cells are as wide as the radius that is asked
// for; a counting sort brings particles into the order of their cells, and within a cell they keep their own, so that every sum over
// neighbours is taken in one order however many threads there are (Green 2010, on the host's own threads). Where the box of all particles
// would need too many cells, the grid repeats itself along an axis; the distance decides who counts.
import { column } from './columns'
import {
  GRID_CELL,
  GRID_CELLS,
  GRID_COLUMNS,
  GRID_COUNT,
  GRID_DIMS,
  GRID_HIST,
  GRID_INVERSE,
  GRID_LOW,
  GRID_ORDER,
  GRID_PARTS,
  GRID_REPEATS,
  GRID_SORTED,
  GRID_START,
  GRID_STRIDE,
  GRID_VELOCITIES,
  JOB_NEXT,
  JOB_RECORD,
  PX,
  PY,
  PZ,
  VX,
  VY,
  VZ,
} from './layout'

/** The cell of a coordinate along one axis. */
// @ts-ignore: decorator
@inline export function along(g: usize, axis: usize, p: f32): i32 {
  const n = load<i32>(g + GRID_DIMS + (axis << 2))
  let c = Mathf.floor((p - load<f32>(g + GRID_LOW + (axis << 2))) * load<f32>(g + GRID_INVERSE))
  if ((load<i32>(g + GRID_REPEATS) >> <i32>axis) & 1) c -= Mathf.floor(c / <f32>n) * <f32>n
  return <i32>Mathf.min(Mathf.max(c, 0), <f32>(n - 1))
}
/** The box of all particles: low and high corner at `out`. */
export function spanOf(columns: usize, count: i32, out: usize): void {
  for (let a = 0; a < 3; a++) {
    const p = column(columns, PX + a)
    let low = f32x4.splat(load<f32>(p)),
      high = low
    const whole = count & ~3
    for (let o: usize = 0, end = (<usize>whole) << 2; o < end; o += 16) {
      const v = v128.load(p + o)
      low = f32x4.pmin(low, v)
      high = f32x4.pmax(high, v)
    }
    let lo = min(min(f32x4.extract_lane(low, 0), f32x4.extract_lane(low, 1)), min(f32x4.extract_lane(low, 2), f32x4.extract_lane(low, 3)))
    let hi = max(
      max(f32x4.extract_lane(high, 0), f32x4.extract_lane(high, 1)),
      max(f32x4.extract_lane(high, 2), f32x4.extract_lane(high, 3)),
    )
    for (let i = whole; i < count; i++) {
      lo = min(lo, load<f32>(p + ((<usize>i) << 2)))
      hi = max(hi, load<f32>(p + ((<usize>i) << 2)))
    }
    store<f32>(out + ((<usize>a) << 2), lo)
    store<f32>(out + 12 + ((<usize>a) << 2), hi)
  }
}
// @ts-ignore: decorator
@inline function partBegin(n: i32, parts: i32, part: i32): i32 {
  return min(n, part * ((n + parts - 1) / parts))
}
/** The cells of one part after another, and how many of it are in each. */
export function countCells(job: usize): void {
  const g = <usize>load<u32>(job + JOB_RECORD)
  const n = load<i32>(g + GRID_COUNT),
    parts = load<i32>(g + GRID_PARTS),
    cells = load<i32>(g + GRID_CELLS)
  const columns = <usize>load<u32>(g + GRID_COLUMNS),
    cell = <usize>load<u32>(g + GRID_CELL)
  const px = column(columns, PX),
    py = column(columns, PY),
    pz = column(columns, PZ)
  const nx = load<i32>(g + GRID_DIMS),
    ny = load<i32>(g + GRID_DIMS + 4),
    mx = nx - 1,
    my = ny - 1,
    mz = load<i32>(g + GRID_DIMS + 8) - 1,
    repeats = load<i32>(g + GRID_REPEATS)
  const lx = load<f32>(g + GRID_LOW),
    ly = load<f32>(g + GRID_LOW + 4),
    lz = load<f32>(g + GRID_LOW + 8),
    inverse = load<f32>(g + GRID_INVERSE)
  while (true) {
    const part = atomic.add<i32>(job + JOB_NEXT, 1)
    if (part >= parts) return
    const hist = <usize>load<u32>(g + GRID_HIST) + ((<usize>part * <usize>cells) << 2)
    memory.fill(hist, 0, (<usize>cells) << 2)
    for (let i = partBegin(n, parts, part), end = partBegin(n, parts, part + 1); i < end; i++) {
      const o = (<usize>i) << 2
      let c: i32
      // Without an axis that repeats itself every place lies in its box: what along() gives, with its words held.
      if (repeats) c = (along(g, 2, load<f32>(pz + o)) * ny + along(g, 1, load<f32>(py + o))) * nx + along(g, 0, load<f32>(px + o))
      else {
        const x = min(<i32>((load<f32>(px + o) - lx) * inverse), mx),
          y = min(<i32>((load<f32>(py + o) - ly) * inverse), my),
          z = min(<i32>((load<f32>(pz + o) - lz) * inverse), mz)
        c = (z * ny + y) * nx + x
      }
      store<i32>(cell + o, c)
      const h = hist + ((<usize>c) << 2)
      store<i32>(h, load<i32>(h) + 1)
    }
  }
}
/** From how many are in each cell to where each cell, and each part in it, begins. */
export function sumCells(g: usize): void {
  const parts = load<i32>(g + GRID_PARTS),
    cells = load<i32>(g + GRID_CELLS)
  const start = <usize>load<u32>(g + GRID_START),
    hist = <usize>load<u32>(g + GRID_HIST)
  let sum = 0
  for (let c = 0; c < cells; c++) {
    store<i32>(start + ((<usize>c) << 2), sum)
    for (let p = 0; p < parts; p++) {
      const h = hist + ((<usize>p * <usize>cells + <usize>c) << 2)
      const k = load<i32>(h)
      store<i32>(h, sum)
      sum += k
    }
  }
  store<i32>(start + ((<usize>cells) << 2), sum)
}
/** Particles into the order of their cells, with copies of their places and, where these are asked for, velocities. */
export function sortCells(job: usize): void {
  const g = <usize>load<u32>(job + JOB_RECORD)
  const n = load<i32>(g + GRID_COUNT),
    parts = load<i32>(g + GRID_PARTS),
    cells = load<i32>(g + GRID_CELLS)
  const columns = <usize>load<u32>(g + GRID_COLUMNS),
    cell = <usize>load<u32>(g + GRID_CELL),
    order = <usize>load<u32>(g + GRID_ORDER)
  const sx = <usize>load<u32>(g + GRID_SORTED),
    stride = <usize>load<u32>(g + GRID_STRIDE),
    moves = load<u32>(g + GRID_VELOCITIES) != 0
  const px = column(columns, PX),
    py = column(columns, PY),
    pz = column(columns, PZ),
    vx = column(columns, VX),
    vy = column(columns, VY),
    vz = column(columns, VZ)
  while (true) {
    const part = atomic.add<i32>(job + JOB_NEXT, 1)
    if (part >= parts) return
    const hist = <usize>load<u32>(g + GRID_HIST) + ((<usize>part * <usize>cells) << 2)
    for (let i = partBegin(n, parts, part), end = partBegin(n, parts, part + 1); i < end; i++) {
      const o = (<usize>i) << 2
      const h = hist + ((<usize>load<i32>(cell + o)) << 2)
      const k = load<i32>(h)
      store<i32>(h, k + 1)
      let to = (<usize>k) << 2
      store<i32>(order + to, i)
      to += sx
      store<f32>(to, load<f32>(px + o))
      to += stride
      store<f32>(to, load<f32>(py + o))
      to += stride
      store<f32>(to, load<f32>(pz + o))
      if (!moves) continue
      to += stride
      store<f32>(to, load<f32>(vx + o))
      to += stride
      store<f32>(to, load<f32>(vy + o))
      to += stride
      store<f32>(to, load<f32>(vz + o))
    }
  }
}

/** Where the neighbours of a cell stand in the sorted order: pairs of begin and end at `out`, at most 27. Returns how many pairs. */
export function rangesAround(g: usize, cx: i32, cy: i32, cz: i32, out: usize): i32 {
  const nx = load<i32>(g + GRID_DIMS),
    ny = load<i32>(g + GRID_DIMS + 4),
    nz = load<i32>(g + GRID_DIMS + 8),
    repeats = load<i32>(g + GRID_REPEATS)
  const start = <usize>load<u32>(g + GRID_START)
  let k: usize = 0
  for (let dz = -1; dz <= 1; dz++) {
    let z = cz + dz
    if (z < 0 || z >= nz) {
      if (!(repeats & 4)) continue
      z = z < 0 ? nz - 1 : 0
    }
    for (let dy = -1; dy <= 1; dy++) {
      let y = cy + dy
      if (y < 0 || y >= ny) {
        if (!(repeats & 2)) continue
        y = y < 0 ? ny - 1 : 0
      }
      const row = start + ((<usize>(z * ny + y) * <usize>nx) << 2)
      k = range(row, max(0, cx - 1), min(nx - 1, cx + 1), out, k)
      if (repeats & 1) {
        if (cx == 0) k = range(row, nx - 1, nx - 1, out, k)
        if (cx == nx - 1) k = range(row, 0, 0, out, k)
      }
    }
  }
  return <i32>k
}
// @ts-ignore: decorator
@inline function range(row: usize, from: i32, to: i32, out: usize, k: usize): usize {
  const b = load<i32>(row + ((<usize>from) << 2)),
    e = load<i32>(row + ((<usize>to) << 2) + 4)
  if (e <= b) return k
  store<i32>(out + (k << 3), b)
  store<i32>(out + (k << 3), e, 4)
  return k + 1
}

/** How many stand in all ranges of a list. */
export function inRanges(list: usize, pairs: i32): i32 {
  let total = 0
  for (let k: usize = 0; k < <usize>pairs; k++) total += load<i32>(list + (k << 3), 4) - load<i32>(list + (k << 3))
  return total
}
/**
 * Where there are far too many to look at, only those near this one in the order are: at most `most`. Who looks at another is looked at by
 * it. `s`: its place in the order, or −1 for one that is none of them, for whom the first are taken.
 */
export function crowded(list: usize, pairs: i32, s: i32, maximum: i32): void {
  const from = s < 0 ? 0 : s - (maximum >> 1),
    to = s < 0 ? 0x7fffffff : s + (maximum >> 1) + 1
  let left = maximum
  for (let k: usize = 0; k < <usize>pairs; k++) {
    const b = max(from, load<i32>(list + (k << 3))),
      e = min(to, load<i32>(list + (k << 3), 4))
    const n = max(0, min(e - b, left))
    store<i32>(list + (k << 3), b)
    store<i32>(list + (k << 3), b + n, 4)
    if (s < 0) left -= n
  }
}
