// Towards a straight piece of a line.
import { col } from './columns'
import { profile } from './fields'
import {
  PX,
  PY,
  PZ,
  SEGMENT_FALLOFF,
  SEGMENT_FROM,
  SEGMENT_PER_LENGTH,
  SEGMENT_PER_REACH,
  SEGMENT_SPAN,
  SEGMENT_STRENGTH,
  VX,
  VY,
  VZ,
} from './layout'
import { dot } from './vector'

/** Towards the nearest point of a segment, or away with a negative strength; beyond its ends towards the end. */
export function segment(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const ax = v128.load32_splat(op + SEGMENT_FROM),
    ay = v128.load32_splat(op + SEGMENT_FROM, 4),
    az = v128.load32_splat(op + SEGMENT_FROM, 8)
  const sx = v128.load32_splat(op + SEGMENT_SPAN),
    sy = v128.load32_splat(op + SEGMENT_SPAN, 4),
    sz = v128.load32_splat(op + SEGMENT_SPAN, 8)
  const perLength = v128.load32_splat(op + SEGMENT_PER_LENGTH),
    strength = v128.load32_splat(op + SEGMENT_STRENGTH),
    perReach = v128.load32_splat(op + SEGMENT_PER_REACH)
  const kind = load<i32>(op + SEGMENT_FALLOFF)
  const zero = f32x4.splat(0),
    one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const x = f32x4.sub(v128.load(px + o), ax),
      y = f32x4.sub(v128.load(py + o), ay),
      z = f32x4.sub(v128.load(pz + o), az)
    // The share of the way from one end to the other at which the segment is nearest.
    const s = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(dot(x, y, z, sx, sy, sz), perLength)))
    const dx = f32x4.sub(f32x4.mul(s, sx), x),
      dy = f32x4.sub(f32x4.mul(s, sy), y),
      dz = f32x4.sub(f32x4.mul(s, sz), z)
    const d = f32x4.sqrt(dot(dx, dy, dz, dx, dy, dz))
    const a = f32x4.mul(strength, profile(kind, f32x4.sub(one, f32x4.mul(d, perReach))))
    const w = f32x4.div(f32x4.mul(f32x4.mul(v128.load(dts + o), v128.load(shares + o)), a), f32x4.pmax(d, f32x4.splat(1e-9)))
    v128.store(vx + o, f32x4.add(v128.load(vx + o), f32x4.mul(w, dx)))
    v128.store(vy + o, f32x4.add(v128.load(vy + o), f32x4.mul(w, dy)))
    v128.store(vz + o, f32x4.add(v128.load(vz + o), f32x4.mul(w, dz)))
  }
}
