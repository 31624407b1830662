// What a contact leaves behind: a record of it, and particles that stick.
import { closestPoint, N_SLOT, N_U, N_V } from './closest'
import {
  C_ENDS,
  C_FLAGS,
  C_FROM,
  C_HASH,
  C_IN0,
  C_LEAVES,
  C_LET_GO,
  C_NODES,
  C_OUT1,
  C_TO,
  C_TRIANGLES,
  COLLIDER_BYTES,
  placeOn,
  row,
} from './collider'
import { AGE, AU, AV, HELD, PX, PY, PZ, STUCK, TOUCH_SPEED, TOUCHED, TOUCHED_AGE, TRIANGLE, TX, TY, TZ, VX, VY, VZ } from './layout'

// @ts-ignore: decorator
@inline function word(columns: usize, c: i32, at: usize): usize {
  return <usize>load<u32>(columns + ((<usize>c) << 2)) + at
}
/** Writes down a contact: where, when, with what, and how fast towards it. */
export function touched(columns: usize, at: usize, which: usize, x: f32, y: f32, z: f32, before: f32, vn: f32): void {
  if (load<u32>(columns + (TOUCHED << 2)) == 0) return
  store<f32>(word(columns, TX, at), x)
  store<f32>(word(columns, TY, at), y)
  store<f32>(word(columns, TZ, at), z)
  // Its age is still that of the substep's beginning; the contact came `before` seconds ahead of that, mostly less than none.
  store<f32>(word(columns, TOUCHED_AGE, at), load<f32>(word(columns, AGE, at)) - before)
  store<u32>(word(columns, TOUCHED, at), load<u32>(which + C_HASH))
  store<f32>(word(columns, TOUCH_SPEED, at), max(<f32>0, -vn))
}
/** Takes hold of the place of the surface next to a point in its own space; false when there is nothing. */
export function holds(columns: usize, at: usize, which: usize, x: f32, y: f32, z: f32, stack: usize, hit: usize): bool {
  if (load<u32>(columns + (STUCK << 2)) == 0) return false
  if (load<u32>(which) == 1) {
    store<f32>(word(columns, AU, at), x)
    store<f32>(word(columns, AV, at), z)
  } else {
    store<f32>(hit, 1e30)
    store<u32>(hit, 0xffffffff, N_SLOT)
    if (
      !closestPoint(
        <usize>load<u32>(which + C_NODES),
        <usize>load<u32>(which + (load<u32>(which + C_FLAGS) & 4 ? C_ENDS : C_LEAVES)),
        x,
        y,
        z,
        stack,
        hit,
      )
    )
      return false
    store<u32>(word(columns, TRIANGLE, at), load<u32>(<usize>load<u32>(which + C_TRIANGLES) + ((<usize>load<u32>(hit, N_SLOT)) << 2)))
    store<f32>(word(columns, AU, at), load<f32>(hit, N_U))
    store<f32>(word(columns, AV, at), load<f32>(hit, N_V))
  }
  const hash = load<u32>(which + C_HASH)
  store<u32>(word(columns, HELD, at), hash)
  store<u32>(word(columns, STUCK, at), hash)
  return true
}
/** One that sticks goes with its place, unless what the forces want of it is more than the strength; then it is free from here on. */
export function rides(columns: usize, at: usize, dt: f32, colliders: usize, count: i32, hit: usize, perSecond: f32): bool {
  const stuck = word(columns, STUCK, at)
  const hash = load<u32>(stuck)
  let c = 0
  while (c < count && load<u32>(colliders + <usize>c * COLLIDER_BYTES + C_HASH) != hash) c++
  if (c == count || load<u32>(word(columns, HELD, at)) != hash) {
    store<u32>(stuck, 0)
    return false
  }
  const r = colliders + <usize>c * COLLIDER_BYTES
  const triangle = load<u32>(word(columns, TRIANGLE, at)),
    a = load<f32>(word(columns, AU, at)),
    b = load<f32>(word(columns, AV, at))
  placeOn(r, <usize>load<u32>(r + C_FROM), triangle, a, b, hit)
  placeOn(r, <usize>load<u32>(r + C_TO), triangle, a, b, hit + 12)
  const px = word(columns, PX, at),
    py = word(columns, PY, at),
    pz = word(columns, PZ, at),
    vx = word(columns, VX, at),
    vy = word(columns, VY, at),
    vz = word(columns, VZ, at)
  // What it is off its place, by the skin that casts leave or its radius, turns with the object.
  const x = load<f32>(px),
    y = load<f32>(py),
    z = load<f32>(pz),
    m = r + C_IN0
  const lx = row(m, 0, x, y, z) + load<f32>(hit, 12) - load<f32>(hit),
    ly = row(m, 1, x, y, z) + load<f32>(hit, 16) - load<f32>(hit, 4),
    lz = row(m, 2, x, y, z) + load<f32>(hit, 20) - load<f32>(hit, 8)
  const ex = row(r + C_OUT1, 0, lx, ly, lz),
    ey = row(r + C_OUT1, 1, lx, ly, lz),
    ez = row(r + C_OUT1, 2, lx, ly, lz)
  const su = (ex - x) * perSecond,
    sv = (ey - y) * perSecond,
    sw = (ez - z) * perSecond
  const du = load<f32>(vx) - su,
    dv = load<f32>(vy) - sv,
    dw = load<f32>(vz) - sw
  if (dt > 0 && Mathf.sqrt(du * du + dv * dv + dw * dw) > load<f32>(r + C_LET_GO) * dt) {
    store<u32>(stuck, 0)
    store<u32>(word(columns, HELD, at), 0)
    return false
  }
  store<f32>(px, ex)
  store<f32>(py, ey)
  store<f32>(pz, ez)
  store<f32>(vx, su)
  store<f32>(vy, sv)
  store<f32>(vz, sw)
  return true
}
