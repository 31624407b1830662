// The pressure that takes the divergence out of a gas: what is left to do, and its way between the grids (gasRelax: on one of them). Rows are
// worked through in fours: what lies beyond their end counts as solid and stays nothing.
import {
  GAS_DIMS,
  GAS_EXPAND,
  GAS_FLUID,
  GAS_LEVEL,
  GAS_OPEN,
  GAS_ROW,
  GAS_SLAB,
  GAS_SOLID,
  GAS_TABLE,
  GAS_VELOCITY,
  GAS_VOXEL,
  LEVEL_BEYOND,
  LEVEL_COARSER,
  LEVEL_DIMS,
  LEVEL_FACES,
  LEVEL_INVERSE,
  LEVEL_PRESSURE,
  LEVEL_RIGHT,
  LEVEL_ROW,
  LEVEL_SLAB,
} from './layout'
import { through } from './gasRelax'

/** Four cells of what is left to do. */
// @ts-ignore: decorator
@inline function residual(p: usize, right: usize, inverse: usize, o: usize, S: usize, P: usize): v128 {
  const q = p + o
  const inv = v128.load(inverse + o)
  const sum = f32x4.add(
    f32x4.add(f32x4.add(v128.load(q - 4), v128.load(q + 4)), f32x4.add(v128.load(q - S), v128.load(q + S))),
    f32x4.add(f32x4.add(v128.load(q - P), v128.load(q + P)), v128.load(right + o)),
  )
  return left(sum, v128.load(q), inv)
}
// @ts-ignore: decorator
@inline function left(sum: v128, here: v128, inverse: v128): v128 {
  const solid = f32x4.eq(inverse, f32x4.splat(0))
  return v128.andnot(f32x4.sub(sum, f32x4.div(here, v128.bitselect(f32x4.splat(1), inverse, solid))), solid)
}
/** As `residual`, among faces that are open in part. */
// @ts-ignore: decorator
@inline function residualAmong(l: usize, p: usize, right: usize, inverse: usize, o: usize, S: usize, P: usize): v128 {
  const faces = l + LEVEL_FACES
  const x = <usize>load<u32>(faces) + o,
    y = <usize>load<u32>(faces + 4) + o,
    z = <usize>load<u32>(faces + 8) + o
  return left(f32x4.add(through(p + o, x, y, z, S, P), v128.load(right + o)), v128.load(p + o), v128.load(inverse + o))
}
/** Of four rows beside each other. */
// @ts-ignore: decorator
@inline function eight(l: usize, p: usize, right: usize, inverse: usize, o: usize, S: usize, P: usize): v128 {
  if (load<u32>(l + LEVEL_FACES))
    return f32x4.add(
      f32x4.add(residualAmong(l, p, right, inverse, o, S, P), residualAmong(l, p, right, inverse, o + S, S, P)),
      f32x4.add(residualAmong(l, p, right, inverse, o + P, S, P), residualAmong(l, p, right, inverse, o + S + P, S, P)),
    )
  return f32x4.add(
    f32x4.add(residual(p, right, inverse, o, S, P), residual(p, right, inverse, o + S, S, P)),
    f32x4.add(residual(p, right, inverse, o + P, S, P), residual(p, right, inverse, o + S + P, S, P)),
  )
}
/** A plane of the coarser grid: eight residuals added, times h²'s ratio over eight; and nothing known of its pressure. */
export function restrictPlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL),
    c = <usize>load<u32>(l + LEVEL_COARSER)
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const cS = (<usize>load<i32>(c + LEVEL_ROW)) << 2,
    cP = (<usize>load<i32>(c + LEVEL_SLAB)) << 2
  const nx = load<i32>(c + LEVEL_DIMS),
    ny = load<i32>(c + LEVEL_DIMS + 4)
  const p = <usize>load<u32>(l + LEVEL_PRESSURE),
    right = <usize>load<u32>(l + LEVEL_RIGHT),
    inverse = <usize>load<u32>(l + LEVEL_INVERSE)
  const out = <usize>load<u32>(c + LEVEL_RIGHT) + <usize>k * cP,
    pressure = <usize>load<u32>(c + LEVEL_PRESSURE) + <usize>k * cP
  for (let j = 0; j < ny; j++) {
    const base = <usize>(2 * j) * S + <usize>(2 * k) * P
    const row = out + <usize>j * cS,
      nothing = pressure + <usize>j * cS
    let i = 0
    for (; i + 4 <= nx; i += 4) {
      const o = base + ((<usize>i) << 3)
      const near = eight(l, p, right, inverse, o, S, P),
        far = eight(l, p, right, inverse, o + 16, S, P)
      const at = (<usize>i) << 2
      v128.store(
        row + at,
        f32x4.mul(f32x4.splat(0.5), f32x4.add(i32x4.shuffle(near, far, 0, 2, 4, 6), i32x4.shuffle(near, far, 1, 3, 5, 7))),
      )
      v128.store(nothing + at, f32x4.splat(0))
    }
    for (; i < nx; i += 2) {
      const sum = eight(l, p, right, inverse, base + ((<usize>i) << 3), S, P),
        at = (<usize>i) << 2
      store<f32>(row + at, <f32>0.5 * (f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1)))
      store<f32>(row + at + 4, <f32>0.5 * (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)))
      store<f32>(nothing + at, 0)
      store<f32>(nothing + at + 4, 0)
    }
  }
}
// @ts-ignore: decorator
@inline function other(v: i32, most: i32): i32 {
  return min(most - 1, max(0, (v >> 1) + (v & 1 ? 1 : -1)))
}
/** Four cells of a coarser row, between its neighbours across. `among`: bytes from pressures to what says whether they are solid; 0: none is. */
// @ts-ignore: decorator
@inline function mixed(a: usize, b: usize, d: usize, e: usize, wb: f32, wd: f32, we: f32, among: isize): v128 {
  const here = v128.load(a)
  return f32x4.add(
    f32x4.add(
      f32x4.add(f32x4.mul(f32x4.splat(0.5625), here), f32x4.mul(f32x4.splat(wb), beside(b, here, among))),
      f32x4.mul(f32x4.splat(wd), beside(d, here, among)),
    ),
    f32x4.mul(f32x4.splat(we), beside(e, here, among)),
  )
}
/** What is solid has no pressure: there what is here goes on. */
// @ts-ignore: decorator
@inline function beside(q: usize, here: v128, among: isize): v128 {
  const there = v128.load(q)
  return among ? v128.bitselect(here, there, solidAt(q, among)) : there
}
// @ts-ignore: decorator
@inline function solidAt(q: usize, among: isize): v128 {
  return f32x4.eq(v128.load(<usize>(<isize>q + among)), f32x4.splat(0))
}
/** Adds to four cells three quarters of what lies over them and a quarter of what is beside; nothing to what is solid. */
// @ts-ignore: decorator
@inline function raise(p: usize, inverse: usize, over: v128, beside: v128): void {
  const old = v128.load(p)
  const risen = f32x4.add(f32x4.add(old, f32x4.mul(f32x4.splat(0.75), over)), f32x4.mul(f32x4.splat(0.25), beside))
  v128.store(p, v128.bitselect(old, risen, f32x4.eq(v128.load(inverse), f32x4.splat(0))))
}
/** Adds the coarser grid's pressure to a plane, trilinearly; beside walls what is nearest, towards open sides none. Not into what is solid. */
export function prolongPlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL),
    c = <usize>load<u32>(l + LEVEL_COARSER)
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const cS = (<usize>load<i32>(c + LEVEL_ROW)) << 2,
    cP = (<usize>load<i32>(c + LEVEL_SLAB)) << 2
  const nx = load<i32>(c + LEVEL_DIMS),
    ny = load<i32>(c + LEVEL_DIMS + 4),
    nz = load<i32>(c + LEVEL_DIMS + 8)
  const open = load<u32>(g + GAS_OPEN),
    beyond = load<f32>(l + LEVEL_BEYOND)
  const left: f32 = open & 1 ? beyond : 1,
    right: f32 = open & 2 ? beyond : 1
  const p = <usize>load<u32>(l + LEVEL_PRESSURE) + <usize>k * P,
    inverse = <usize>load<u32>(l + LEVEL_INVERSE) + <usize>k * P
  const from = <usize>load<u32>(c + LEVEL_PRESSURE),
    among: isize = load<u32>(c + LEVEL_FACES) ? <isize>load<u32>(c + LEVEL_INVERSE) - <isize>from : 0
  const z0 = from + <usize>(k >> 1) * cP,
    z1 = from + <usize>other(k, nz) * cP,
    fz: f32 = (k == 0 && open & 16) || (k == 2 * nz - 1 && open & 32) ? beyond : 1
  for (let j = 0; j < 2 * ny; j++) {
    const y0 = <usize>(j >> 1) * cS,
      y1 = <usize>other(j, ny) * cS,
      fy: f32 = (j == 0 && open & 4) || (j == 2 * ny - 1 && open & 8) ? beyond : 1
    const a = z0 + y0,
      b = z0 + y1,
      d = z1 + y0,
      e = z1 + y1
    const wb = <f32>0.1875 * fy,
      wd = <f32>0.1875 * fz,
      we = <f32>0.0625 * fy * fz
    const fine = <usize>j * S
    // What lies before four cells, as the last of four; beyond a side what is here, or less.
    const first = mixed(a, b, d, e, wb, wd, we, among)
    let before = f32x4.mul(f32x4.splat(left), i32x4.shuffle(first, first, 0, 0, 0, 0)),
      wasSolid = f32x4.splat(0)
    for (let i = 0; i < nx; i += 4) {
      const n = (<usize>i) << 2
      const four = mixed(a + n, b + n, d + n, e + n, wb, wd, we, among)
      let next = mixed(a + n + 4, b + n + 4, d + n + 4, e + n + 4, wb, wd, we, among)
      let last = i32x4.shuffle(before, four, 3, 4, 5, 6)
      before = four
      if (among) {
        const solid = solidAt(a + n, among)
        last = v128.bitselect(four, last, i32x4.shuffle(wasSolid, solid, 3, 4, 5, 6))
        next = v128.bitselect(four, next, solidAt(a + n + 4, among))
        wasSolid = solid
      }
      if (i + 4 >= nx) next = atEnd(next, four, nx - 1 - i, right)
      const q = p + fine + (n << 1),
        free = inverse + fine + (n << 1)
      raise(q, free, i32x4.shuffle(four, four, 0, 0, 1, 1), i32x4.shuffle(last, next, 0, 4, 1, 5))
      if (i + 2 < nx) raise(q + 16, free + 16, i32x4.shuffle(four, four, 2, 2, 3, 3), i32x4.shuffle(last, next, 2, 6, 3, 7))
    }
  }
}
/** Beyond the last cell of a row lies what it has, or less. */
// @ts-ignore: decorator
@inline function atEnd(next: v128, four: v128, lane: i32, by: f32): v128 {
  const scaled = f32x4.mul(four, f32x4.splat(by))
  return v128.bitselect(scaled, next, i32x4.eq(i32x4(0, 1, 2, 3), i32x4.splat(lane)))
}
// @ts-ignore: decorator
@inline function toTable(g: usize, k: i32, most: v128): void {
  store<f32>(
    <usize>load<u32>(g + GAS_TABLE) + ((<usize>k) << 2),
    max(max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)), max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3))),
  )
}
/** The largest that is left to do in a plane, into the table. */
export function worstPlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const nx = load<i32>(l + LEVEL_DIMS),
    ny = load<i32>(l + LEVEL_DIMS + 4)
  const p = <usize>load<u32>(l + LEVEL_PRESSURE) + <usize>k * P,
    right = <usize>load<u32>(l + LEVEL_RIGHT) + <usize>k * P,
    inverse = <usize>load<u32>(l + LEVEL_INVERSE) + <usize>k * P
  let most = f32x4.splat(0)
  for (let j = 0; j < ny; j++)
    for (let o: usize = <usize>j * S, end = o + ((<usize>nx) << 2); o < end; o += 16)
      most = f32x4.pmax(most, f32x4.abs(residual(p, right, inverse, o, S, P)))
  toTable(g, k, most)
}
/**
 * What flows out of the cells of a plane too little: the right side of the pressure, with what expands. Its pressure begins at nothing, so that
 * the largest is what is left to do: into the table.
 */
export function divergencePlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const at = <usize>k * P
  const u = <usize>load<u32>(g + GAS_VELOCITY) + at,
    v = <usize>load<u32>(g + GAS_VELOCITY + 4) + at,
    w = <usize>load<u32>(g + GAS_VELOCITY + 8) + at
  const expand = <usize>load<u32>(g + GAS_EXPAND),
    voxel = f32x4.splat(load<f32>(g + GAS_VOXEL))
  const right = <usize>load<u32>(l + LEVEL_RIGHT) + at,
    p = <usize>load<u32>(l + LEVEL_PRESSURE) + at,
    inverse = <usize>load<u32>(l + LEVEL_INVERSE) + at
  const zero = f32x4.splat(0)
  let most = zero
  for (let j = 0; j < ny; j++)
    for (let o: usize = <usize>j * S, end = o + ((<usize>nx) << 2); o < end; o += 16) {
      let d = f32x4.add(
        f32x4.add(f32x4.sub(v128.load(u + o), v128.load(u + o + 4)), f32x4.sub(v128.load(v + o), v128.load(v + o + S))),
        f32x4.sub(v128.load(w + o), v128.load(w + o + P)),
      )
      if (expand) d = f32x4.add(d, f32x4.mul(voxel, v128.load(expand + at + o)))
      d = v128.andnot(d, f32x4.eq(v128.load(inverse + o), zero))
      most = f32x4.pmax(most, f32x4.abs(d))
      v128.store(right + o, d)
      v128.store(p + o, zero)
    }
  toTable(g, k, most)
}
// @ts-ignore: decorator
@inline function pressed(velocity: usize, p: usize, step: usize, fluid: usize, solid: usize): void {
  let out = f32x4.sub(v128.load(velocity), f32x4.sub(v128.load(p), v128.load(p - step)))
  if (fluid) {
    // Beside what is solid its own velocity holds.
    const free = v128.and(f32x4.gt(v128.load(fluid), f32x4.splat(0)), f32x4.gt(v128.load(fluid - step), f32x4.splat(0)))
    const held = f32x4.pmax(f32x4.sub(f32x4.splat(1), v128.load(fluid)), f32x4.splat(0))
    const own = v128.bitselect(v128.load(solid), v128.load(solid - step), f32x4.gt(held, f32x4.splat(0)))
    out = v128.bitselect(out, own, free)
  }
  v128.store(velocity, out)
}
/** Takes the pressure's slope from the faces of a plane. */
export function projectPlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8)
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const open = load<u32>(g + GAS_OPEN)
  const at = <usize>k * P
  const p = <usize>load<u32>(l + LEVEL_PRESSURE) + at
  const fluid = <usize>load<u32>(g + GAS_FLUID)
  const u = <usize>load<u32>(g + GAS_VELOCITY) + at,
    v = <usize>load<u32>(g + GAS_VELOCITY + 4) + at,
    w = <usize>load<u32>(g + GAS_VELOCITY + 8) + at
  const su = <usize>load<u32>(g + GAS_SOLID) + at,
    sv = <usize>load<u32>(g + GAS_SOLID + 4) + at,
    sw = <usize>load<u32>(g + GAS_SOLID + 8) + at
  const f = fluid ? fluid + at : 0
  for (let j = 0; j < ny; j++) {
    const base = <usize>j * S
    for (let o: usize = base, end = base + ((<usize>nx) << 2); o < end; o += 16) {
      const fo = f ? f + o : 0
      // The lower sides: open ones have pressure zero beyond, closed ones keep nothing.
      if (o == base && !(open & 1)) {
        pressed(u + o, p + o, 4, fo, su + o)
        store<f32>(u + o, 0)
      } else pressed(u + o, p + o, 4, fo, su + o)
      if (j > 0 || open & 4) pressed(v + o, p + o, S, fo, sv + o)
      else v128.store(v + o, f32x4.splat(0))
      if (k > 0 || open & 16) pressed(w + o, p + o, P, fo, sw + o)
      else v128.store(w + o, f32x4.splat(0))
    }
    // The upper sides lie in the cells around.
    const x = base + ((<usize>nx) << 2)
    store<f32>(u + x, open & 2 ? load<f32>(u + x) + load<f32>(p + x - 4) : <f32>0)
    if (k == nz - 1)
      for (let o: usize = base, end = x; o < end; o += 4)
        store<f32>(w + P + o, open & 32 ? load<f32>(w + P + o) + load<f32>(p + o) : <f32>0)
  }
  const top = <usize>ny * S
  for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 4)
    store<f32>(v + top + o, open & 8 ? load<f32>(v + top + o) + load<f32>(p + top - S + o) : <f32>0)
}
