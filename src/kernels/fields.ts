// Forces that have a place: around an axis, towards or away from a point, along a path; and limits of speed.
import { col } from './columns'
import {
  PATH_BYTES,
  PATH_COUNT,
  PATH_FALLOFF,
  PATH_GATHER,
  PATH_PER_REACH,
  PATH_RESPONSE,
  PATH_SPEED,
  POINT_CENTRE,
  POINT_CORE,
  POINT_FALLOFF,
  POINT_FRONT,
  POINT_PER_HALF,
  POINT_PER_REACH,
  POINT_SQUARE,
  POINT_STRENGTH,
  PX,
  PY,
  PZ,
  SCRATCH_BEFORE,
  SCRATCH_ROW,
  SPEED_CLAMP_MAX,
  SPEED_CLAMP_MIN,
  SQUARE_DRAG_C,
  VORTEX_ALONG,
  VORTEX_AROUND,
  VORTEX_AXIS,
  VORTEX_CARRY,
  VORTEX_CENTRE,
  VORTEX_FALLOFF,
  VORTEX_HELD,
  VORTEX_PER_REACH,
  VORTEX_RESPONSE,
  VORTEX_TOWARDS,
  VX,
  VY,
  VZ,
} from './layout'

// @ts-ignore: decorator
@inline function word(at: usize): v128 {
  return v128.load32_splat(at)
}

/**
 * How strong a force still is: `y` is 1 at its middle and 0 at its reach. Kinds: 0 even up to the reach, 1 linear, 2 smooth (no corner
 * at either end), 3 steep (the square). Nothing beyond the reach.
 */
// @ts-ignore: decorator
@inline export function profile(kind: i32, y0: v128): v128 {
  const y = f32x4.pmax(f32x4.splat(0), y0)
  if (kind == 0) return v128.and(f32x4.gt(y, f32x4.splat(0)), f32x4.splat(1))
  if (kind == 1) return y
  if (kind == 3) return f32x4.mul(y, y)
  return f32x4.mul(f32x4.mul(y, y), f32x4.sub(f32x4.splat(3), f32x4.add(y, y)))
}

/** A falloff made fuller or hollower (Schlick 1994): a / (k (1 − a) + 1), k = 1/bias − 2, which is 0 at a bias of a half. */
// @ts-ignore: decorator
@inline export function biased(a: v128, k: v128): v128 {
  const one = f32x4.splat(1)
  return f32x4.div(a, f32x4.add(f32x4.mul(k, f32x4.sub(one, a)), one))
}

/**
 * Around an axis. Carry goes along chords of the circle, so
 * that a particle that is carried round an axis keeps its distance whatever the step.
 */
export function vortex(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const cx = word(op + VORTEX_CENTRE),
    cy = word(op + VORTEX_CENTRE + 4),
    cz = word(op + VORTEX_CENTRE + 8),
    ax = word(op + VORTEX_AXIS),
    ay = word(op + VORTEX_AXIS + 4),
    az = word(op + VORTEX_AXIS + 8),
    near = word(op + VORTEX_PER_REACH)
  const kind = load<i32>(op + VORTEX_FALLOFF)
  const carry = load<u32>(op + VORTEX_CARRY) == 1
  const spin = word(op + VORTEX_AROUND),
    pull = word(op + VORTEX_TOWARDS),
    lift = word(op + VORTEX_ALONG),
    response = word(op + VORTEX_RESPONSE),
    held = load<f32>(op + VORTEX_HELD)
  const one = f32x4.splat(1),
    tiny = f32x4.splat(1e-9)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const qx = f32x4.sub(v128.load(px + o), cx),
      qy = f32x4.sub(v128.load(py + o), cy),
      qz = f32x4.sub(v128.load(pz + o), cz)
    const h = f32x4.add(f32x4.add(f32x4.mul(qx, ax), f32x4.mul(qy, ay)), f32x4.mul(qz, az))
    const rx = f32x4.sub(qx, f32x4.mul(ax, h)),
      ry = f32x4.sub(qy, f32x4.mul(ay, h)),
      rz = f32x4.sub(qz, f32x4.mul(az, h))
    const r = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(rx, rx), f32x4.mul(ry, ry)), f32x4.mul(rz, rz)))
    const inverse = f32x4.div(one, f32x4.pmax(r, tiny))
    const ux = f32x4.mul(rx, inverse),
      uy = f32x4.mul(ry, inverse),
      uz = f32x4.mul(rz, inverse)
    const tx = f32x4.sub(f32x4.mul(ay, uz), f32x4.mul(az, uy)),
      ty = f32x4.sub(f32x4.mul(az, ux), f32x4.mul(ax, uz)),
      tz = f32x4.sub(f32x4.mul(ax, uy), f32x4.mul(ay, ux))
    const amount = profile(kind, f32x4.sub(one, f32x4.mul(r, near)))
    const dt = v128.load(dts + o)
    const w = f32x4.mul(f32x4.mul(dt, v128.load(shares + o)), amount)
    const u = v128.load(vx + o),
      v = v128.load(vy + o),
      z = v128.load(vz + o)
    if (carry) {
      // m = tan(a quarter of the angle of this step); the chord leaves at half of that angle inwards.
      const m = f32x4.pmin(one, f32x4.pmax(f32x4.splat(-1), f32x4.mul(f32x4.mul(spin, dt), f32x4.mul(f32x4.splat(0.25), inverse))))
      const mm = f32x4.mul(m, m)
      const k1 = f32x4.div(one, f32x4.add(one, mm))
      const across = f32x4.mul(spin, f32x4.mul(f32x4.mul(f32x4.sub(one, mm), k1), k1))
      let inward = f32x4.add(pull, f32x4.mul(spin, f32x4.mul(f32x4.mul(f32x4.add(m, m), k1), k1)))
      if (held >= 0) {
        // Beside what leads to the radius, what the bend of the way needs: v²/r, which the response turns into a speed.
        const s = f32x4.add(f32x4.add(f32x4.mul(u, tx), f32x4.mul(v, ty)), f32x4.mul(z, tz))
        inward = f32x4.add(
          inward,
          f32x4.add(
            f32x4.div(f32x4.sub(r, f32x4.splat(held)), f32x4.pmax(f32x4.add(response, dt), tiny)),
            f32x4.mul(response, f32x4.div(f32x4.mul(s, s), f32x4.pmax(r, f32x4.splat(0.5 * held + 1e-6)))),
          ),
        )
      }
      const gx = f32x4.add(f32x4.sub(f32x4.mul(tx, across), f32x4.mul(ux, inward)), f32x4.mul(ax, lift))
      const gy = f32x4.add(f32x4.sub(f32x4.mul(ty, across), f32x4.mul(uy, inward)), f32x4.mul(ay, lift))
      const gz = f32x4.add(f32x4.sub(f32x4.mul(tz, across), f32x4.mul(uz, inward)), f32x4.mul(az, lift))
      const k = f32x4.div(w, f32x4.add(response, f32x4.pmax(w, f32x4.splat(1e-12))))
      v128.store(vx + o, f32x4.add(u, f32x4.mul(k, f32x4.sub(gx, u))))
      v128.store(vy + o, f32x4.add(v, f32x4.mul(k, f32x4.sub(gy, v))))
      v128.store(vz + o, f32x4.add(z, f32x4.mul(k, f32x4.sub(gz, z))))
    } else {
      v128.store(vx + o, f32x4.add(u, f32x4.mul(w, f32x4.add(f32x4.sub(f32x4.mul(tx, spin), f32x4.mul(ux, pull)), f32x4.mul(ax, lift)))))
      v128.store(vy + o, f32x4.add(v, f32x4.mul(w, f32x4.add(f32x4.sub(f32x4.mul(ty, spin), f32x4.mul(uy, pull)), f32x4.mul(ay, lift)))))
      v128.store(vz + o, f32x4.add(z, f32x4.mul(w, f32x4.add(f32x4.sub(f32x4.mul(tz, spin), f32x4.mul(uz, pull)), f32x4.mul(az, lift)))))
    }
  }
}

/**
 * Towards a point, or away with a negative strength. With the square law the strength is that at one metre, before the core softens it;
 * with a front the force works in that alone.
 */
export function point(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const cx = word(op + POINT_CENTRE),
    cy = word(op + POINT_CENTRE + 4),
    cz = word(op + POINT_CENTRE + 8),
    strength = word(op + POINT_STRENGTH),
    near = word(op + POINT_PER_REACH)
  const kind = load<i32>(op + POINT_FALLOFF)
  const square = load<u32>(op + POINT_SQUARE) == 1
  const core = word(op + POINT_CORE),
    front = word(op + POINT_FRONT),
    thin = load<f32>(op + POINT_PER_HALF)
  const one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const x = f32x4.sub(cx, v128.load(px + o)),
      y = f32x4.sub(cy, v128.load(py + o)),
      z = f32x4.sub(cz, v128.load(pz + o))
    const dd = f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z))
    const d = f32x4.sqrt(dd)
    let a = f32x4.mul(strength, profile(kind, f32x4.sub(one, f32x4.mul(d, near))))
    if (square) a = f32x4.div(a, f32x4.pmax(f32x4.add(dd, core), f32x4.splat(1e-12)))
    if (thin > 0) a = f32x4.mul(a, profile(2, f32x4.sub(one, f32x4.mul(f32x4.abs(f32x4.sub(d, front)), f32x4.splat(thin)))))
    const w = f32x4.div(f32x4.mul(f32x4.mul(v128.load(dts + o), v128.load(shares + o)), a), f32x4.pmax(d, f32x4.splat(1e-9)))
    v128.store(vx + o, f32x4.add(v128.load(vx + o), f32x4.mul(w, x)))
    v128.store(vy + o, f32x4.add(v128.load(vy + o), f32x4.mul(w, y)))
    v128.store(vz + o, f32x4.add(v128.load(vz + o), f32x4.mul(w, z)))
  }
}

/**
 * Along a path of straight pieces. Each particle goes by the place of the path nearest to it; behind the last point it goes
 * on towards that. Leads the velocity there with an implicit Euler step.
 */
export function path(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const count = load<i32>(op + PATH_COUNT)
  const speed = word(op + PATH_SPEED),
    near = word(op + PATH_PER_REACH)
  const kind = load<i32>(op + PATH_FALLOFF)
  const response = word(op + PATH_RESPONSE),
    gather = word(op + PATH_GATHER)
  const points = op + PATH_BYTES
  const one = f32x4.splat(1),
    zero = f32x4.splat(0),
    tiny = f32x4.splat(1e-12)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const x = v128.load(px + o),
      y = v128.load(py + o),
      z = v128.load(pz + o)
    let best = f32x4.splat(1e30),
      bx = zero,
      by = zero,
      bz = zero,
      tx = zero,
      ty = zero,
      tz = zero
    for (let k = 0; k + 1 < count; k++) {
      const a = points + <usize>k * 12
      const ax = word(a),
        ay = word(a + 4),
        az = word(a + 8)
      const ex = f32x4.sub(word(a + 12), ax),
        ey = f32x4.sub(word(a + 16), ay),
        ez = f32x4.sub(word(a + 20), az)
      const qx = f32x4.sub(x, ax),
        qy = f32x4.sub(y, ay),
        qz = f32x4.sub(z, az)
      const ee = f32x4.pmax(tiny, f32x4.add(f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey)), f32x4.mul(ez, ez)))
      const s = f32x4.pmin(
        one,
        f32x4.pmax(zero, f32x4.div(f32x4.add(f32x4.add(f32x4.mul(qx, ex), f32x4.mul(qy, ey)), f32x4.mul(qz, ez)), ee)),
      )
      const dx = f32x4.sub(f32x4.mul(ex, s), qx),
        dy = f32x4.sub(f32x4.mul(ey, s), qy),
        dz = f32x4.sub(f32x4.mul(ez, s), qz)
      const dd = f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz))
      const closer = f32x4.lt(dd, best)
      const unit = f32x4.div(one, f32x4.sqrt(ee))
      best = v128.bitselect(dd, best, closer)
      bx = v128.bitselect(dx, bx, closer)
      by = v128.bitselect(dy, by, closer)
      bz = v128.bitselect(dz, bz, closer)
      tx = v128.bitselect(f32x4.mul(ex, unit), tx, closer)
      ty = v128.bitselect(f32x4.mul(ey, unit), ty, closer)
      tz = v128.bitselect(f32x4.mul(ez, unit), tz, closer)
    }
    const dt = v128.load(dts + o)
    const w = f32x4.mul(f32x4.mul(dt, v128.load(shares + o)), profile(kind, f32x4.sub(one, f32x4.mul(f32x4.sqrt(best), near))))
    const k = f32x4.div(w, f32x4.add(response, f32x4.pmax(w, tiny)))
    const back = f32x4.div(one, f32x4.pmax(tiny, f32x4.add(gather, dt)))
    const u = v128.load(vx + o),
      v = v128.load(vy + o),
      q = v128.load(vz + o)
    v128.store(vx + o, f32x4.add(u, f32x4.mul(k, f32x4.sub(f32x4.add(f32x4.mul(tx, speed), f32x4.mul(bx, back)), u))))
    v128.store(vy + o, f32x4.add(v, f32x4.mul(k, f32x4.sub(f32x4.add(f32x4.mul(ty, speed), f32x4.mul(by, back)), v))))
    v128.store(vz + o, f32x4.add(q, f32x4.mul(k, f32x4.sub(f32x4.add(f32x4.mul(tz, speed), f32x4.mul(bz, back)), q))))
  }
}

/** Not slower and not faster than two bounds. What stands still has no direction and stays. */
export function speedClamp(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const minimum = word(op + SPEED_CLAMP_MIN),
    maximum = word(op + SPEED_CLAMP_MAX)
  const one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const u = v128.load(vx + o),
      v = v128.load(vy + o),
      w = v128.load(vz + o)
    const s = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)), f32x4.mul(w, w)))
    const moving = f32x4.gt(s, f32x4.splat(1e-6))
    const wanted = f32x4.pmin(maximum, f32x4.pmax(minimum, s))
    const factor = v128.bitselect(f32x4.div(wanted, s), one, moving)
    const k = f32x4.add(one, f32x4.mul(v128.load(shares + o), f32x4.sub(factor, one)))
    v128.store(vx + o, f32x4.mul(u, k))
    v128.store(vy + o, f32x4.mul(v, k))
    v128.store(vz + o, f32x4.mul(w, k))
  }
}

/** One over 1 + c·|v|·h: what a drag by the square of the speed leaves of a velocity, exact by itself. */
// @ts-ignore: decorator
@inline function slowed(u: v128, v: v128, w: v128, c: v128, h: v128): v128 {
  const s = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)), f32x4.mul(w, w)))
  return f32x4.div(f32x4.splat(1), f32x4.add(f32x4.splat(1), f32x4.mul(f32x4.mul(c, s), h)))
}
/**
 * Drag that grows with the square of the speed: half of it on the velocity as the substep began, the forces' change, the other half
 * (Strang 1968). Behind all other forces.
 */
export function squareDrag(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const before = scratch + SCRATCH_BEFORE
  const c = word(op + SQUARE_DRAG_C),
    half = f32x4.splat(0.5)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const h = f32x4.mul(half, f32x4.mul(v128.load(dts + o), v128.load(shares + o)))
    const u0 = v128.load(before + o),
      v0 = v128.load(before + SCRATCH_ROW + o),
      w0 = v128.load(before + 2 * SCRATCH_ROW + o)
    const k0 = slowed(u0, v0, w0, c, h)
    const u = f32x4.add(f32x4.mul(u0, k0), f32x4.sub(v128.load(vx + o), u0)),
      v = f32x4.add(f32x4.mul(v0, k0), f32x4.sub(v128.load(vy + o), v0)),
      w = f32x4.add(f32x4.mul(w0, k0), f32x4.sub(v128.load(vz + o), w0))
    const k = slowed(u, v, w, c, h)
    v128.store(vx + o, f32x4.mul(u, k))
    v128.store(vy + o, f32x4.mul(v, k))
    v128.store(vz + o, f32x4.mul(w, k))
  }
}
