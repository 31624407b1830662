// A velocity volume: what flows in a box, kept at the nodes of a grid.
import { col } from './columns'
import {
  CARRY_AXIS_X,
  CARRY_AXIS_Y,
  CARRY_AXIS_Z,
  CARRY_HALF,
  CARRY_INTO,
  CARRY_MAX,
  CARRY_PER_SOFT,
  CARRY_PUSHES,
  CARRY_RESPONSE,
  CARRY_VOLUME,
  JOB_COUNT,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  PX,
  PY,
  PZ,
  SCRATCH_BYTES,
  SCRATCH_DT,
  SCRATCH_STACK,
  VOLUME_BYTES,
  VOLUME_CELL,
  VOLUME_DIMS,
  VOLUME_INVERSE,
  VOLUME_LOW,
  VOLUME_OPS,
  VOLUME_OP_COUNT,
  VX,
  VY,
  VZ,
} from './layout'
import { fill, runOps } from './opBlock'

/** Nodes that are made at once, in columns as those of particles. */
const BLOCK: i32 = 256
/** Behind the six columns in a thread's scratch: the table of pointers to them. */
const TABLE: usize = SCRATCH_STACK + 6 * 1024

/** Fills the nodes of a volume, block by block from a shared counter: each op adds its velocity (m/s) to resting air for a second. */
export function fillVolume(job: usize, thread: i32): void {
  const d = <usize>load<u32>(job + JOB_RECORD),
    scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  const stop = <usize>load<u32>(job + JOB_STOP),
    total = load<i32>(job + JOB_COUNT)
  const nx = load<i32>(d + VOLUME_DIMS),
    ny = load<i32>(d + VOLUME_DIMS + 4)
  const cell = load<f32>(d + VOLUME_CELL),
    lx = load<f32>(d + VOLUME_LOW),
    ly = load<f32>(d + VOLUME_LOW + 4),
    lz = load<f32>(d + VOLUME_LOW + 8)
  const px = scratch + SCRATCH_STACK,
    py = px + 1024,
    pz = px + 2048,
    vx = px + 3072,
    vy = px + 4096,
    vz = px + 5120
  const columns = scratch + TABLE
  store<u32>(columns + (PX << 2), <u32>px)
  store<u32>(columns + (PY << 2), <u32>py)
  store<u32>(columns + (PZ << 2), <u32>pz)
  store<u32>(columns + (VX << 2), <u32>vx)
  store<u32>(columns + (VY << 2), <u32>vy)
  store<u32>(columns + (VZ << 2), <u32>vz)
  fill(scratch + SCRATCH_DT, 1)
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, BLOCK)
    if (begin >= total) return
    const n = min(BLOCK, total - begin)
    let i = begin % nx,
      j = (begin / nx) % ny,
      k = begin / (nx * ny)
    for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
      store<f32>(px + o, lx + cell * <f32>i)
      store<f32>(py + o, ly + cell * <f32>j)
      store<f32>(pz + o, lz + cell * <f32>k)
      if (++i == nx) {
        i = 0
        if (++j == ny) {
          j = 0
          k++
        }
      }
    }
    fill(vx, 0)
    fill(vy, 0)
    fill(vz, 0)
    runOps(<usize>load<u32>(d + VOLUME_OPS), load<i32>(d + VOLUME_OP_COUNT), columns, n, scratch, true)
    let out = d + VOLUME_BYTES + ((<usize>begin) << 4)
    for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4, out += 16) {
      store<f32>(out, load<f32>(vx + o))
      store<f32>(out, load<f32>(vy + o), 4)
      store<f32>(out, load<f32>(vz + o), 8)
      store<f32>(out, 0, 12)
    }
  }
}
// @ts-ignore: decorator
@inline function mix(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(t, f32x4.sub(b, a)))
}
/**
 * Leads particles to the velocity of a volume (trilinear between its nodes), or pushes them by it.
 */
export function carry(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const d = <usize>load<u32>(op + CARRY_VOLUME)
  const pushes = load<u32>(op + CARRY_PUSHES) == 1,
    response = load<f32>(op + CARRY_RESPONSE)
  const maximum = v128.bitselect(v128.load(op + CARRY_MAX), f32x4.splat(0), i32x4(-1, -1, -1, 0)),
    minimum = f32x4.neg(maximum)
  const hx = load<f32>(op + CARRY_HALF),
    hy = load<f32>(op + CARRY_HALF + 4),
    hz = load<f32>(op + CARRY_HALF + 8),
    soft = load<f32>(op + CARRY_PER_SOFT)
  const m = op + CARRY_INTO,
    ax = v128.load(op + CARRY_AXIS_X),
    ay = v128.load(op + CARRY_AXIS_Y),
    az = v128.load(op + CARRY_AXIS_Z)
  const nx = load<i32>(d + VOLUME_DIMS),
    ny = load<i32>(d + VOLUME_DIMS + 4),
    nz = load<i32>(d + VOLUME_DIMS + 8),
    inverse = load<f32>(d + VOLUME_INVERSE)
  const row = (<usize>nx) << 4,
    slab = row * <usize>ny
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin),
    vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 4) {
    const x = load<f32>(px + o),
      y = load<f32>(py + o),
      z = load<f32>(pz + o)
    const u = load<f32>(m) * x + load<f32>(m, 4) * y + load<f32>(m, 8) * z + load<f32>(m, 12)
    const v = load<f32>(m, 16) * x + load<f32>(m, 20) * y + load<f32>(m, 24) * z + load<f32>(m, 28)
    const w = load<f32>(m, 32) * x + load<f32>(m, 36) * y + load<f32>(m, 40) * z + load<f32>(m, 44)
    const inside = min(min(hx - abs(u), hy - abs(v)), hz - abs(w))
    if (!(inside > 0)) continue
    const e = min(inside * soft, <f32>1),
      amount = e * e * (<f32>3 - <f32>2 * e)
    const gx = min(max((u + hx) * inverse, <f32>0), <f32>(nx - 1) - <f32>0.001),
      gy = min(max((v + hy) * inverse, <f32>0), <f32>(ny - 1) - <f32>0.001),
      gz = min(max((w + hz) * inverse, <f32>0), <f32>(nz - 1) - <f32>0.001)
    const i = <i32>gx,
      j = <i32>gy,
      k = <i32>gz
    const fx = f32x4.splat(gx - <f32>i),
      fy = f32x4.splat(gy - <f32>j),
      fz = f32x4.splat(gz - <f32>k)
    const p = d + VOLUME_BYTES + <usize>k * slab + <usize>j * row + ((<usize>i) << 4),
      q = p + slab
    const a = mix(mix(v128.load(p), v128.load(p, 16), fx), mix(v128.load(p + row), v128.load(p + row, 16), fx), fy)
    const b = mix(mix(v128.load(q), v128.load(q, 16), fx), mix(v128.load(q + row), v128.load(q + row, 16), fx), fy)
    const own3 = f32x4.max(f32x4.min(mix(a, b, fz), maximum), minimum)
    const flow = f32x4.add(
      f32x4.add(f32x4.mul(ax, f32x4.splat(f32x4.extract_lane(own3, 0))), f32x4.mul(ay, f32x4.splat(f32x4.extract_lane(own3, 1)))),
      f32x4.mul(az, f32x4.splat(f32x4.extract_lane(own3, 2))),
    )
    const h = load<f32>(dts + o) * load<f32>(shares + o) * amount
    const r = h / (pushes ? max(response, <f32>1e-3) : response + max(h, <f32>1e-12)) // carrying is implicit Euler towards the field
    const bx = load<f32>(vx + o),
      by = load<f32>(vy + o),
      bz = load<f32>(vz + o)
    store<f32>(vx + o, bx + r * (f32x4.extract_lane(flow, 0) - (pushes ? <f32>0 : bx)))
    store<f32>(vy + o, by + r * (f32x4.extract_lane(flow, 1) - (pushes ? <f32>0 : by)))
    store<f32>(vz + o, bz + r * (f32x4.extract_lane(flow, 2) - (pushes ? <f32>0 : bz)))
  }
}
