// What pushes a gas and how much it holds: buoyancy, vorticity confinement (Fedkiw, Stam and Jensen 2001), forces, sums.
import {
  GAS_AIR,
  GAS_CURL,
  GAS_DIMS,
  GAS_DT,
  GAS_FORCES,
  GAS_LIFT,
  GAS_LOW,
  GAS_OPEN,
  GAS_OPS,
  GAS_OP_COUNT,
  GAS_PUSH,
  GAS_ROW,
  GAS_SCALARS,
  GAS_SLAB,
  GAS_TABLE,
  GAS_VELOCITY,
  GAS_VORTICITY,
  GAS_VOXEL,
  SCALAR_COUNT,
  GAS_WEIGHT,
  PX,
  SCRATCH_BEFORE,
  SCRATCH_DT,
  SCRATCH_ROW,
  VX,
} from './layout'
import { splat } from './gasSample'
import { fill, runOps } from './opBlock'

// @ts-ignore: decorator
@inline export function rowBytes(g: usize): usize {
  return (<usize>load<i32>(g + GAS_ROW)) << 2
}
// @ts-ignore: decorator
@inline export function slabBytes(g: usize): usize {
  return (<usize>load<i32>(g + GAS_SLAB)) << 2
}
/** Of a component of velocity the cells around the window, and the faces on its sides: nothing goes through what is closed; beside it, and where it is open, all is as just inside. */
export function border(g: usize, c: i32): void {
  const dims = g + GAS_DIMS,
    open = load<u32>(g + GAS_OPEN)
  const S = rowBytes(g),
    P = slabBytes(g)
  const field = <usize>load<u32>(g + GAS_VELOCITY + ((<usize>c) << 2))
  for (let a = 0; a < 3; a++) {
    const n = load<i32>(dims + ((<usize>a) << 2))
    const b = a == 0 ? 1 : 0,
      d = a == 2 ? 1 : 2
    const step: usize = a == 0 ? 4 : a == 1 ? S : P,
      sb: usize = b == 0 ? 4 : S,
      sd: usize = d == 1 ? S : P
    const nb = load<i32>(dims + ((<usize>b) << 2)),
      nd = load<i32>(dims + ((<usize>d) << 2))
    const lowOpen = (open >> (2 * a)) & 1,
      highOpen = (open >> (2 * a + 1)) & 1
    for (let q = -1; q <= nd; q++) {
      if (a > 0) {
        // Rows side by side.
        const at = field + <usize>(q * <i32>sd) - 4,
          high = at + <usize>n * step,
          bytes = (<usize>(nb + 2)) << 2
        if (c == a && lowOpen) memory.copy(at, at + step, bytes)
        else if (c == a) memory.fill(at, 0, bytes)
        memory.copy(at - step, at, bytes)
        if (c == a && !highOpen) memory.fill(high, 0, bytes)
        else memory.copy(high, high - step, bytes)
        continue
      }
      for (let r = -1; r <= nb; r++) {
        const at = field + <usize>(r * <i32>sb) + <usize>(q * <i32>sd)
        const high = at + <usize>n * step
        if (c == a) {
          store<f32>(at, lowOpen ? load<f32>(at + step) : <f32>0)
          store<f32>(at - step, load<f32>(at))
          store<f32>(high, highOpen ? load<f32>(high - step) : <f32>0)
        } else {
          store<f32>(at - step, load<f32>(at))
          store<f32>(high, load<f32>(high - step))
        }
      }
    }
  }
}
/** What pushes a plane as a step begins, with the cells around: nothing, or what forces do in the whole substep. */
export function beginPlane(g: usize, n: i32): void {
  const P = slabBytes(g),
    from = <usize>(n - 1) * P - rowBytes(g) - 4
  for (let a: usize = 0; a < 12; a += 4) {
    const to = <usize>load<u32>(g + GAS_FORCES + a) + from,
      push = <usize>load<u32>(g + GAS_PUSH + a)
    if (push) memory.copy(to, push + from, P)
    else memory.fill(to, 0, P)
  }
}
// @ts-ignore: decorator
@inline function slope(f: usize, along: usize, across: usize): v128 {
  return f32x4.mul(
    splat(0.25),
    f32x4.sub(
      f32x4.add(v128.load(f + across), v128.load(f + across + along)),
      f32x4.add(v128.load(f - across), v128.load(f - across + along)),
    ),
  )
}
/** Vorticity at the middles of the cells of a row, in velocities a cell, and how much there is. */
export function curlRow(g: usize, r: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const S = rowBytes(g),
    P = slabBytes(g)
  const base = <usize>(r % ny) * S + <usize>(r / ny) * P
  const u = <usize>load<u32>(g + GAS_VELOCITY) + base,
    v = <usize>load<u32>(g + GAS_VELOCITY + 4) + base,
    w = <usize>load<u32>(g + GAS_VELOCITY + 8) + base
  const cx = <usize>load<u32>(g + GAS_CURL) + base,
    cy = <usize>load<u32>(g + GAS_CURL + 4) + base,
    cz = <usize>load<u32>(g + GAS_CURL + 8) + base,
    much = <usize>load<u32>(g + GAS_CURL + 12) + base
  for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 16) {
    const x = f32x4.sub(slope(w + o, P, S), slope(v + o, S, P)),
      y = f32x4.sub(slope(u + o, 4, P), slope(w + o, P, 4)),
      z = f32x4.sub(slope(v + o, S, 4), slope(u + o, 4, S))
    v128.store(cx + o, x)
    v128.store(cy + o, y)
    v128.store(cz + o, z)
    v128.store(much + o, f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z))))
  }
}
/** Pushes round the middles of eddies, which the grid would wear down: ε (N × ω), m/s², onto what other forces left. */
export function confineRow(g: usize, r: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const S = rowBytes(g),
    P = slabBytes(g)
  const base = <usize>(r % ny) * S + <usize>(r / ny) * P
  const cx = <usize>load<u32>(g + GAS_CURL) + base,
    cy = <usize>load<u32>(g + GAS_CURL + 4) + base,
    cz = <usize>load<u32>(g + GAS_CURL + 8) + base,
    m = <usize>load<u32>(g + GAS_CURL + 12) + base
  const fx = <usize>load<u32>(g + GAS_FORCES) + base,
    fy = <usize>load<u32>(g + GAS_FORCES + 4) + base,
    fz = <usize>load<u32>(g + GAS_FORCES + 8) + base
  const much = splat(load<f32>(g + GAS_VORTICITY))
  for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 16) {
    const x = f32x4.sub(v128.load(m + o + 4), v128.load(m + o - 4)),
      y = f32x4.sub(v128.load(m + o + S), v128.load(m + o - S)),
      z = f32x4.sub(v128.load(m + o + P), v128.load(m + o - P))
    const l = f32x4.div(much, f32x4.add(f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z))), splat(1e-5)))
    const a = v128.load(cx + o),
      b = v128.load(cy + o),
      c = v128.load(cz + o)
    v128.store(fx + o, f32x4.add(v128.load(fx + o), f32x4.mul(l, f32x4.sub(f32x4.mul(y, c), f32x4.mul(z, b)))))
    v128.store(fy + o, f32x4.add(v128.load(fy + o), f32x4.mul(l, f32x4.sub(f32x4.mul(z, a), f32x4.mul(x, c)))))
    v128.store(fz + o, f32x4.add(v128.load(fz + o), f32x4.mul(l, f32x4.sub(f32x4.mul(x, b), f32x4.mul(y, a)))))
  }
}
/** How much lighter than the air it is, as a share of the air: hot gas is as much thinner as it is hotter. */
// @ts-ignore: decorator
@inline function lighter(heat: v128, air: v128): v128 {
  return f32x4.div(heat, f32x4.add(air, f32x4.pmax(heat, splat(0))))
}
/** What pushes the middles of cells goes to the faces between them; with the lift of what is hot and the weight of what is dense, along y. */
export function pushRow(g: usize, r: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const S = rowBytes(g),
    P = slabBytes(g)
  const j = r % ny,
    k = r / ny
  const base = <usize>j * S + <usize>k * P
  const u = <usize>load<u32>(g + GAS_VELOCITY) + base,
    v = <usize>load<u32>(g + GAS_VELOCITY + 4) + base,
    w = <usize>load<u32>(g + GAS_VELOCITY + 8) + base
  const fx = <usize>load<u32>(g + GAS_FORCES) + base,
    fy = <usize>load<u32>(g + GAS_FORCES + 4) + base,
    fz = <usize>load<u32>(g + GAS_FORCES + 8) + base
  const d = <usize>load<u32>(g + GAS_SCALARS) + base,
    t = <usize>load<u32>(g + GAS_SCALARS + 4) + base
  const h = splat(<f32>0.5 * load<f32>(g + GAS_DT)),
    lift = splat(load<f32>(g + GAS_LIFT)),
    air = splat(load<f32>(g + GAS_AIR)),
    weight = splat(load<f32>(g + GAS_WEIGHT))
  for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 16) {
    v128.store(u + o, f32x4.add(v128.load(u + o), f32x4.mul(h, f32x4.add(v128.load(fx + o), v128.load(fx + o - 4)))))
    const rise = f32x4.sub(
      f32x4.mul(lift, f32x4.add(lighter(v128.load(t + o), air), lighter(v128.load(t + o - S), air))),
      f32x4.mul(weight, f32x4.add(v128.load(d + o), v128.load(d + o - S))),
    )
    v128.store(v + o, f32x4.add(v128.load(v + o), f32x4.mul(h, f32x4.add(f32x4.add(v128.load(fy + o), v128.load(fy + o - S)), rise))))
    v128.store(w + o, f32x4.add(v128.load(w + o), f32x4.mul(h, f32x4.add(v128.load(fz + o), v128.load(fz + o - P)))))
  }
}
/** The highest speed in a plane along any axis, m/s, into the table. */
export function fastestPlane(g: usize, k: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const S = rowBytes(g),
    at = <usize>k * slabBytes(g)
  let most = splat(0)
  for (let c: usize = 0; c < 12; c += 4) {
    const f = <usize>load<u32>(g + GAS_VELOCITY + c) + at
    for (let j = 0; j < ny; j++)
      for (let o = <usize>j * S, end = o + ((<usize>nx) << 2); o < end; o += 16) most = f32x4.pmax(most, f32x4.abs(v128.load(f + o)))
  }
  store<f32>(
    <usize>load<u32>(g + GAS_TABLE) + ((<usize>k) << 2),
    max(max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)), max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3))),
  )
}
/** Cells that are pushed at once, as a block of particles in the thread's scratch; behind their columns the table of pointers. */
const TABLE: usize = 6 * 1024
/** The forces of particles, asked for at the middles of the cells of a row: what they do to the velocity there in the substep, m/s². */
export function opsRow(g: usize, r: i32, scratch: usize, room: usize): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const S = rowBytes(g),
    P = slabBytes(g)
  const j = r % ny,
    k = r / ny
  const base = <usize>j * S + <usize>k * P
  const dt = load<f32>(g + GAS_DT),
    voxel = load<f32>(g + GAS_VOXEL),
    perDt = splat(<f32>1 / dt)
  const table = room + TABLE
  memory.fill(table, 0, 256)
  for (let a: usize = 0; a < 3; a++) {
    store<u32>(table + ((<usize>PX + a) << 2), <u32>(room + a * 1024))
    store<u32>(table + ((<usize>VX + a) << 2), <u32>(room + (3 + a) * 1024))
  }
  const y = load<f32>(g + GAS_LOW + 4) + (<f32>j + <f32>0.5) * voxel,
    z = load<f32>(g + GAS_LOW + 8) + (<f32>k + <f32>0.5) * voxel
  const before = scratch + SCRATCH_BEFORE
  fill(scratch + SCRATCH_DT, dt)
  for (let begin = 0; begin < nx; begin += 256) {
    const n = min(256, nx - begin),
      bytes = (<usize>n) << 2
    for (let o: usize = 0; o < bytes; o += 4) {
      store<f32>(room + o, load<f32>(g + GAS_LOW) + (<f32>(begin + <i32>(o >> 2)) + <f32>0.5) * voxel)
      store<f32>(room + 1024 + o, y)
      store<f32>(room + 2048 + o, z)
    }
    const here = base + ((<usize>begin) << 2)
    for (let a: usize = 0; a < 3; a++) {
      const f = <usize>load<u32>(g + GAS_VELOCITY + (a << 2)) + here,
        step: usize = a == 0 ? 4 : a == 1 ? S : P
      for (let o: usize = 0; o < bytes; o += 16) {
        const m = f32x4.mul(splat(0.5), f32x4.add(v128.load(f + o), v128.load(f + step + o)))
        v128.store(room + (3 + a) * 1024 + o, m)
        v128.store(before + a * SCRATCH_ROW + o, m)
      }
    }
    runOps(<usize>load<u32>(g + GAS_OPS), load<i32>(g + GAS_OP_COUNT), table, n, scratch, false)
    for (let a: usize = 0; a < 3; a++) {
      const f = <usize>load<u32>(g + GAS_FORCES + (a << 2)) + here
      for (let o: usize = 0; o < bytes; o += 16)
        v128.store(f + o, f32x4.mul(perDt, f32x4.sub(v128.load(room + (3 + a) * 1024 + o), v128.load(before + a * SCRATCH_ROW + o))))
    }
  }
}
/** What a plane holds of each scalar, into the table as eight bytes each: rows are added in their order. */
export function sumPlane(g: usize, k: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const S = rowBytes(g),
    at = <usize>k * slabBytes(g)
  for (let n: usize = 0; n < SCALAR_COUNT; n++) {
    const field = <usize>load<u32>(g + GAS_SCALARS + (n << 2))
    let sum: f64 = 0
    if (field)
      for (let j = 0; j < ny; j++) {
        let four = splat(0)
        for (let o = field + at + <usize>j * S, end = o + ((<usize>nx) << 2); o < end; o += 16) four = f32x4.add(four, v128.load(o))
        sum +=
          <f64>f32x4.extract_lane(four, 0) +
          <f64>f32x4.extract_lane(four, 1) +
          (<f64>f32x4.extract_lane(four, 2) + <f64>f32x4.extract_lane(four, 3))
      }
    store<f64>(<usize>load<u32>(g + GAS_TABLE) + ((<usize>k * SCALAR_COUNT + n) << 3), sum)
  }
}
/** What leaves of a scalar through the open sides in a step, in cells, into the table. */
export function leaving(g: usize, n: usize): void {
  const dims = g + GAS_DIMS,
    open = load<u32>(g + GAS_OPEN)
  const S = rowBytes(g),
    P = slabBytes(g)
  const scale = load<f32>(g + GAS_DT) / load<f32>(g + GAS_VOXEL)
  const field = <usize>load<u32>(g + GAS_SCALARS + (n << 2))
  let sum: f64 = 0
  for (let a = 0; a < 3 && field; a++) {
    const count = load<i32>(dims + ((<usize>a) << 2)),
      velocity = <usize>load<u32>(g + GAS_VELOCITY + ((<usize>a) << 2))
    const b = a == 0 ? 1 : 0,
      d = a == 2 ? 1 : 2
    const step: usize = a == 0 ? 4 : a == 1 ? S : P,
      sb: usize = b == 0 ? 4 : S,
      sd: usize = d == 1 ? S : P
    const nb = load<i32>(dims + ((<usize>b) << 2)),
      nd = load<i32>(dims + ((<usize>d) << 2))
    for (let side = 0; side < 2; side++) {
      if (!((open >> (2 * a + side)) & 1)) continue
      const face: usize = side ? <usize>count * step : 0,
        cell: usize = side ? <usize>(count - 1) * step : 0
      for (let q = 0; q < nd; q++)
        for (let r = 0; r < nb; r++) {
          const o = <usize>r * sb + <usize>q * sd
          const out = (side ? load<f32>(velocity + face + o) : -load<f32>(velocity + face + o)) * scale
          if (out > 0) sum += <f64>(min(out, <f32>1) * load<f32>(field + cell + o))
        }
    }
  }
  store<f64>(<usize>load<u32>(g + GAS_TABLE) + (n << 3), sum)
}
/** Takes what a row holds of each scalar times a factor from the table. */
export function evenRow(g: usize, r: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const base = <usize>(r % ny) * rowBytes(g) + <usize>(r / ny) * slabBytes(g)
  for (let n: usize = 0; n < SCALAR_COUNT; n++) {
    const field = <usize>load<u32>(g + GAS_SCALARS + (n << 2)),
      by = load<f32>(<usize>load<u32>(g + GAS_TABLE) + (n << 2))
    if (field == 0 || by == 1) continue
    for (let o = field + base, end = o + ((<usize>nx) << 2); o < end; o += 16) v128.store(o, f32x4.mul(v128.load(o), splat(by)))
  }
}
