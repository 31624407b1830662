// What a moving object leaves behind it in the air.
import { col } from './columns'
import { profile } from './fields'
import { PX, PY, PZ, SCRATCH_DT, VX, VY, VZ, WAKE_BYTES, WAKE_COUNT, WAKE_FALLOFF, WAKE_PER_RADIUS, WAKE_RESPONSE } from './layout'

/** What the places of a wake do: weigh the forces behind them, lead velocities to theirs, or add theirs. */
const LIMITS: i32 = 0,
  LEADS: i32 = 1,
  FLOWS: i32 = 2
/**
 * A wake of places that an object had: each still has a part of the velocity that it had there. Of each place x, y, z, velocity u, v, w
 * (m/s), and what is left of it, 0 to 1. Where several overlap, their mean by what is left of each counts, and the strongest says how much.
 */
// @ts-ignore: decorator
@inline function follow(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, dts: usize, mode: i32): void {
  const count = load<i32>(op + WAKE_COUNT),
    near = v128.load32_splat(op + WAKE_PER_RADIUS),
    kind = load<i32>(op + WAKE_FALLOFF),
    response = v128.load32_splat(op + WAKE_RESPONSE)
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin),
    vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const one = f32x4.splat(1),
    zero = f32x4.splat(0),
    tiny = f32x4.splat(1e-12)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const x = v128.load(px + o),
      y = v128.load(py + o),
      z = v128.load(pz + o)
    let sum = zero,
      maximum = zero,
      su = zero,
      sv = zero,
      sw = zero
    for (let k = 0; k < count; k++) {
      const p = op + WAKE_BYTES + <usize>k * 28
      const dx = f32x4.sub(x, v128.load32_splat(p)),
        dy = f32x4.sub(y, v128.load32_splat(p + 4)),
        dz = f32x4.sub(z, v128.load32_splat(p + 8))
      const d = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)))
      const w = f32x4.mul(profile(kind, f32x4.sub(one, f32x4.mul(d, near))), v128.load32_splat(p + 24))
      sum = f32x4.add(sum, w)
      maximum = f32x4.pmax(maximum, w)
      su = f32x4.add(su, f32x4.mul(w, v128.load32_splat(p + 12)))
      sv = f32x4.add(sv, f32x4.mul(w, v128.load32_splat(p + 16)))
      sw = f32x4.add(sw, f32x4.mul(w, v128.load32_splat(p + 20)))
    }
    if (mode == LIMITS) {
      v128.store(amounts + o, f32x4.mul(v128.load(amounts + o), maximum))
      continue
    }
    const inverse = f32x4.div(one, f32x4.pmax(sum, tiny))
    const dt = f32x4.mul(f32x4.mul(v128.load(dts + o), v128.load(amounts + o)), maximum)
    const base = mode == FLOWS ? zero : one
    const k = mode == FLOWS ? dt : f32x4.div(dt, f32x4.add(response, f32x4.pmax(dt, tiny)))
    const u = v128.load(vx + o),
      v = v128.load(vy + o),
      w = v128.load(vz + o)
    v128.store(vx + o, f32x4.add(u, f32x4.mul(k, f32x4.sub(f32x4.mul(su, inverse), f32x4.mul(base, u)))))
    v128.store(vy + o, f32x4.add(v, f32x4.mul(k, f32x4.sub(f32x4.mul(sv, inverse), f32x4.mul(base, v)))))
    v128.store(vz + o, f32x4.add(w, f32x4.mul(k, f32x4.sub(f32x4.mul(sw, inverse), f32x4.mul(base, w)))))
  }
}

/** Leads particles to what is left of the object's motion. */
export function wake(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, dts: usize, scratch: usize): void {
  follow(columns, op, begin, n, amounts, dts, LEADS)
}
/** Adds the velocities themselves. */
export function wakeFlow(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, dts: usize, scratch: usize): void {
  follow(columns, op, begin, n, amounts, dts, FLOWS)
}
/** Limits the forces behind it to the wake. */
export function limitWake(columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {
  follow(columns, op, begin, n, amounts, scratch + SCRATCH_DT, LIMITS)
}
