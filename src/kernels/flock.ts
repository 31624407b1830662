// Passes over neighbours in which they steer: a flock, and a swarm.
import { profile } from './fields'
import { GRID_SORTED, GRID_STRIDE, PASS_OUT, PASS_STRIDE, PASS_WORDS } from './layout'
import { lanes, sum, total } from './neighbours'

/**
 * Keeping apart, together and aligned (Reynolds 1987). Words of the pass: radius², room (m), cosine of half the view angle, apart (m/s² at
 * no distance), align (1/s), together (m/s² at the radius), dt (s). The outcome is an acceleration: apart · Σ (1 − d/room) away from each
 * nearer than the room, align towards the others' mean velocity (implicit), together towards their middle.
 */
export function flock(p: usize, g: usize, i: i32, self: i32, x: f32, y: f32, z: f32, list: usize, pairs: i32): void {
  const stride = <usize>load<u32>(g + GRID_STRIDE)
  const sx = <usize>load<u32>(g + GRID_SORTED),
    sy = sx + stride,
    sz = sy + stride,
    su = sz + stride,
    sv = su + stride,
    sw = sv + stride
  const own = p + PASS_WORDS
  const rr = v128.load32_splat(own),
    room = v128.load32_splat(own + 4),
    cosine = load<f32>(own + 8)
  const qx = f32x4.splat(x),
    qy = f32x4.splat(y),
    qz = f32x4.splat(z)
  const o4 = (<usize>self) << 2
  const u = load<f32>(su + o4),
    v = load<f32>(sv + o4),
    w = load<f32>(sw + o4)
  const speed = Mathf.sqrt(u * u + v * v + w * w)
  // All around, or for one that stands still, nothing is behind.
  const looks = cosine > -1 && speed > 1e-6
  const hx = f32x4.splat(looks ? u / speed : 0),
    hy = f32x4.splat(looks ? v / speed : 0),
    hz = f32x4.splat(looks ? w / speed : 0),
    cv = f32x4.splat(cosine)
  const none = f32x4.splat(0),
    one = f32x4.splat(1),
    tiny = f32x4.splat(1e-12)
  let n: v128 = i32x4.splat(0),
    ax = none,
    ay = none,
    az = none,
    mx = none,
    my = none,
    mz = none,
    mu = none,
    mv = none,
    mw = none
  for (let k: usize = 0; k < <usize>pairs; k++) {
    const e = load<i32>(list + (k << 3), 4)
    for (let j = load<i32>(list + (k << 3)); j < e; j += 4) {
      const o = (<usize>j) << 2
      const dx = f32x4.sub(v128.load(sx + o), qx),
        dy = f32x4.sub(v128.load(sy + o), qy),
        dz = f32x4.sub(v128.load(sz + o), qz)
      const dd = f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz))
      let near = v128.and(f32x4.lt(dd, rr), lanes(j, e, self))
      if (!v128.any_true(near)) continue
      const d = f32x4.sqrt(f32x4.pmax(dd, tiny))
      if (looks)
        near = v128.and(near, f32x4.ge(f32x4.add(f32x4.add(f32x4.mul(dx, hx), f32x4.mul(dy, hy)), f32x4.mul(dz, hz)), f32x4.mul(cv, d)))
      n = i32x4.sub(n, near)
      // (1 − d/room)/d away from it.
      const push = v128.and(near, f32x4.pmax(none, f32x4.sub(f32x4.div(one, d), f32x4.div(one, room))))
      ax = f32x4.sub(ax, f32x4.mul(push, dx))
      ay = f32x4.sub(ay, f32x4.mul(push, dy))
      az = f32x4.sub(az, f32x4.mul(push, dz))
      mx = f32x4.add(mx, v128.and(near, dx))
      my = f32x4.add(my, v128.and(near, dy))
      mz = f32x4.add(mz, v128.and(near, dz))
      mu = f32x4.add(mu, v128.and(near, v128.load(su + o)))
      mv = f32x4.add(mv, v128.and(near, v128.load(sv + o)))
      mw = f32x4.add(mw, v128.and(near, v128.load(sw + o)))
    }
  }
  const out = <usize>load<u32>(p + PASS_OUT) + ((<usize>i) << 2),
    step = <usize>load<u32>(p + PASS_STRIDE)
  const others = total(n)
  if (others == 0) {
    store<f32>(out, 0)
    store<f32>(out + step, 0)
    store<f32>(out + step + step, 0)
    return
  }
  const each = <f32>1 / <f32>others
  const apart = load<f32>(own + 12),
    rate = load<f32>(own + 16),
    dt = load<f32>(own + 24)
  const align = rate / (1 + rate * dt),
    together = (load<f32>(own + 20) / Mathf.sqrt(load<f32>(own))) * each
  store<f32>(out, apart * sum(ax) + align * (sum(mu) * each - u) + together * sum(mx))
  store<f32>(out + step, apart * sum(ay) + align * (sum(mv) * each - v) + together * sum(my))
  store<f32>(out + step + step, apart * sum(az) + align * (sum(mw) * each - w) + together * sum(mz))
}
/**
 * Pulled or pushed by each particle near. Words of the pass: reach² (m²), 1/reach, strength (m/s², of each; below zero away), falloff, 1
 * when the mean counts and not the sum. The outcome is an acceleration.
 */
export function swarm(p: usize, g: usize, i: i32, self: i32, x: f32, y: f32, z: f32, list: usize, pairs: i32): void {
  const stride = <usize>load<u32>(g + GRID_STRIDE)
  const sx = <usize>load<u32>(g + GRID_SORTED),
    sy = sx + stride,
    sz = sy + stride
  const own = p + PASS_WORDS
  const rr = v128.load32_splat(own),
    inverse = v128.load32_splat(own + 4),
    falls = load<i32>(own + 12)
  const qx = f32x4.splat(x),
    qy = f32x4.splat(y),
    qz = f32x4.splat(z),
    one = f32x4.splat(1),
    tiny = f32x4.splat(1e-12)
  let ax = f32x4.splat(0),
    ay = ax,
    az = ax
  let n: v128 = i32x4.splat(0)
  for (let k: usize = 0; k < <usize>pairs; k++) {
    const e = load<i32>(list + (k << 3), 4)
    for (let j = load<i32>(list + (k << 3)); j < e; j += 4) {
      const o = (<usize>j) << 2
      const dx = f32x4.sub(v128.load(sx + o), qx),
        dy = f32x4.sub(v128.load(sy + o), qy),
        dz = f32x4.sub(v128.load(sz + o), qz)
      const dd = f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz))
      const near = v128.and(f32x4.lt(dd, rr), lanes(j, e, self))
      if (!v128.any_true(near)) continue
      n = i32x4.sub(n, near)
      const d = f32x4.sqrt(f32x4.pmax(dd, tiny))
      const a = v128.and(near, f32x4.div(profile(falls, f32x4.sub(one, f32x4.mul(d, inverse))), d))
      ax = f32x4.add(ax, f32x4.mul(a, dx))
      ay = f32x4.add(ay, f32x4.mul(a, dy))
      az = f32x4.add(az, f32x4.mul(a, dz))
    }
  }
  const others = total(n)
  const k = load<f32>(own + 8) / (load<u32>(own + 16) == 1 && others > 0 ? <f32>others : <f32>1)
  const out = <usize>load<u32>(p + PASS_OUT) + ((<usize>i) << 2),
    step = <usize>load<u32>(p + PASS_STRIDE)
  store<f32>(out, k * sum(ax))
  store<f32>(out + step, k * sum(ay))
  store<f32>(out + step + step, k * sum(az))
}
