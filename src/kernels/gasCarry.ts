// What particles feel of a gas: its velocity, and its grids where they are.
import { splat } from './gasSample'
import { col } from './columns'
import {
  GAS_CARRY_BACK,
  GAS_CARRY_GAS,
  GAS_CARRY_INTO,
  GAS_CARRY_RESPONSE,
  GAS_DIMS,
  GAS_LOW,
  GAS_ROW,
  GAS_SCALARS,
  GAS_SLAB,
  GAS_VELOCITY,
  GAS_VOXEL,
  LIMIT_GAS_FROM,
  LIMIT_GAS_GAS,
  LIMIT_GAS_GRID,
  LIMIT_GAS_INTO,
  LIMIT_GAS_OUTSIDE,
  LIMIT_GAS_TO,
  PX,
  PY,
  PZ,
  VX,
  VY,
  VZ,
} from './layout'

// @ts-ignore: decorator
@inline function along(m: usize, x: f32, y: f32, z: f32): f32 {
  return load<f32>(m) * x + load<f32>(m, 4) * y + load<f32>(m, 8) * z + load<f32>(m, 12)
}
/** A field at a place in cells, its first value at 0, between eight of them; the cells around belong to it. */
function at(g: usize, field: usize, x: f32, y: f32, z: f32): f32 {
  const i = <i32>Mathf.floor(x),
    j = <i32>Mathf.floor(y),
    k = <i32>Mathf.floor(z)
  const fx = x - <f32>i,
    fy = y - <f32>j,
    fz = z - <f32>k
  const S: isize = (<isize>load<i32>(g + GAS_ROW)) << 2,
    P: isize = (<isize>load<i32>(g + GAS_SLAB)) << 2
  const q = <usize>(<isize>field + ((<isize>i) << 2) + <isize>j * S + <isize>k * P),
    r = q + <usize>S,
    s = q + <usize>P,
    t = s + <usize>S
  const a = load<f32>(q) + (load<f32>(q, 4) - load<f32>(q)) * fx,
    b = load<f32>(r) + (load<f32>(r, 4) - load<f32>(r)) * fx,
    c = load<f32>(s) + (load<f32>(s, 4) - load<f32>(s)) * fx,
    d = load<f32>(t) + (load<f32>(t, 4) - load<f32>(t)) * fx
  const e = a + (b - a) * fy,
    f = c + (d - c) * fy
  return e + (f - e) * fz
}
/** Leads particles within the window of a gas to its velocity, by implicit Euler. Velocities lie on the lower faces of cells. */
export function gasCarry(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const g = <usize>load<u32>(op + GAS_CARRY_GAS)
  if (g == 0) return
  const u = <usize>load<u32>(g + GAS_VELOCITY),
    v = <usize>load<u32>(g + GAS_VELOCITY + 4),
    w = <usize>load<u32>(g + GAS_VELOCITY + 8)
  if (u == 0) return
  const per: f32 = 1 / load<f32>(g + GAS_VOXEL)
  const nx = <f32>load<i32>(g + GAS_DIMS),
    ny = <f32>load<i32>(g + GAS_DIMS + 4),
    nz = <f32>load<i32>(g + GAS_DIMS + 8)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin),
    vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const m = op + GAS_CARRY_INTO,
    back = op + GAS_CARRY_BACK
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const h = load<f32>(dts + o) * load<f32>(shares + o)
    if (!(h > 0)) continue
    const px0 = load<f32>(px + o),
      py0 = load<f32>(py + o),
      pz0 = load<f32>(pz + o)
    const x = (along(m, px0, py0, pz0) - load<f32>(g + GAS_LOW)) * per,
      y = (along(m + 16, px0, py0, pz0) - load<f32>(g + GAS_LOW + 4)) * per,
      z = (along(m + 32, px0, py0, pz0) - load<f32>(g + GAS_LOW + 8)) * per
    if (!(x >= 0 && y >= 0 && z >= 0 && x < nx && y < ny && z < nz)) continue
    const a = at(g, u, x, y - <f32>0.5, z - <f32>0.5),
      b = at(g, v, x - <f32>0.5, y, z - <f32>0.5),
      c = at(g, w, x - <f32>0.5, y - <f32>0.5, z)
    const r = h / (load<f32>(op + GAS_CARRY_RESPONSE) + h)
    const bx = load<f32>(vx + o),
      by = load<f32>(vy + o),
      bz = load<f32>(vz + o)
    store<f32>(vx + o, bx + r * (load<f32>(back) * a + load<f32>(back, 4) * b + load<f32>(back, 8) * c - bx))
    store<f32>(vy + o, by + r * (load<f32>(back, 12) * a + load<f32>(back, 16) * b + load<f32>(back, 20) * c - by))
    store<f32>(vz + o, bz + r * (load<f32>(back, 24) * a + load<f32>(back, 28) * b + load<f32>(back, 32) * c - bz))
  }
}
/** Of what starts at four places, the first value in `a` and the one beside it in `b`, along x between them. */
// @ts-ignore: decorator
@inline function pairs(field: usize, o0: u32, o1: u32, o2: u32, o3: u32, x: v128): v128 {
  const p = v128.load64_lane(field + <usize>o1, v128.load64_zero(field + <usize>o0), 1),
    q = v128.load64_lane(field + <usize>o3, v128.load64_zero(field + <usize>o2), 1)
  const a = i32x4.shuffle(p, q, 0, 2, 4, 6)
  return f32x4.add(a, f32x4.mul(f32x4.sub(i32x4.shuffle(p, q, 1, 3, 5, 7), a), x))
}
/** As `at`, of four places, number by number. */
function at4(field: usize, x: v128, y: v128, z: v128, S: i32, P: i32): v128 {
  const i = f32x4.floor(x),
    j = f32x4.floor(y),
    k = f32x4.floor(z)
  const offsets = i32x4.add(
    i32x4.shl(i32x4.trunc_sat_f32x4_s(i), 2),
    i32x4.add(i32x4.mul(i32x4.trunc_sat_f32x4_s(j), i32x4.splat(S)), i32x4.mul(i32x4.trunc_sat_f32x4_s(k), i32x4.splat(P))),
  )
  const o0 = i32x4.extract_lane(offsets, 0),
    o1 = i32x4.extract_lane(offsets, 1),
    o2 = i32x4.extract_lane(offsets, 2),
    o3 = i32x4.extract_lane(offsets, 3)
  const fx = f32x4.sub(x, i),
    fy = f32x4.sub(y, j),
    above = field + <usize>S,
    behind = field + <usize>P
  const a = pairs(field, o0, o1, o2, o3, fx),
    b = pairs(above, o0, o1, o2, o3, fx),
    c = pairs(behind, o0, o1, o2, o3, fx),
    d = pairs(behind + <usize>S, o0, o1, o2, o3, fx)
  const e = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fy)),
    f = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fy))
  return f32x4.add(e, f32x4.mul(f32x4.sub(f, e), f32x4.sub(z, k)))
}
// @ts-ignore: decorator
@inline function along4(m: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.add(f32x4.mul(v128.load32_splat(m), x), f32x4.mul(v128.load32_splat(m, 4), y)), f32x4.mul(v128.load32_splat(m, 8), z)),
    v128.load32_splat(m, 12),
  )
}
/** By a grid of a gas where they are, rising between two amounts. Outside of it, and without it, there is nothing. */
export function limitGas(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const g = <usize>load<u32>(op + LIMIT_GAS_GAS)
  const field = g ? <usize>load<u32>(g + GAS_SCALARS + ((<usize>load<i32>(op + LIMIT_GAS_GRID)) << 2)) : 0
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const m = op + LIMIT_GAS_INTO,
    one = splat(1),
    zero = splat(0),
    half = splat(0.5),
    from = splat(load<f32>(op + LIMIT_GAS_FROM)),
    over = splat(<f32>1 / (load<f32>(op + LIMIT_GAS_TO) - load<f32>(op + LIMIT_GAS_FROM)))
  const outside = load<u32>(op + LIMIT_GAS_OUTSIDE) == 1
  const S = field ? load<i32>(g + GAS_ROW) << 2 : 0,
    P = field ? load<i32>(g + GAS_SLAB) << 2 : 0
  const per = splat(field ? <f32>1 / load<f32>(g + GAS_VOXEL) : 0),
    nx = splat(field ? <f32>load<i32>(g + GAS_DIMS) : 0),
    ny = splat(field ? <f32>load<i32>(g + GAS_DIMS + 4) : 0),
    nz = splat(field ? <f32>load<i32>(g + GAS_DIMS + 8) : 0)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    let amount = zero
    if (field) {
      const px0 = v128.load(px + o),
        py0 = v128.load(py + o),
        pz0 = v128.load(pz + o)
      const x = f32x4.mul(f32x4.sub(along4(m, px0, py0, pz0), v128.load32_splat(g + GAS_LOW)), per),
        y = f32x4.mul(f32x4.sub(along4(m + 16, px0, py0, pz0), v128.load32_splat(g + GAS_LOW + 4)), per),
        z = f32x4.mul(f32x4.sub(along4(m + 32, px0, py0, pz0), v128.load32_splat(g + GAS_LOW + 8)), per)
      const inside = v128.and(
        v128.and(v128.and(f32x4.ge(x, zero), f32x4.ge(y, zero)), v128.and(f32x4.ge(z, zero), f32x4.lt(x, nx))),
        v128.and(f32x4.lt(y, ny), f32x4.lt(z, nz)),
      )
      if (v128.any_true(inside)) {
        // Those outside look at the first cell, and what they find there is left out.
        const value = at4(
          field,
          f32x4.sub(v128.and(x, inside), half),
          f32x4.sub(v128.and(y, inside), half),
          f32x4.sub(v128.and(z, inside), half),
          S,
          P,
        )
        amount = v128.and(f32x4.min(f32x4.max(f32x4.mul(f32x4.sub(value, from), over), zero), one), inside)
      }
    }
    v128.store(amounts + o, f32x4.mul(v128.load(amounts + o), outside ? f32x4.sub(one, amount) : amount))
  }
}
