// What corrections, blows and rubbing make of velocities.
import {
  GRID_COLUMNS,
  GRID_ORDER,
  OX,
  PAIR_COLLIDERS,
  PAIR_COLLIDER_COUNT,
  PAIR_COLUMN_BLOWS,
  PAIR_COLUMN_COUNT,
  PAIR_COLUMN_DX,
  PAIR_COLUMN_LISTED,
  PAIR_COLUMN_OX,
  PAIR_COLUMN_RADIUS,
  PAIR_COLUMN_UX,
  PAIR_FRICTION,
  PAIR_LEAN,
  PAIR_LISTED,
  PAIR_LISTS,
  PAIR_PER_SECOND,
  PAIR_QUIET,
  PAIR_REST,
  PAIR_RESTITUTION,
  PAIR_STEP_APPLY,
  PAIR_STEP_TURN,
  PAIR_TOUCH,
  PX,
  SCRATCH_HIT,
  SCRATCH_STACK,
  VX,
} from './layout'
import { nudge } from './nudge'
import { at, source } from './pairColumns'

/** Corrections become places, as far as the colliders let them; what they really moved becomes velocity. */
export function apply(q: usize, g: usize, s: i32, scratch: usize, what: i32): void {
  const i = load<i32>(<usize>load<u32>(g + GRID_ORDER) + ((<usize>s) << 2))
  const columns = <usize>load<u32>(g + GRID_COLUMNS)
  const dx = load<f32>(at(g, PAIR_COLUMN_DX, s)),
    dy = load<f32>(at(g, PAIR_COLUMN_DX + 1, s)),
    dz = load<f32>(at(g, PAIR_COLUMN_DX + 2, s))
  if (dx == 0 && dy == 0 && dz == 0) return
  const per: f32 = what == PAIR_STEP_APPLY ? load<f32>(q + PAIR_PER_SECOND) : 0,
    hit = scratch + SCRATCH_HIT
  nudge(
    columns,
    (<usize>i) << 2,
    dx,
    dy,
    dz,
    load<f32>(at(g, PAIR_COLUMN_RADIUS, s)),
    <usize>load<u32>(q + PAIR_COLLIDERS),
    load<i32>(q + PAIR_COLLIDER_COUNT),
    hit,
    scratch + SCRATCH_STACK,
  )
  for (let a = 0; a < 3; a++) {
    const put = load<f32>(hit + ((<usize>a) << 2), 256)
    const here = at(g, <usize>a, s),
      v = source(g, VX + a, i),
      o = source(g, OX + a, i),
      was = at(g, PAIR_COLUMN_OX + <usize>a, s)
    const now = load<f32>(source(g, PX + a, i))
    // What a blow changed is the velocity that it has now.
    const speed =
      what == PAIR_STEP_TURN ? load<f32>(at(g, PAIR_COLUMN_UX + <usize>a, s)) : load<f32>(v) + (now - load<f32>(here) - put) * per
    store<f32>(v, speed)
    store<f32>(here, now)
    store<f32>(at(g, 3 + <usize>a, s), speed)
    store<f32>(o, load<f32>(o) + put)
    store<f32>(was, load<f32>(was) + put)
  }
}

/** What touching pairs give back of the speed that they met with; at the least nothing is left of it. Returns how many it touches. */
export function bounce(q: usize, g: usize, s: i32): u32 {
  const x = load<f32>(at(g, 0, s)),
    y = load<f32>(at(g, 1, s)),
    z = load<f32>(at(g, 2, s)),
    r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s)),
    n = load<f32>(at(g, PAIR_COLUMN_COUNT, s))
  const keep = load<f32>(q + PAIR_RESTITUTION),
    quiet = load<f32>(q + PAIR_QUIET)
  const m = r * r * r
  let dx: f32 = 0,
    dy: f32 = 0,
    dz: f32 = 0
  let met: u32 = 0,
    blows = <u32>load<f32>(at(g, PAIR_COLUMN_BLOWS, s))
  const list = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
  if (n > 0) {
    for (let k: usize = 0, e = (<usize>load<u32>(at(g, PAIR_COLUMN_LISTED, s))) << 2; k < e; k += 4) {
      const j = load<i32>(list + k)
      let ax = x - load<f32>(at(g, 0, j)),
        ay = y - load<f32>(at(g, 1, j)),
        az = z - load<f32>(at(g, 2, j))
      const rj = load<f32>(at(g, PAIR_COLUMN_RADIUS, j)),
        reach = (r + rj) * load<f32>(q + PAIR_TOUCH),
        dd = ax * ax + ay * ay + az * az
      if (dd >= reach * reach || dd < 1e-14) continue
      const d = Mathf.sqrt(dd)
      ax /= d
      ay /= d
      az /= d
      const was =
        (load<f32>(at(g, PAIR_COLUMN_UX, s)) - load<f32>(at(g, PAIR_COLUMN_UX, j))) * ax +
        (load<f32>(at(g, PAIR_COLUMN_UX + 1, s)) - load<f32>(at(g, PAIR_COLUMN_UX + 1, j))) * ay +
        (load<f32>(at(g, PAIR_COLUMN_UX + 2, s)) - load<f32>(at(g, PAIR_COLUMN_UX + 2, j))) * az
      const now =
        (load<f32>(at(g, 3, s)) - load<f32>(at(g, 3, j))) * ax +
        (load<f32>(at(g, 4, s)) - load<f32>(at(g, 4, j))) * ay +
        (load<f32>(at(g, 5, s)) - load<f32>(at(g, 5, j))) * az
      const wanted = was < -quiet ? -keep * was : 0
      if (was < -quiet) {
        blows++
        if (s < j) met++
      }
      if (now >= wanted) continue
      const mj = rj * rj * rj
      const w = ((wanted - now) * mj) / (m + mj) / max(n, load<f32>(at(g, PAIR_COLUMN_COUNT, j)))
      dx += ax * w
      dy += ay * w
      dz += az * w
    }
  }
  store<f32>(at(g, PAIR_COLUMN_DX, s), dx)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), dy)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), dz)
  store<f32>(at(g, PAIR_COLUMN_BLOWS, s), <f32>blows)
  return met
}
/** The velocities of the bounces. */
export function speed(g: usize, s: i32): void {
  const i = load<i32>(<usize>load<u32>(g + GRID_ORDER) + ((<usize>s) << 2))
  for (let a = 0; a < 3; a++) {
    const v = source(g, VX + a, i)
    store<f32>(v, load<f32>(v) + load<f32>(at(g, PAIR_COLUMN_DX + <usize>a, s)))
  }
}

/**
 * Who leans on others goes more like they do: corrections are far smaller than the weight that grains press each other with, so that their
 * friction alone would not bring a heap to rest. Left as a way in the corrections' columns.
 */
export function rub(q: usize, g: usize, s: i32): void {
  store<f32>(at(g, PAIR_COLUMN_DX, s), 0)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), 0)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), 0)
  if (load<f32>(at(g, PAIR_COLUMN_COUNT, s)) == 0 || load<f32>(at(g, PAIR_COLUMN_BLOWS, s)) > 0) return
  const x = load<f32>(at(g, 0, s)),
    y = load<f32>(at(g, 1, s)),
    z = load<f32>(at(g, 2, s)),
    r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s)),
    touch = load<f32>(q + PAIR_TOUCH)
  let dx: f32 = 0,
    dy: f32 = 0,
    dz: f32 = 0,
    n: f32 = 0
  const list = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
  for (let k: usize = 0, e = (<usize>load<u32>(at(g, PAIR_COLUMN_LISTED, s))) << 2; k < e; k += 4) {
    const j = load<i32>(list + k)
    const jx = load<f32>(at(g, 0, j)),
      jy = load<f32>(at(g, 1, j)),
      jz = load<f32>(at(g, 2, j)),
      reach = (load<f32>(at(g, PAIR_COLUMN_RADIUS, j)) + r) * touch
    if ((jx - x) * (jx - x) + (jy - y) * (jy - y) + (jz - z) * (jz - z) >= reach * reach) continue
    dx += jx - load<f32>(at(g, PAIR_COLUMN_OX, j))
    dy += jy - load<f32>(at(g, PAIR_COLUMN_OX + 1, j))
    dz += jz - load<f32>(at(g, PAIR_COLUMN_OX + 2, j))
    n += 1
  }
  if (n == 0) return
  const c = min(<f32>0.6, <f32>2 * load<f32>(q + PAIR_FRICTION))
  store<f32>(at(g, PAIR_COLUMN_DX, s), c * (dx / n - (x - load<f32>(at(g, PAIR_COLUMN_OX, s)))))
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), c * (dy / n - (y - load<f32>(at(g, PAIR_COLUMN_OX + 1, s)))))
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), c * (dz / n - (z - load<f32>(at(g, PAIR_COLUMN_OX + 2, s)))))
}
/**
 * What leans on others without a blow is as fast as it has really gone, so that a heap's weight, which rounds of corrections hold up only
 * nearly, does not show as a speed; and what has all but not gone stays where it was.
 */
export function finish(q: usize, g: usize, s: i32): void {
  if (load<f32>(at(g, PAIR_COLUMN_COUNT, s)) == 0 || load<f32>(at(g, PAIR_COLUMN_BLOWS, s)) > 0) return
  const i = load<i32>(<usize>load<u32>(g + GRID_ORDER) + ((<usize>s) << 2))
  const per = load<f32>(q + PAIR_PER_SECOND)
  let squared: f32 = 0,
    seems: f32 = 0
  for (let a = 0; a < 3; a++) {
    const d =
        load<f32>(source(g, PX + a, i)) - load<f32>(at(g, PAIR_COLUMN_OX + <usize>a, s)) + load<f32>(at(g, PAIR_COLUMN_DX + <usize>a, s)),
      e = load<f32>(source(g, VX + a, i)) - d * per
    squared += d * d
    seems += e * e
  }
  const lean = load<f32>(q + PAIR_LEAN)
  if (seems > lean * lean) return
  const rest = load<f32>(q + PAIR_REST) / (per * per)
  const still = squared < rest * rest
  for (let a = 0; a < 3; a++) {
    const p = source(g, PX + a, i),
      o = load<f32>(at(g, PAIR_COLUMN_OX + <usize>a, s))
    store<f32>(source(g, VX + a, i), still ? 0 : (load<f32>(p) - o + load<f32>(at(g, PAIR_COLUMN_DX + <usize>a, s))) * per)
    if (still) store<f32>(p, o)
  }
}
