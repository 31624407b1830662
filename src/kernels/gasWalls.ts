// What is solid in the grids of a gas's pressure: in the finest whole cells, in the coarser ones the part of each face that it closes. A cell that
// is solid in part would else take up as much as an empty one, and the pressure needs three times the cycles.
import {
  GAS_LEVEL,
  GAS_OPEN,
  LEVEL_DIMS,
  LEVEL_EDGE,
  LEVEL_FACES,
  LEVEL_FINER,
  LEVEL_FLUID,
  LEVEL_INVERSE,
  LEVEL_ROW,
  LEVEL_SLAB,
} from './layout'

/** How open a face of the next finer grid is: from that grid, or between two cells of the finest. */
// @ts-ignore: decorator
@inline function openness(face: usize, step: usize, isFinest: bool): f32 {
  return isFinest ? load<f32>(face) * load<f32>(face - step) : load<f32>(face)
}
/** The mean of four faces of the next finer grid, `a` and `b` bytes from each other. */
// @ts-ignore: decorator
@inline function meanOf(face: usize, a: usize, b: usize, step: usize, isFinest: bool): f32 {
  return (
    <f32>0.25 *
    (openness(face, step, isFinest) +
      openness(face + a, step, isFinest) +
      openness(face + b, step, isFinest) +
      openness(face + a + b, step, isFinest))
  )
}
/** How open the faces of a plane of cells are, from the next finer grid; the last plane's upper ones, too. */
export function facesPlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL),
    fine = <usize>load<u32>(l + LEVEL_FINER)
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const fS = (<usize>load<i32>(fine + LEVEL_ROW)) << 2,
    fP = (<usize>load<i32>(fine + LEVEL_SLAB)) << 2
  const nx = load<i32>(l + LEVEL_DIMS),
    ny = load<i32>(l + LEVEL_DIMS + 4),
    nz = load<i32>(l + LEVEL_DIMS + 8)
  const isFinest = load<u32>(fine + LEVEL_FACES) == 0
  for (let a: usize = 0; a < 3; a++) {
    const step: usize = a == 0 ? 4 : a == 1 ? fS : fP,
      b: usize = a == 0 ? fS : 4,
      c: usize = a == 2 ? fS : fP
    const from = <usize>load<u32>(fine + (isFinest ? <usize>LEVEL_FLUID : LEVEL_FACES + (a << 2))),
      to = <usize>load<u32>(l + LEVEL_FACES + (a << 2))
    const ex = nx + (a == 0 ? 1 : 0),
      ey = ny + (a == 1 ? 1 : 0),
      ez = k + (a == 2 && k == nz - 1 ? 2 : 1)
    for (let z = k; z < ez; z++)
      for (let y = 0; y < ey; y++)
        for (let x = 0; x < ex; x++)
          store<f32>(
            to + ((<usize>x) << 2) + <usize>y * S + <usize>z * P,
            meanOf(from + ((<usize>x) << 3) + <usize>(2 * y) * fS + <usize>(2 * z) * fP, b, c, step, isFinest),
          )
  }
}
/** As `weighPlane`, by how open the faces are. */
function weighAmong(g: usize, l: usize, k: i32): void {
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const nx = load<i32>(l + LEVEL_DIMS),
    ny = load<i32>(l + LEVEL_DIMS + 4),
    nz = load<i32>(l + LEVEL_DIMS + 8)
  const open = load<u32>(g + GAS_OPEN),
    edge = load<f32>(l + LEVEL_EDGE),
    at = <usize>k * P
  const x = <usize>load<u32>(l + LEVEL_FACES) + at,
    y = <usize>load<u32>(l + LEVEL_FACES + 4) + at,
    z = <usize>load<u32>(l + LEVEL_FACES + 8) + at,
    out = <usize>load<u32>(l + LEVEL_INVERSE) + at
  const behind = side(k > 0, open & 16, edge),
    before = side(k < nz - 1, open & 32, edge)
  for (let j = 0; j < ny; j++) {
    const below = side(j > 0, open & 4, edge),
      above = side(j < ny - 1, open & 8, edge)
    for (let i = 0; i < nx; i++) {
      const o = ((<usize>i) << 2) + <usize>j * S
      const n =
        side(i > 0, open & 1, edge) * load<f32>(x + o) +
        side(i < nx - 1, open & 2, edge) * load<f32>(x + o + 4) +
        (below * load<f32>(y + o) + above * load<f32>(y + o + S)) +
        (behind * load<f32>(z + o) + before * load<f32>(z + o + P))
      store<f32>(out + o, n > 0 ? <f32>1 / n : <f32>0)
    }
  }
}
/** What an open face counts: towards a cell, towards an open side, towards a closed one. */
// @ts-ignore: decorator
@inline function side(isInside: bool, open: u32, edge: f32): f32 {
  return isInside ? 1 : open ? edge : 0
}
/** One over how many neighbours of a cell are not solid: those along its row, and the others. */
// @ts-ignore: decorator
@inline function weight(left: f32, right: f32, others: f32, isFree: bool): f32 {
  const n = left + right + others
  return isFree && n > 0 ? <f32>1 / n : <f32>0
}
/** How many neighbours of the cells of a plane are not solid. Beyond an open side there is gas without pressure. */
export function weighPlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  if (load<u32>(l + LEVEL_FACES)) {
    weighAmong(g, l, k)
    return
  }
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const nx = load<i32>(l + LEVEL_DIMS),
    ny = load<i32>(l + LEVEL_DIMS + 4),
    nz = load<i32>(l + LEVEL_DIMS + 8)
  const open = load<u32>(g + GAS_OPEN),
    edge = load<f32>(l + LEVEL_EDGE)
  const fluid = <usize>load<u32>(l + LEVEL_FLUID),
    out = <usize>load<u32>(l + LEVEL_INVERSE) + <usize>k * P
  const left: f32 = open & 1 ? edge : 0,
    right: f32 = open & 2 ? edge : 0
  const zero = f32x4.splat(0),
    one = f32x4.splat(1)
  for (let j = 0; j < ny; j++) {
    const row = <usize>j * S,
      f = fluid ? fluid + row + <usize>k * P : 0
    // What lies beyond a side, or −1 where there is a cell.
    const below: f32 = j > 0 ? -1 : open & 4 ? edge : 0,
      above: f32 = j < ny - 1 ? -1 : open & 8 ? edge : 0,
      behind: f32 = k > 0 ? -1 : open & 16 ? edge : 0,
      before: f32 = k < nz - 1 ? -1 : open & 32 ? edge : 0
    for (let i = 0; i < nx; i++) {
      const o = (<usize>i) << 2
      if (i > 0 && i + 4 < nx) {
        let n = f ? f32x4.add(v128.load(f + o - 4), v128.load(f + o + 4)) : f32x4.splat(2)
        n = f32x4.add(n, below >= 0 ? f32x4.splat(below) : f ? v128.load(f + o - S) : one)
        n = f32x4.add(n, above >= 0 ? f32x4.splat(above) : f ? v128.load(f + o + S) : one)
        n = f32x4.add(n, behind >= 0 ? f32x4.splat(behind) : f ? v128.load(f + o - P) : one)
        n = f32x4.add(n, before >= 0 ? f32x4.splat(before) : f ? v128.load(f + o + P) : one)
        let weights = v128.and(f32x4.div(one, n), f32x4.gt(n, zero))
        if (f) weights = v128.and(weights, f32x4.ne(v128.load(f + o), zero))
        v128.store(out + row + o, weights)
        i += 3
        continue
      }
      let others: f32 = below >= 0 ? below : f ? load<f32>(f + o - S) : 1
      others += above >= 0 ? above : f ? load<f32>(f + o + S) : <f32>1
      others += behind >= 0 ? behind : f ? load<f32>(f + o - P) : <f32>1
      others += before >= 0 ? before : f ? load<f32>(f + o + P) : <f32>1
      const here = weight(
        i > 0 ? (f ? load<f32>(f + o - 4) : <f32>1) : left,
        i < nx - 1 ? (f ? load<f32>(f + o + 4) : <f32>1) : right,
        others,
        !f || load<f32>(f + o) != 0,
      )
      store<f32>(out + row + o, here)
    }
  }
}
