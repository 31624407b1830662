// Forces that have a place: around an axis, towards or away from a point, along a path; and limits of speed.
import { OP_OWN, PX, PY, PZ, VX, VY, VZ } from './layout'

// @ts-ignore: decorator
@inline function col(columns: usize, c: i32, begin: i32): usize {
  return <usize>load<u32>(columns + ((<usize>c) << 2)) + ((<usize>begin) << 2)
}
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
 * Around an axis. Own words: a point of the axis, its direction (unit), 1/reach, falloff, mode (0 push, 1 carry), round it, towards it,
 * along it (m/s² for push, m/s for carry), response (s), radius that is held (m, below 0: none). Carry goes along chords of the circle, so
 * that a particle that is carried round an axis keeps its distance whatever the step.
 */
export function vortex(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize): void {
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const own = op + OP_OWN
  const cx = word(own),
    cy = word(own + 4),
    cz = word(own + 8),
    ax = word(own + 12),
    ay = word(own + 16),
    az = word(own + 20),
    near = word(own + 24)
  const kind = load<i32>(own + 28)
  const carry = load<u32>(own + 32) == 1
  const spin = word(own + 36),
    pull = word(own + 40),
    lift = word(own + 44),
    response = word(own + 48),
    held = load<f32>(own + 52)
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
 * Towards a point, or away with a negative strength. Own words: the point, strength (m/s²; with the square law at one metre, before the
 * core), 1/reach, falloff, law (0 by the falloff alone, 1 by the square of the distance too), core² (m²: softens the square law), radius of
 * a front (m) and 1/its half thickness (0: no front; the force works in the front alone, smoothly).
 */
export function point(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize): void {
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const own = op + OP_OWN
  const cx = word(own),
    cy = word(own + 4),
    cz = word(own + 8),
    strength = word(own + 12),
    near = word(own + 16)
  const kind = load<i32>(own + 20)
  const square = load<u32>(own + 24) == 1
  const core = word(own + 28),
    front = word(own + 32),
    thin = load<f32>(own + 36)
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
 * Along a path of straight pieces. Own words: points, speed along it (m/s), 1/reach, falloff, response (s), time in which the distance to
 * it is made up (s), then x, y, z of each point. Each particle goes by the place of the path nearest to it; behind the last point it goes
 * on towards that. Leads the velocity there with an implicit Euler step.
 */
export function path(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize): void {
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const own = op + OP_OWN
  const count = load<i32>(own)
  const speed = word(own + 4),
    near = word(own + 8)
  const kind = load<i32>(own + 12)
  const response = word(own + 16),
    gather = word(own + 20)
  const points = own + 24
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

/** Not slower and not faster than this. Own words: least and most speed (m/s). What stands still has no direction and stays. */
export function pace(columns: usize, op: usize, begin: i32, n: i32, shares: usize): void {
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const least = word(op + OP_OWN),
    most = word(op + OP_OWN + 4)
  const one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const u = v128.load(vx + o),
      v = v128.load(vy + o),
      w = v128.load(vz + o)
    const s = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)), f32x4.mul(w, w)))
    const moving = f32x4.gt(s, f32x4.splat(1e-6))
    const wanted = f32x4.pmin(most, f32x4.pmax(least, s))
    const factor = v128.bitselect(f32x4.div(wanted, s), one, moving)
    const k = f32x4.add(one, f32x4.mul(v128.load(shares + o), f32x4.sub(factor, one)))
    v128.store(vx + o, f32x4.mul(u, k))
    v128.store(vy + o, f32x4.mul(v, k))
    v128.store(vz + o, f32x4.mul(w, k))
  }
}

/** Drag that grows with the square of the speed: v /= 1 + c·|v|·dt·share, exact for c alone. Own word: c (1/m). */
export function squareDrag(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize): void {
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const c = word(op + OP_OWN)
  const one = f32x4.splat(1)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const u = v128.load(vx + o),
      v = v128.load(vy + o),
      w = v128.load(vz + o)
    const s = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)), f32x4.mul(w, w)))
    const k = f32x4.div(one, f32x4.add(one, f32x4.mul(f32x4.mul(c, s), f32x4.mul(v128.load(dts + o), v128.load(shares + o)))))
    v128.store(vx + o, f32x4.mul(u, k))
    v128.store(vy + o, f32x4.mul(v, k))
    v128.store(vz + o, f32x4.mul(w, k))
  }
}
