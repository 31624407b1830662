import { col } from './columns'
import {
  DRAG_RATE,
  GRAVITY_A,
  PX,
  PY,
  PZ,
  SCRATCH_BEFORE,
  SCRATCH_ROW,
  TURBULENCE_AMPLITUDE,
  TURBULENCE_FREQUENCY,
  TURBULENCE_MODE,
  TURBULENCE_OCTAVES,
  TURBULENCE_PHASES,
  TURBULENCE_RESPONSE,
  VX,
  VY,
  VZ,
  WIND_DIRECTION,
  WIND_GUST,
  WIND_SPEED,
  WIND_STRAY,
  WIND_TRAVELLED,
} from './layout'
import { exp2x4 } from './math'

/**
 * v += a · dt · share. `uniform`: dt · share is the same for all of the block and stands in its
 * first lane; the same bits come out, with half of the loads.
 */
export function gravity(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize, uniform: bool): void {
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const ax = f32x4.splat(load<f32>(op + GRAVITY_A)),
    ay = f32x4.splat(load<f32>(op + GRAVITY_A + 4)),
    az = f32x4.splat(load<f32>(op + GRAVITY_A + 8))
  const bytes = (<usize>n) << 2
  if (uniform) {
    const h = f32x4.mul(v128.load32_splat(dts), v128.load32_splat(shares))
    const gx = f32x4.mul(ax, h),
      gy = f32x4.mul(ay, h),
      gz = f32x4.mul(az, h)
    for (let o: usize = 0; o < bytes; o += 16) {
      v128.store(vx + o, f32x4.add(v128.load(vx + o), gx))
      v128.store(vy + o, f32x4.add(v128.load(vy + o), gy))
      v128.store(vz + o, f32x4.add(v128.load(vz + o), gz))
    }
    return
  }
  for (let o: usize = 0; o < bytes; o += 16) {
    const h = f32x4.mul(v128.load(dts + o), v128.load(shares + o))
    v128.store(vx + o, f32x4.add(v128.load(vx + o), f32x4.mul(ax, h)))
    v128.store(vy + o, f32x4.add(v128.load(vy + o), f32x4.mul(ay, h)))
    v128.store(vz + o, f32x4.add(v128.load(vz + o), f32x4.mul(az, h)))
  }
}

/**
 * What a linear drag makes of a velocity over a time: it was `v0` as the substep began, and the forces have added v − v0, which counts as
 * a constant acceleration. d is exp(−x), f = (1 − d) / x: exact, so that what falls reaches its terminal speed at any step.
 */
// @ts-ignore: decorator
@inline function dragged(v: usize, v0: usize, d: v128, f: v128): void {
  const was = v128.load(v0)
  v128.store(v, f32x4.add(f32x4.mul(was, d), f32x4.mul(f32x4.sub(v128.load(v), was), f)))
}
/** (1 − d) / x for d = exp(−x); near zero by its series, where the difference would cancel. */
// @ts-ignore: decorator
@inline export function held(d: v128, x: v128): v128 {
  const one = f32x4.splat(1)
  const near = f32x4.sub(one, f32x4.mul(x, f32x4.sub(f32x4.splat(0.5), f32x4.mul(x, f32x4.splat(1 / 6)))))
  return v128.bitselect(near, f32x4.div(f32x4.sub(one, d), f32x4.pmax(x, f32x4.splat(1e-12))), f32x4.lt(x, f32x4.splat(0.01)))
}
/** Drag in proportion to the speed: the speed halves in 1 / rate seconds. Behind all other forces; exact for any step length. */
export function drag(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize, uniform: bool): void {
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const before = scratch + SCRATCH_BEFORE
  const rate = f32x4.splat(load<f32>(op + DRAG_RATE)),
    zero = f32x4.splat(0),
    natural = f32x4.splat(0.69314718)
  const bytes = (<usize>n) << 2
  let k = zero,
    d = zero,
    f = zero
  for (let o: usize = 0; o < bytes; o += 16) {
    if (!uniform || o == 0) {
      k = uniform
        ? f32x4.mul(rate, f32x4.mul(v128.load32_splat(dts), v128.load32_splat(shares)))
        : f32x4.mul(rate, f32x4.mul(v128.load(dts + o), v128.load(shares + o)))
      d = exp2x4(f32x4.neg(k))
      f = held(d, f32x4.mul(k, natural))
    }
    dragged(vx + o, before + o, d, f)
    dragged(vy + o, before + SCRATCH_ROW + o, d, f)
    dragged(vz + o, before + 2 * SCRATCH_ROW + o, d, f)
  }
}

// @ts-ignore: decorator
@inline function fade(f: v128): v128 {
  // quintic: the second derivative is continuous, so the eddies have no creases
  return f32x4.mul(
    f32x4.mul(f32x4.mul(f, f), f),
    f32x4.add(f32x4.mul(f, f32x4.sub(f32x4.mul(f, f32x4.splat(6)), f32x4.splat(15))), f32x4.splat(10)),
  )
}
// @ts-ignore: decorator
@inline function fadeSlope(f: v128): v128 {
  const g = f32x4.mul(f, f32x4.sub(f, f32x4.splat(1)))
  return f32x4.mul(f32x4.splat(30), f32x4.mul(g, g))
}
// @ts-ignore: decorator
@inline function scramble(k: v128): v128 {
  let v = i32x4.mul(v128.xor(k, i32x4.shr_u(k, 16)), i32x4.splat(0x7feb352d))
  v = i32x4.mul(v128.xor(v, i32x4.shr_u(v, 15)), i32x4.splat(0x846ca68b))
  return v128.xor(v, i32x4.shr_u(v, 16))
}
// A corner's value is a triangle wave of (its hashed phase + the field's phase): it stays evenly spread in
// [-1, 1], and moving the phase renews the eddies without ever jumping. Upper and lower 16 bits are two fields.
// @ts-ignore: decorator
@inline function low(h: v128, phase: v128): v128 {
  const s = i32x4.abs(i32x4.shr_s(i32x4.shl(i32x4.add(h, phase), 16), 16))
  return f32x4.convert_i32x4_s(s)
}
// @ts-ignore: decorator
@inline function high(h: v128, phase: v128): v128 {
  const s = i32x4.abs(i32x4.shr_s(i32x4.add(h, phase), 16))
  return f32x4.convert_i32x4_s(s)
}

/**
 * Divergence-free noise. The field is the cross product of the gradients of two lattice noises, which has no
 * divergence because curl(a ∇b) = ∇a × ∇b (after Bridson, Hourihan and Nordenstam 2007).
 *
 */
export function turbulence(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  // Wind is made apart, so that the loop of turbulence does not carry it along (a fifth of its time, measured).
  noise(columns, op, begin, n, shares, dts, scratch, false)
}
/** A wind with gusts, which particles follow. */
export function wind(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  noise(columns, op, begin, n, shares, dts, scratch, true)
}
// @ts-ignore: decorator
@inline function noise(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize, wind: bool): void {
  const before = scratch + SCRATCH_BEFORE
  const px = col(columns, PX, begin),
    py = col(columns, PY, begin),
    pz = col(columns, PZ, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const carry = wind || load<u32>(op + TURBULENCE_MODE) == 1
  const octaves = load<i32>(op + TURBULENCE_OCTAVES)
  const frequency = f32x4.splat(load<f32>(op + TURBULENCE_FREQUENCY))
  const amplitude = load<f32>(op + TURBULENCE_AMPLITUDE)
  const response = f32x4.splat(load<f32>(op + TURBULENCE_RESPONSE))
  const one = f32x4.splat(1)
  const bytes = (<usize>n) << 2
  for (let o: usize = 0; o < bytes; o += 16) {
    let x = f32x4.mul(v128.load(px + o), frequency),
      y = f32x4.mul(v128.load(py + o), frequency),
      z = f32x4.mul(v128.load(pz + o), frequency)
    let cx = f32x4.splat(0),
      cy = f32x4.splat(0),
      cz = f32x4.splat(0)
    let amp = amplitude
    if (wind) {
      // Gusts travel with the wind.
      x = f32x4.sub(x, v128.load32_splat(op + WIND_TRAVELLED))
      y = f32x4.sub(y, v128.load32_splat(op + WIND_TRAVELLED + 4))
      z = f32x4.sub(z, v128.load32_splat(op + WIND_TRAVELLED + 8))
    }
    let words = op + TURBULENCE_PHASES
    for (let k = 0; k < octaves; k++) {
      const phaseA = v128.load32_splat(words),
        phaseB = v128.load32_splat(words + 4),
        salt = v128.load32_splat(words + 8)
      words += 12
      const ix = f32x4.floor(x),
        iy = f32x4.floor(y),
        iz = f32x4.floor(z)
      const fx = f32x4.sub(x, ix),
        fy = f32x4.sub(y, iy),
        fz = f32x4.sub(z, iz)
      const ux = fade(fx),
        uy = fade(fy),
        uz = fade(fz)
      const lx = i32x4.mul(i32x4.trunc_sat_f32x4_s(ix), i32x4.splat(0x27d4eb2d))
      const ly = i32x4.mul(i32x4.trunc_sat_f32x4_s(iy), i32x4.splat(0x165667b1))
      const lz = i32x4.mul(i32x4.trunc_sat_f32x4_s(iz), i32x4.splat(0x9e3779b1))
      const mx = i32x4.add(lx, i32x4.splat(0x27d4eb2d)),
        my = i32x4.add(ly, i32x4.splat(0x165667b1))
      const z0 = v128.xor(lz, salt),
        z1 = v128.xor(i32x4.add(lz, i32x4.splat(0x9e3779b1)), salt)
      const h0 = scramble(v128.xor(v128.xor(lx, ly), z0)),
        h1 = scramble(v128.xor(v128.xor(mx, ly), z0))
      const h2 = scramble(v128.xor(v128.xor(lx, my), z0)),
        h3 = scramble(v128.xor(v128.xor(mx, my), z0))
      const h4 = scramble(v128.xor(v128.xor(lx, ly), z1)),
        h5 = scramble(v128.xor(v128.xor(mx, ly), z1))
      const h6 = scramble(v128.xor(v128.xor(lx, my), z1)),
        h7 = scramble(v128.xor(v128.xor(mx, my), z1))

      // First noise: differences along x on the four edges, then blends; the same for y and z. The constant of
      // the triangle wave falls out of every difference, so the corner values stay unscaled until the end.
      let a0 = low(h0, phaseA),
        a1 = low(h1, phaseA),
        a2 = low(h2, phaseA),
        a3 = low(h3, phaseA)
      let a4 = low(h4, phaseA),
        a5 = low(h5, phaseA),
        a6 = low(h6, phaseA),
        a7 = low(h7, phaseA)
      let e0 = f32x4.sub(a1, a0),
        e1 = f32x4.sub(a3, a2),
        e2 = f32x4.sub(a5, a4),
        e3 = f32x4.sub(a7, a6)
      let m0 = f32x4.add(e0, f32x4.mul(uy, f32x4.sub(e1, e0))),
        m1 = f32x4.add(e2, f32x4.mul(uy, f32x4.sub(e3, e2)))
      const dx = fadeSlope(fx),
        dy = fadeSlope(fy),
        dz = fadeSlope(fz)
      const ax = f32x4.mul(dx, f32x4.add(m0, f32x4.mul(uz, f32x4.sub(m1, m0))))
      let b0 = f32x4.add(a0, f32x4.mul(ux, e0)),
        b1 = f32x4.add(a2, f32x4.mul(ux, e1))
      let b2 = f32x4.add(a4, f32x4.mul(ux, e2)),
        b3 = f32x4.add(a6, f32x4.mul(ux, e3))
      let d0 = f32x4.sub(b1, b0),
        d1 = f32x4.sub(b3, b2)
      const ay = f32x4.mul(dy, f32x4.add(d0, f32x4.mul(uz, f32x4.sub(d1, d0))))
      const az = f32x4.mul(dz, f32x4.sub(f32x4.add(b2, f32x4.mul(uy, d1)), f32x4.add(b0, f32x4.mul(uy, d0))))
      // Second noise.
      a0 = high(h0, phaseB)
      a1 = high(h1, phaseB)
      a2 = high(h2, phaseB)
      a3 = high(h3, phaseB)
      a4 = high(h4, phaseB)
      a5 = high(h5, phaseB)
      a6 = high(h6, phaseB)
      a7 = high(h7, phaseB)
      e0 = f32x4.sub(a1, a0)
      e1 = f32x4.sub(a3, a2)
      e2 = f32x4.sub(a5, a4)
      e3 = f32x4.sub(a7, a6)
      m0 = f32x4.add(e0, f32x4.mul(uy, f32x4.sub(e1, e0)))
      m1 = f32x4.add(e2, f32x4.mul(uy, f32x4.sub(e3, e2)))
      const bx = f32x4.mul(dx, f32x4.add(m0, f32x4.mul(uz, f32x4.sub(m1, m0))))
      b0 = f32x4.add(a0, f32x4.mul(ux, e0))
      b1 = f32x4.add(a2, f32x4.mul(ux, e1))
      b2 = f32x4.add(a4, f32x4.mul(ux, e2))
      b3 = f32x4.add(a6, f32x4.mul(ux, e3))
      d0 = f32x4.sub(b1, b0)
      d1 = f32x4.sub(b3, b2)
      const by = f32x4.mul(dy, f32x4.add(d0, f32x4.mul(uz, f32x4.sub(d1, d0))))
      const bz = f32x4.mul(dz, f32x4.sub(f32x4.add(b2, f32x4.mul(uy, d1)), f32x4.add(b0, f32x4.mul(uy, d0))))

      const g = f32x4.splat(amp)
      cx = f32x4.add(cx, f32x4.mul(g, f32x4.sub(f32x4.mul(ay, bz), f32x4.mul(az, by))))
      cy = f32x4.add(cy, f32x4.mul(g, f32x4.sub(f32x4.mul(az, bx), f32x4.mul(ax, bz))))
      cz = f32x4.add(cz, f32x4.mul(g, f32x4.sub(f32x4.mul(ax, by), f32x4.mul(ay, bx))))
      amp *= 0.5
      x = f32x4.add(x, x)
      y = f32x4.add(y, y)
      z = f32x4.add(z, z)
    }
    if (wind) {
      // Along its direction the noise is a gust, across it the wind strays.
      const wx = v128.load32_splat(op + WIND_DIRECTION),
        wy = v128.load32_splat(op + WIND_DIRECTION + 4),
        wz = v128.load32_splat(op + WIND_DIRECTION + 8)
      const gust = v128.load32_splat(op + WIND_GUST),
        stray = v128.load32_splat(op + WIND_STRAY),
        steady = v128.load32_splat(op + WIND_SPEED)
      const along = f32x4.add(f32x4.add(f32x4.mul(cx, wx), f32x4.mul(cy, wy)), f32x4.mul(cz, wz))
      const k = f32x4.add(steady, f32x4.mul(along, f32x4.sub(gust, stray)))
      cx = f32x4.add(f32x4.mul(wx, k), f32x4.mul(cx, stray))
      cy = f32x4.add(f32x4.mul(wy, k), f32x4.mul(cy, stray))
      cz = f32x4.add(f32x4.mul(wz, k), f32x4.mul(cz, stray))
    }
    const h = f32x4.mul(v128.load(dts + o), v128.load(shares + o))
    const u = v128.load(vx + o),
      v = v128.load(vy + o),
      w = v128.load(vz + o)
    if (carry) {
      // A linear drag against the moving air, exact like that in still air.
      const x = f32x4.div(h, f32x4.pmax(response, f32x4.splat(1e-9))),
        d = exp2x4(f32x4.mul(x, f32x4.splat(-1.442695))),
        f = held(d, x)
      const u0 = v128.load(before + o),
        v0 = v128.load(before + SCRATCH_ROW + o),
        w0 = v128.load(before + 2 * SCRATCH_ROW + o)
      v128.store(vx + o, f32x4.add(cx, f32x4.add(f32x4.mul(d, f32x4.sub(u0, cx)), f32x4.mul(f, f32x4.sub(u, u0)))))
      v128.store(vy + o, f32x4.add(cy, f32x4.add(f32x4.mul(d, f32x4.sub(v0, cy)), f32x4.mul(f, f32x4.sub(v, v0)))))
      v128.store(vz + o, f32x4.add(cz, f32x4.add(f32x4.mul(d, f32x4.sub(w0, cz)), f32x4.mul(f, f32x4.sub(w, w0)))))
    } else {
      v128.store(vx + o, f32x4.add(u, f32x4.mul(cx, h)))
      v128.store(vy + o, f32x4.add(v, f32x4.mul(cy, h)))
      v128.store(vz + o, f32x4.add(w, f32x4.mul(cz, h)))
    }
  }
}
