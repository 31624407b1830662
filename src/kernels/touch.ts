// What a contact leaves behind: a record of it, and particles that stick.
import { closestPoint } from './closest'
import { placeOn, row } from './collider'
import { wordAt } from './columns'
import {
  AGE,
  AU,
  AV,
  COLLIDER_BYTES,
  COLLIDER_ENDS,
  COLLIDER_FLAGS,
  COLLIDER_FROM,
  COLLIDER_HASH,
  COLLIDER_IN0,
  COLLIDER_LEAVES,
  COLLIDER_LET_GO,
  COLLIDER_NODES,
  COLLIDER_OUT1,
  COLLIDER_TO,
  COLLIDER_TRIANGLES,
  HELD,
  NEAREST_SLOT,
  NEAREST_U,
  NEAREST_V,
  PX,
  PY,
  PZ,
  STUCK,
  TOUCHED,
  TOUCHED_AGE,
  TOUCH_SPEED,
  TRIANGLE,
  TX,
  TY,
  TZ,
  VX,
  VY,
  VZ,
} from './layout'

/** Writes down a contact: where, when, with what, and how fast towards it. */
export function touched(columns: usize, at: usize, which: usize, x: f32, y: f32, z: f32, before: f32, vn: f32): void {
  if (load<u32>(columns + (TOUCHED << 2)) == 0) return
  store<f32>(wordAt(columns, TX, at), x)
  store<f32>(wordAt(columns, TY, at), y)
  store<f32>(wordAt(columns, TZ, at), z)
  // Its age is still that of the substep's beginning; the contact came `before` seconds ahead of that, mostly less than none.
  store<f32>(wordAt(columns, TOUCHED_AGE, at), load<f32>(wordAt(columns, AGE, at)) - before)
  store<u32>(wordAt(columns, TOUCHED, at), load<u32>(which + COLLIDER_HASH))
  store<f32>(wordAt(columns, TOUCH_SPEED, at), max(<f32>0, -vn))
}
/** Takes hold of the place of the surface next to a point in its own space; false when there is nothing. */
export function holds(columns: usize, at: usize, which: usize, x: f32, y: f32, z: f32, stack: usize, hit: usize): bool {
  if (load<u32>(columns + (STUCK << 2)) == 0) return false
  if (load<u32>(which) == 1) {
    store<f32>(wordAt(columns, AU, at), x)
    store<f32>(wordAt(columns, AV, at), z)
  } else {
    store<f32>(hit, 1e30)
    store<u32>(hit, 0xffffffff, NEAREST_SLOT)
    if (
      !closestPoint(
        <usize>load<u32>(which + COLLIDER_NODES),
        <usize>load<u32>(which + (load<u32>(which + COLLIDER_FLAGS) & 4 ? COLLIDER_ENDS : COLLIDER_LEAVES)),
        x,
        y,
        z,
        stack,
        hit,
      )
    )
      return false
    store<u32>(
      wordAt(columns, TRIANGLE, at),
      load<u32>(<usize>load<u32>(which + COLLIDER_TRIANGLES) + ((<usize>load<u32>(hit, NEAREST_SLOT)) << 2)),
    )
    store<f32>(wordAt(columns, AU, at), load<f32>(hit, NEAREST_U))
    store<f32>(wordAt(columns, AV, at), load<f32>(hit, NEAREST_V))
  }
  const hash = load<u32>(which + COLLIDER_HASH)
  store<u32>(wordAt(columns, HELD, at), hash)
  store<u32>(wordAt(columns, STUCK, at), hash)
  return true
}
/** One that sticks goes with its place, unless what the forces want of it is more than the strength; then it is free from here on. */
export function rides(columns: usize, at: usize, dt: f32, colliders: usize, count: i32, hit: usize, perSecond: f32): bool {
  const stuck = wordAt(columns, STUCK, at)
  const hash = load<u32>(stuck)
  let c = 0
  while (c < count && load<u32>(colliders + <usize>c * COLLIDER_BYTES + COLLIDER_HASH) != hash) c++
  if (c == count || load<u32>(wordAt(columns, HELD, at)) != hash) {
    store<u32>(stuck, 0)
    return false
  }
  const r = colliders + <usize>c * COLLIDER_BYTES
  const triangle = load<u32>(wordAt(columns, TRIANGLE, at)),
    a = load<f32>(wordAt(columns, AU, at)),
    b = load<f32>(wordAt(columns, AV, at))
  placeOn(r, <usize>load<u32>(r + COLLIDER_FROM), triangle, a, b, hit)
  placeOn(r, <usize>load<u32>(r + COLLIDER_TO), triangle, a, b, hit + 12)
  const px = wordAt(columns, PX, at),
    py = wordAt(columns, PY, at),
    pz = wordAt(columns, PZ, at),
    vx = wordAt(columns, VX, at),
    vy = wordAt(columns, VY, at),
    vz = wordAt(columns, VZ, at)
  // What it is off its place, by the skin that casts leave or its radius, turns with the object.
  const x = load<f32>(px),
    y = load<f32>(py),
    z = load<f32>(pz),
    m = r + COLLIDER_IN0
  const lx = row(m, 0, x, y, z) + load<f32>(hit, 12) - load<f32>(hit),
    ly = row(m, 1, x, y, z) + load<f32>(hit, 16) - load<f32>(hit, 4),
    lz = row(m, 2, x, y, z) + load<f32>(hit, 20) - load<f32>(hit, 8)
  const ex = row(r + COLLIDER_OUT1, 0, lx, ly, lz),
    ey = row(r + COLLIDER_OUT1, 1, lx, ly, lz),
    ez = row(r + COLLIDER_OUT1, 2, lx, ly, lz)
  const su = (ex - x) * perSecond,
    sv = (ey - y) * perSecond,
    sw = (ez - z) * perSecond
  const du = load<f32>(vx) - su,
    dv = load<f32>(vy) - sv,
    dw = load<f32>(vz) - sw
  if (dt > 0 && Mathf.sqrt(du * du + dv * dv + dw * dw) > load<f32>(r + COLLIDER_LET_GO) * dt) {
    store<u32>(stuck, 0)
    store<u32>(wordAt(columns, HELD, at), 0)
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
