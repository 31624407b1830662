// What particles feel of a gas: its velocity, and its grids where they are.
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
/** By a grid of a gas where they are, rising between two amounts. Outside of it, and without it, there is nothing. */
export function limitGas(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  const g = <usize>load<u32>(op + LIMIT_GAS_GAS)
  const field = g ? <usize>load<u32>(g + GAS_SCALARS + ((<usize>load<i32>(op + LIMIT_GAS_GRID)) << 2)) : 0
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const m = op + LIMIT_GAS_INTO,
    from = load<f32>(op + LIMIT_GAS_FROM),
    over: f32 = 1 / (load<f32>(op + LIMIT_GAS_TO) - from)
  const outside = load<u32>(op + LIMIT_GAS_OUTSIDE) == 1
  const per: f32 = field ? 1 / load<f32>(g + GAS_VOXEL) : 0
  const nx = field ? <f32>load<i32>(g + GAS_DIMS) : 0,
    ny = field ? <f32>load<i32>(g + GAS_DIMS + 4) : 0,
    nz = field ? <f32>load<i32>(g + GAS_DIMS + 8) : 0
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    let amount: f32 = 0
    if (field) {
      const px0 = load<f32>(px + o),
        py0 = load<f32>(py + o),
        pz0 = load<f32>(pz + o)
      const x = (along(m, px0, py0, pz0) - load<f32>(g + GAS_LOW)) * per,
        y = (along(m + 16, px0, py0, pz0) - load<f32>(g + GAS_LOW + 4)) * per,
        z = (along(m + 32, px0, py0, pz0) - load<f32>(g + GAS_LOW + 8)) * per
      if (x >= 0 && y >= 0 && z >= 0 && x < nx && y < ny && z < nz)
        amount = min(max((at(g, field, x - <f32>0.5, y - <f32>0.5, z - <f32>0.5) - from) * over, <f32>0), <f32>1)
    }
    store<f32>(amounts + o, load<f32>(amounts + o) * (outside ? 1 - amount : amount))
  }
}
