// Orientation and spin: quaternions that turn with the particles.
import { col } from './columns'
import {
  OP_SEED,
  QW,
  QX,
  QY,
  QZ,
  SEED,
  SPIN_AXIS,
  SPIN_FLAT,
  SPIN_HEADS,
  SPIN_OWN_AXIS,
  SPIN_RATE,
  SPIN_RESPONSE,
  SPIN_SPEED,
  SPIN_VARY,
  STUCK,
  VX,
  VY,
  VZ,
  WX,
  WY,
  WZ,
} from './layout'
import { cosTurn, exp2x4, hash3, signed, sinTurn, unit } from './math'

/** Every newborn lies as its seed has it, evenly over all orientations (Shoemake 1992). */
function lay(columns: usize, begin: i32, o: usize): void {
  const id = load<u32>(col(columns, SEED, begin) + o)
  const u = unit(hash3(0, id, 50)),
    v = unit(hash3(0, id, 51)),
    w = unit(hash3(0, id, 52))
  const a = Mathf.sqrt(1 - u),
    b = Mathf.sqrt(u)
  store<f32>(col(columns, QX, begin) + o, a * sinTurn(v))
  store<f32>(col(columns, QY, begin) + o, a * cosTurn(v))
  store<f32>(col(columns, QZ, begin) + o, b * sinTurn(w))
  store<f32>(col(columns, QW, begin) + o, b * cosTurn(w))
}
// @ts-ignore: decorator
@inline function isNew(columns: usize, begin: i32, o: usize): bool {
  return (
    load<f32>(col(columns, QX, begin) + o) == 0 &&
    load<f32>(col(columns, QY, begin) + o) == 0 &&
    load<f32>(col(columns, QZ, begin) + o) == 0 &&
    load<f32>(col(columns, QW, begin) + o) == 0
  )
}
/** On by spin × time: of unit length whatever the step (Cayley), short by the square of half its angle over three. */
export function rotate(columns: usize, begin: i32, n: i32, dts: usize): void {
  const qx = col(columns, QX, begin),
    qy = col(columns, QY, begin),
    qz = col(columns, QZ, begin),
    qw = col(columns, QW, begin)
  const wx = col(columns, WX, begin),
    wy = col(columns, WY, begin),
    wz = col(columns, WZ, begin)
  // What sticks to something has come to rest.
  const held = <usize>load<u32>(columns + (STUCK << 2))
  const half = f32x4.splat(0.5),
    zero = f32x4.splat(0)
  for (let o: usize = 0, end = (<usize>n) << 2; o < end; o += 16) {
    const fresh = v128.and(f32x4.eq(v128.load(qw + o), zero), f32x4.eq(v128.load(qx + o), zero))
    if (v128.any_true(fresh))
      for (let k: usize = 0; k < 16 && o + k < end; k += 4) if (isNew(columns, begin, o + k)) lay(columns, begin, o + k)
    if (held) {
      const free = i32x4.eq(v128.load(held + ((<usize>begin) << 2) + o), zero)
      v128.store(wx + o, v128.and(free, v128.load(wx + o)))
      v128.store(wy + o, v128.and(free, v128.load(wy + o)))
      v128.store(wz + o, v128.and(free, v128.load(wz + o)))
    }
    const h = f32x4.mul(half, v128.load(dts + o))
    const x = f32x4.mul(v128.load(wx + o), h),
      y = f32x4.mul(v128.load(wy + o), h),
      z = f32x4.mul(v128.load(wz + o), h)
    const a = v128.load(qx + o),
      b = v128.load(qy + o),
      c = v128.load(qz + o),
      w = v128.load(qw + o)
    const p = f32x4.add(a, f32x4.sub(f32x4.add(f32x4.mul(x, w), f32x4.mul(y, c)), f32x4.mul(z, b)))
    const q = f32x4.add(b, f32x4.sub(f32x4.add(f32x4.mul(y, w), f32x4.mul(z, a)), f32x4.mul(x, c)))
    const r = f32x4.add(c, f32x4.sub(f32x4.add(f32x4.mul(z, w), f32x4.mul(x, b)), f32x4.mul(y, a)))
    const s = f32x4.sub(w, f32x4.add(f32x4.add(f32x4.mul(x, a), f32x4.mul(y, b)), f32x4.mul(z, c)))
    const length = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(p, p), f32x4.mul(q, q)), f32x4.add(f32x4.mul(r, r), f32x4.mul(s, s))))
    const by = f32x4.div(f32x4.splat(1), f32x4.pmax(length, f32x4.splat(1e-20)))
    v128.store(qx + o, f32x4.mul(p, by))
    v128.store(qy + o, f32x4.mul(q, by))
    v128.store(qz + o, f32x4.mul(r, by))
    v128.store(qw + o, f32x4.mul(s, by))
  }
}
/**
 * Spin of particles, heading along their motion, and drag across the flat side alone, which makes flakes glide.
 */
export function spin(columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {
  const seed = load<u32>(op + OP_SEED)
  const speed = load<f32>(op + SPIN_SPEED),
    vary = load<f32>(op + SPIN_VARY),
    any = load<u32>(op + SPIN_OWN_AXIS) == 1,
    slows = load<f32>(op + SPIN_RATE),
    heads = load<u32>(op + SPIN_HEADS) == 1,
    response = load<f32>(op + SPIN_RESPONSE),
    flat = load<f32>(op + SPIN_FLAT)
  const wx = col(columns, WX, begin),
    wy = col(columns, WY, begin),
    wz = col(columns, WZ, begin),
    seeds = col(columns, SEED, begin)
  const qx = col(columns, QX, begin),
    qy = col(columns, QY, begin),
    qz = col(columns, QZ, begin),
    qw = col(columns, QW, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  const bytes = (<usize>n) << 2
  for (let o: usize = 0; o < bytes; o += 4) {
    if (!isNew(columns, begin, o)) continue
    lay(columns, begin, o)
    const id = load<u32>(seeds + o)
    let x = load<f32>(op + SPIN_AXIS),
      y = load<f32>(op + SPIN_AXIS + 4),
      z = load<f32>(op + SPIN_AXIS + 8)
    if (any) {
      y = signed(hash3(seed, id, 53))
      const q = Mathf.sqrt(max(<f32>0, 1 - y * y)),
        side = unit(hash3(seed, id, 54))
      x = q * cosTurn(side)
      z = q * sinTurn(side)
    }
    const w = (speed + vary * signed(hash3(seed, id, 55))) * load<f32>(shares + o)
    store<f32>(wx + o, x * w)
    store<f32>(wy + o, y * w)
    store<f32>(wz + o, z * w)
  }
  if (slows > 0) {
    const k = f32x4.splat(-slows)
    for (let o: usize = 0; o < bytes; o += 16) {
      const left = exp2x4(f32x4.mul(k, f32x4.mul(v128.load(dts + o), v128.load(shares + o))))
      v128.store(wx + o, f32x4.mul(v128.load(wx + o), left))
      v128.store(wy + o, f32x4.mul(v128.load(wy + o), left))
      v128.store(wz + o, f32x4.mul(v128.load(wz + o), left))
    }
  }
  if (heads) {
    // Its op + SPIN_SPEED X into its motion, by the shortest way; part of it when there is a response.
    for (let o: usize = 0; o < bytes; o += 4) {
      const u = load<f32>(vx + o),
        v = load<f32>(vy + o),
        w = load<f32>(vz + o)
      const size = Mathf.sqrt(u * u + v * v + w * w)
      if (!(size > 1e-6)) continue
      const a = load<f32>(qx + o),
        b = load<f32>(qy + o),
        c = load<f32>(qz + o),
        d = load<f32>(qw + o)
      const fx = <f32>1 - <f32>2 * (b * b + c * c),
        fy = <f32>2 * (a * b + c * d),
        fz = <f32>2 * (a * c - b * d)
      const gx = u / size,
        gy = v / size,
        gz = w / size
      let x = fy * gz - fz * gy,
        y = fz * gx - fx * gz,
        z = fx * gy - fy * gx,
        s = <f32>1 + fx * gx + fy * gy + fz * gz
      if (s < 1e-4) {
        // Right against it: about its op + SPIN_SPEED Y.
        x = <f32>2 * (a * b - c * d)
        y = <f32>1 - <f32>2 * (a * a + c * c)
        z = <f32>2 * (b * c + a * d)
        s = 0
      }
      const h = load<f32>(dts + o) * load<f32>(shares + o),
        k = h / (response + max(h, <f32>1e-12))
      const l = Mathf.sqrt(x * x + y * y + z * z + s * s)
      x *= k
      y *= k
      z *= k
      s = s * k + l * (1 - k)
      const p = s * a + x * d + y * c - z * b,
        q = s * b + y * d + z * a - x * c,
        r = s * c + z * d + x * b - y * a,
        e = s * d - x * a - y * b - z * c
      const m = <f32>1 / Mathf.sqrt(p * p + q * q + r * r + e * e)
      store<f32>(qx + o, p * m)
      store<f32>(qy + o, q * m)
      store<f32>(qz + o, r * m)
      store<f32>(qw + o, e * m)
    }
  }
  if (flat > 0) {
    const two = f32x4.splat(2),
      one = f32x4.splat(1),
      much = f32x4.splat(flat)
    for (let o: usize = 0; o < bytes; o += 16) {
      // Its op + SPIN_SPEED Y stands on its flat side.
      const a = v128.load(qx + o),
        b = v128.load(qy + o),
        c = v128.load(qz + o),
        d = v128.load(qw + o)
      const x = f32x4.mul(two, f32x4.sub(f32x4.mul(a, b), f32x4.mul(c, d))),
        y = f32x4.sub(one, f32x4.mul(two, f32x4.add(f32x4.mul(a, a), f32x4.mul(c, c)))),
        z = f32x4.mul(two, f32x4.add(f32x4.mul(b, c), f32x4.mul(a, d)))
      const u = v128.load(vx + o),
        v = v128.load(vy + o),
        w = v128.load(vz + o)
      const h = f32x4.mul(much, f32x4.mul(v128.load(dts + o), v128.load(shares + o)))
      const k = f32x4.mul(f32x4.div(h, f32x4.add(one, h)), f32x4.add(f32x4.add(f32x4.mul(u, x), f32x4.mul(v, y)), f32x4.mul(w, z))) // implicit Euler
      v128.store(vx + o, f32x4.sub(u, f32x4.mul(k, x)))
      v128.store(vy + o, f32x4.sub(v, f32x4.mul(k, y)))
      v128.store(vz + o, f32x4.sub(w, f32x4.mul(k, z)))
    }
  }
}
