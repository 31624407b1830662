// The pressure that takes the divergence out of a gas: geometric multigrid with red and black over-relaxation. A colour reads only the other,
// so the order of planes does not show in the result. Rows are worked through in fours: what lies beyond their end counts as solid and stays nothing.
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
  LEVEL_EDGE,
  LEVEL_FLUID,
  LEVEL_INVERSE,
  LEVEL_PRESSURE,
  LEVEL_RIGHT,
  LEVEL_ROW,
  LEVEL_SLAB,
  LEVEL_SWEEPS,
  LEVEL_THICK,
} from './layout'

/** Over-relaxation: the best of 1.0 to 1.3 on a closed box, by tries. */
const OVER: f32 = 1.15

/** One colour of one plane. */
function plane(l: usize, k: i32, colour: i32): void {
  const nx = load<i32>(l + LEVEL_DIMS),
    ny = load<i32>(l + LEVEL_DIMS + 4)
  const S = (<usize>load<i32>(l + LEVEL_ROW)) << 2,
    P = (<usize>load<i32>(l + LEVEL_SLAB)) << 2
  const p = <usize>load<u32>(l + LEVEL_PRESSURE) + <usize>k * P,
    right = <usize>load<u32>(l + LEVEL_RIGHT) + <usize>k * P,
    inverse = <usize>load<u32>(l + LEVEL_INVERSE) + <usize>k * P
  const even = f32x4(OVER, 0, OVER, 0),
    odd = f32x4(0, OVER, 0, OVER)
  for (let j = 0; j < ny; j++) {
    const base = <usize>j * S
    const mask = (j + k + colour) & 1 ? odd : even
    // Neighbours along the row come from vectors that are there already: a load across what was just stored waits for it. Cells beside are of
    // the other colour, so they are the same before and behind.
    let before = v128.load(p + base - 16),
      here = v128.load(p + base)
    for (let o: usize = base, end = base + ((<usize>nx) << 2); o < end; o += 16) {
      const q = p + o
      const next = v128.load(q + 16)
      const sum = f32x4.add(
        f32x4.add(
          f32x4.add(i32x4.shuffle(before, here, 3, 4, 5, 6), i32x4.shuffle(here, next, 1, 2, 3, 4)),
          f32x4.add(v128.load(q - S), v128.load(q + S)),
        ),
        f32x4.add(f32x4.add(v128.load(q - P), v128.load(q + P)), v128.load(right + o)),
      )
      v128.store(q, f32x4.add(here, f32x4.mul(mask, f32x4.sub(f32x4.mul(sum, v128.load(inverse + o)), here))))
      before = here
      here = next
    }
  }
}
/** A slab of planes, black one plane behind red; its first and last black planes wait for its neighbours. One that is the whole grid is swept as often as it says. */
export function relaxSlab(g: usize, t: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  const thick = load<i32>(l + LEVEL_THICK)
  const nz = load<i32>(l + LEVEL_DIMS + 8),
    first = t * thick,
    end = min(first + thick, nz)
  if (thick >= nz)
    for (let n = load<i32>(l + LEVEL_SWEEPS); n > 0; n--) {
      for (let k = 0; k < nz; k++) {
        plane(l, k, 0)
        if (k > 0) plane(l, k - 1, 1)
      }
      plane(l, nz - 1, 1)
    }
  else
    for (let k = first; k < end; k++) {
      plane(l, k, 0)
      if (k - 1 > first) plane(l, k - 1, 1)
    }
}
/** The black planes that waited. */
export function seamSlab(g: usize, t: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
  const thick = load<i32>(l + LEVEL_THICK)
  const first = t * thick,
    end = min(first + thick, load<i32>(l + LEVEL_DIMS + 8))
  plane(l, first, 1)
  if (end - 1 > first) plane(l, end - 1, 1)
}
/** Four cells of what is left to do. */
// @ts-ignore: decorator
@inline function residual(p: usize, right: usize, inverse: usize, o: usize, S: usize, P: usize): v128 {
  const q = p + o
  const inv = v128.load(inverse + o),
    zero = f32x4.splat(0)
  const sum = f32x4.add(
    f32x4.add(f32x4.add(v128.load(q - 4), v128.load(q + 4)), f32x4.add(v128.load(q - S), v128.load(q + S))),
    f32x4.add(f32x4.add(v128.load(q - P), v128.load(q + P)), v128.load(right + o)),
  )
  const solid = f32x4.eq(inv, zero)
  return v128.andnot(f32x4.sub(sum, f32x4.div(v128.load(q), v128.bitselect(f32x4.splat(1), inv, solid))), solid)
}
/** Of four rows beside each other. */
// @ts-ignore: decorator
@inline function eight(p: usize, right: usize, inverse: usize, o: usize, S: usize, P: usize): v128 {
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
      const near = eight(p, right, inverse, o, S, P),
        far = eight(p, right, inverse, o + 16, S, P)
      const at = (<usize>i) << 2
      v128.store(
        row + at,
        f32x4.mul(f32x4.splat(0.5), f32x4.add(i32x4.shuffle(near, far, 0, 2, 4, 6), i32x4.shuffle(near, far, 1, 3, 5, 7))),
      )
      v128.store(nothing + at, f32x4.splat(0))
    }
    for (; i < nx; i += 2) {
      const sum = eight(p, right, inverse, base + ((<usize>i) << 3), S, P),
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
/** Four cells of a coarser row, between its neighbours across. */
// @ts-ignore: decorator
@inline function mixed(a: usize, b: usize, d: usize, e: usize, wb: f32, wd: f32, we: f32): v128 {
  return f32x4.add(
    f32x4.add(
      f32x4.add(f32x4.mul(f32x4.splat(0.5625), v128.load(a)), f32x4.mul(f32x4.splat(wb), v128.load(b))),
      f32x4.mul(f32x4.splat(wd), v128.load(d)),
    ),
    f32x4.mul(f32x4.splat(we), v128.load(e)),
  )
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
  const from = <usize>load<u32>(c + LEVEL_PRESSURE)
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
    let here = <f32>0.5625 * load<f32>(a) + wb * load<f32>(b) + wd * load<f32>(d) + we * load<f32>(e)
    let last = left * here
    let i = 0
    for (; i + 4 < nx; i += 4) {
      const n = (<usize>i) << 2
      const four = mixed(a + n, b + n, d + n, e + n, wb, wd, we),
        next = mixed(a + n + 4, b + n + 4, d + n + 4, e + n + 4, wb, wd, we)
      const before = i32x4.shuffle(f32x4.splat(last), four, 0, 4, 5, 6)
      const q = p + fine + (n << 1),
        free = inverse + fine + (n << 1)
      raise(q, free, i32x4.shuffle(four, four, 0, 0, 1, 1), i32x4.shuffle(before, next, 0, 4, 1, 5))
      raise(q + 16, free + 16, i32x4.shuffle(four, four, 2, 2, 3, 3), i32x4.shuffle(before, next, 2, 6, 3, 7))
      last = f32x4.extract_lane(four, 3)
      here = f32x4.extract_lane(next, 3)
    }
    for (; i < nx; i++) {
      const n: usize = (<usize>(i + 1)) << 2
      const next =
        i + 1 < nx ? <f32>0.5625 * load<f32>(a + n) + wb * load<f32>(b + n) + wd * load<f32>(d + n) + we * load<f32>(e + n) : right * here
      const o = fine + ((<usize>i) << 3)
      if (load<f32>(inverse + o) != 0) store<f32>(p + o, load<f32>(p + o) + <f32>0.75 * here + <f32>0.25 * last)
      if (load<f32>(inverse + o + 4) != 0) store<f32>(p + o + 4, load<f32>(p + o + 4) + <f32>0.75 * here + <f32>0.25 * next)
      last = here
      here = next
    }
  }
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
/** One over how many neighbours of a cell are not solid: those along its row, and the others. */
// @ts-ignore: decorator
@inline function weight(left: f32, right: f32, others: f32, isFree: bool): f32 {
  const n = left + right + others
  return isFree && n > 0 ? <f32>1 / n : <f32>0
}
/** How many neighbours of the cells of a plane are not solid. Beyond an open side there is gas without pressure. */
export function weighPlane(g: usize, k: i32): void {
  const l = <usize>load<u32>(g + GAS_LEVEL)
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
