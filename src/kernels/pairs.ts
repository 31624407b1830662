// Particles with a radius that meet each other: their places are corrected until none overlaps (position based, after Macklin, Müller,
// Chentanez and Kim 2014), their velocities follow, then each touching pair gives back its share of the speed it met with. A pair's
// correction is divided by the larger of both counts of overlaps, so that what one gets the other loses and momentum stays.
import { crowded, inRanges, rangesAround } from './grid'
import {
  BENT,
  GRID_CELL,
  GRID_COLUMNS,
  GRID_DIMS,
  GRID_ORDER,
  GRID_SORTED,
  GRID_STRIDE,
  JOB_CHUNK,
  JOB_CONTACTS,
  JOB_COUNT,
  JOB_CROWDED,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  OX,
  PAIR_COLLIDERS,
  PAIR_COLLIDER_COUNT,
  PAIR_COLUMN_BENT,
  PAIR_COLUMN_BLOWS,
  PAIR_COLUMN_COUNT,
  PAIR_COLUMN_DX,
  PAIR_COLUMN_LISTED,
  PAIR_COLUMN_OX,
  PAIR_COLUMN_PARTNER,
  PAIR_COLUMN_RADIUS,
  PAIR_COLUMN_TIME,
  PAIR_COLUMN_UX,
  PAIR_FRICTION,
  PAIR_GRID,
  PAIR_LEAN,
  PAIR_LISTED,
  PAIR_LISTS,
  PAIR_ORDERED,
  PAIR_PER_SECOND,
  PAIR_QUIET,
  PAIR_RADIUS,
  PAIR_REST,
  PAIR_RESTITUTION,
  PAIR_SEED,
  PAIR_STEP,
  PAIR_STEP_APPLY,
  PAIR_STEP_BOUNCE,
  PAIR_STEP_COUNT,
  PAIR_STEP_FIND,
  PAIR_STEP_FINISH,
  PAIR_STEP_HOLD,
  PAIR_STEP_LIFT_UP,
  PAIR_STEP_LOAD,
  PAIR_STEP_PLACE,
  PAIR_STEP_PUSH,
  PAIR_STEP_RUB,
  PAIR_STEP_SETTLE,
  PAIR_STEP_SPEED,
  PAIR_STEP_STRIKE,
  PAIR_STEP_TURN,
  PAIR_TOUCH,
  PAIR_UP,
  PAIR_VARY,
  PX,
  SCRATCH_BYTES,
  SCRATCH_HIT,
  SCRATCH_STACK,
  SEED,
  VX,
} from './layout'
import { hash3, signed } from './math'
import { nudge } from './nudge'

/** How many a list holds. */
/** Nobody looks at more others than this. */
const MANY: i32 = 1024
/** What to do. */
/** Where several push, corrections go this much farther than asked: they come to an end sooner (successive over-relaxation). */
const HURRY: f32 = 1.5
/** How much more of a correction the upper of two gets, one right above the other. */
const LIFT: f32 = 0.8
/** Of what lies at least so steeply under it a ball is held up: the sine of the slope. */
const UNDER: f32 = 0.15
/** A correction goes at most this far at once, in radii. */
const MOST: f32 = 0.4
/** One shorter than this, in radii, is none: rounding is larger, and what halves from round to round would end in numbers that are slow. */
const LEAST: f32 = 1e-6

export function pairs(job: usize, thread: i32): void {
  const q = <usize>load<u32>(job + JOB_RECORD),
    g = <usize>load<u32>(q + PAIR_GRID)
  const what = load<i32>(q + PAIR_STEP),
    count = load<i32>(job + JOB_COUNT),
    ordered = <usize>load<u32>(q + PAIR_ORDERED),
    chunk = load<i32>(job + JOB_CHUNK)
  const stop = <usize>load<u32>(job + JOB_STOP)
  const scratch = <usize>load<u32>(job + JOB_SCRATCH) + <usize>thread * SCRATCH_BYTES
  const list = scratch + SCRATCH_HIT
  const order = <usize>load<u32>(g + GRID_ORDER),
    cells = <usize>load<u32>(g + GRID_CELL)
  const nx = load<i32>(g + GRID_DIMS),
    ny = load<i32>(g + GRID_DIMS + 4)
  while (atomic.load<u32>(stop) == 0) {
    const begin = atomic.add<i32>(job + JOB_NEXT, chunk)
    if (begin >= count) return
    const end = min(begin + chunk, count)
    let last = -1,
      ranges = 0,
      many = false
    let met: u32 = 0
    for (let k = begin; k < end; k++) {
      const s = ordered ? load<i32>(ordered + ((<usize>k) << 2)) : k
      if (what == PAIR_STEP_LOAD) {
        prepare(q, g, s)
        continue
      }
      if (what == PAIR_STEP_APPLY || what == PAIR_STEP_PLACE || what == PAIR_STEP_TURN) {
        apply(q, g, s, scratch, what)
        continue
      }
      if (what == PAIR_STEP_FIND) {
        find(q, g, s)
        continue
      }
      if (what == PAIR_STEP_STRIKE) {
        met += strike(q, g, s)
        continue
      }
      if (what == PAIR_STEP_RUB) {
        rub(q, g, s)
        continue
      }
      if (what == PAIR_STEP_FINISH) {
        finish(q, g, s)
        continue
      }
      if (what == PAIR_STEP_SPEED) {
        speed(g, s)
        continue
      }
      if (what == PAIR_STEP_COUNT) {
        overlaps(q, g, s)
        continue
      }
      if (what == PAIR_STEP_PUSH || what == PAIR_STEP_SETTLE) {
        push(q, g, s, what == PAIR_STEP_SETTLE)
        continue
      }
      if (what == PAIR_STEP_HOLD || what == PAIR_STEP_LIFT_UP) {
        hold(q, g, s, what == PAIR_STEP_LIFT_UP)
        continue
      }
      if (what == PAIR_STEP_BOUNCE) {
        met += bounce(q, g, s)
        continue
      }
      const cell = load<i32>(cells + ((<usize>load<i32>(order + ((<usize>s) << 2))) << 2))
      if (cell != last) {
        const row = cell / nx
        ranges = rangesAround(g, cell - row * nx, row % ny, row / ny, list)
        last = cell
        many = inRanges(list, ranges) > MANY
      }
      // Balls of a size have a few dozen others in their cells; more is a heap at one place, which comes apart from substep to substep.
      if (many) {
        crowded(list, ranges, s, MANY)
        last = -1
      }
      if (listed(q, g, s, list, ranges) || many) atomic.add<u32>(job + JOB_CROWDED, 1)
    }
    // Each pair is seen from both sides.
    if (met) atomic.add<u32>(job + JOB_CONTACTS, met)
  }
}
// @ts-ignore: decorator
@inline function at(g: usize, c: usize, s: i32): usize {
  return <usize>load<u32>(g + GRID_SORTED) + c * <usize>load<u32>(g + GRID_STRIDE) + ((<usize>s) << 2)
}
// @ts-ignore: decorator
@inline function source(g: usize, c: i32, i: i32): usize {
  return <usize>load<u32>(<usize>load<u32>(g + GRID_COLUMNS) + ((<usize>c) << 2)) + ((<usize>i) << 2)
}
function prepare(q: usize, g: usize, s: i32): void {
  const i = load<i32>(<usize>load<u32>(g + GRID_ORDER) + ((<usize>s) << 2))
  const r = load<f32>(q + PAIR_RADIUS),
    vary = load<f32>(q + PAIR_VARY)
  store<f32>(
    at(g, PAIR_COLUMN_RADIUS, s),
    max(<f32>1e-6, vary == 0 ? r : r + vary * signed(hash3(load<u32>(q + PAIR_SEED), load<u32>(source(g, SEED, i)), 32))),
  )
  for (let a = 0; a < 3; a++) {
    store<f32>(at(g, PAIR_COLUMN_OX + <usize>a, s), load<f32>(source(g, OX + a, i)))
    store<f32>(at(g, PAIR_COLUMN_UX + <usize>a, s), load<f32>(source(g, VX + a, i)))
  }
  store<u32>(at(g, PAIR_COLUMN_BENT, s), load<u32>(source(g, BENT, i)))
  store<f32>(at(g, PAIR_COLUMN_BLOWS, s), 0)
}
/** How it goes on one axis within the substep: the way, and its velocity at share t of it, when a constant acceleration took it there. */
// @ts-ignore: decorator
@inline function way(g: usize, a: usize, s: i32): f32 {
  return load<f32>(at(g, a, s)) - load<f32>(at(g, PAIR_COLUMN_OX + a, s))
}
// @ts-ignore: decorator
@inline function velocity(g: usize, a: usize, s: i32, t: f32, per: f32): f32 {
  const end = load<f32>(at(g, 3 + a, s))
  return end - 2 * (end - way(g, a, s) * per) * (1 - t)
}
/**
 * Whom it strikes first, and when: both go straight, were apart as the substep began, and their middles come as near as their radii. What
 * leans on another, or bends its way at a collider, is left to the rounds of corrections.
 */
function find(q: usize, g: usize, s: i32): void {
  let partner = -1,
    first: f32 = 1
  if (load<u32>(at(g, PAIR_COLUMN_BENT, s)) == 0) {
    const per = load<f32>(q + PAIR_PER_SECOND),
      quiet = max(load<f32>(q + PAIR_QUIET), <f32>1e-6)
    const r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s))
    const list = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
    for (let k: usize = 0, e = (<usize>load<u32>(at(g, PAIR_COLUMN_LISTED, s))) << 2; k < e; k += 4) {
      const j = load<i32>(list + k)
      if (load<u32>(at(g, PAIR_COLUMN_BENT, j))) continue
      const x = load<f32>(at(g, PAIR_COLUMN_OX, s)) - load<f32>(at(g, PAIR_COLUMN_OX, j)),
        y = load<f32>(at(g, PAIR_COLUMN_OX + 1, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 1, j)),
        z = load<f32>(at(g, PAIR_COLUMN_OX + 2, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 2, j))
      const dx = way(g, 0, s) - way(g, 0, j),
        dy = way(g, 1, s) - way(g, 1, j),
        dz = way(g, 2, s) - way(g, 2, j)
      const reach = r + load<f32>(at(g, PAIR_COLUMN_RADIUS, j))
      const a = dx * dx + dy * dy + dz * dz,
        b = x * dx + y * dy + z * dz,
        c = x * x + y * y + z * z - reach * reach
      if (b >= 0 || c < -1e-3 * reach * reach) continue
      const root = b * b - a * max(c, <f32>0)
      if (root < 0) continue
      const t = max(c, <f32>0) / (Mathf.sqrt(root) - b)
      if (t >= first || (t == first && partner >= 0)) continue
      // How fast they close, along the line through their middles.
      if ((b + a * t) * per > -quiet * reach) continue
      first = t
      partner = j
    }
  }
  store<i32>(at(g, PAIR_COLUMN_PARTNER, s), partner)
  store<f32>(at(g, PAIR_COLUMN_TIME, s), first)
}
/**
 * Two that are each other's first bounce at that moment, with the direction that their middles have then, and go on with their new
 * velocities for the rest of the substep: exact for a pair. Its corrections are left in their columns, the change of its velocity at once.
 */
function strike(q: usize, g: usize, s: i32): u32 {
  store<f32>(at(g, PAIR_COLUMN_DX, s), 0)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), 0)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), 0)
  const j = load<i32>(at(g, PAIR_COLUMN_PARTNER, s))
  if (j < 0 || load<i32>(at(g, PAIR_COLUMN_PARTNER, j)) != s) return 0
  const per = load<f32>(q + PAIR_PER_SECOND),
    t = load<f32>(at(g, PAIR_COLUMN_TIME, s))
  let nx = load<f32>(at(g, PAIR_COLUMN_OX, s)) - load<f32>(at(g, PAIR_COLUMN_OX, j)) + t * (way(g, 0, s) - way(g, 0, j)),
    ny = load<f32>(at(g, PAIR_COLUMN_OX + 1, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 1, j)) + t * (way(g, 1, s) - way(g, 1, j)),
    nz = load<f32>(at(g, PAIR_COLUMN_OX + 2, s)) - load<f32>(at(g, PAIR_COLUMN_OX + 2, j)) + t * (way(g, 2, s) - way(g, 2, j))
  const length = Mathf.sqrt(nx * nx + ny * ny + nz * nz)
  if (length < 1e-12) return 0
  nx /= length
  ny /= length
  nz /= length
  let u = velocity(g, 0, s, t, per) - velocity(g, 0, j, t, per),
    v = velocity(g, 1, s, t, per) - velocity(g, 1, j, t, per),
    w = velocity(g, 2, s, t, per) - velocity(g, 2, j, t, per)
  const vn = u * nx + v * ny + w * nz
  if (vn >= 0) return 0
  const r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s)),
    rj = load<f32>(at(g, PAIR_COLUMN_RADIUS, j)),
    m = r * r * r,
    mj = rj * rj * rj,
    part = mj / (m + mj)
  const blow: f32 = -(<f32>1 + load<f32>(q + PAIR_RESTITUTION)) * vn
  u -= nx * vn
  v -= ny * vn
  w -= nz * vn
  const h = stopped(u, v, w, load<f32>(q + PAIR_FRICTION) * blow)
  const du = part * (nx * blow - u * h),
    dv = part * (ny * blow - v * h),
    dw = part * (nz * blow - w * h)
  const later = per > 0 ? (<f32>1 - t) / per : <f32>0
  store<f32>(at(g, PAIR_COLUMN_DX, s), du * later)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), dv * later)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), dw * later)
  store<f32>(at(g, PAIR_COLUMN_UX, s), load<f32>(at(g, PAIR_COLUMN_UX, s)) + du)
  store<f32>(at(g, PAIR_COLUMN_UX + 1, s), load<f32>(at(g, PAIR_COLUMN_UX + 1, s)) + dv)
  store<f32>(at(g, PAIR_COLUMN_UX + 2, s), load<f32>(at(g, PAIR_COLUMN_UX + 2, s)) + dw)
  store<f32>(at(g, PAIR_COLUMN_BLOWS, s), 1)
  return s < j ? 1 : 0
}
/** Who may touch it in this substep, in their order; true when there are more than a list holds. */
function listed(q: usize, g: usize, s: i32, list: usize, ranges: i32): bool {
  const sx = at(g, 0, 0),
    sy = at(g, 1, 0),
    sz = at(g, 2, 0),
    sr = at(g, PAIR_COLUMN_RADIUS, 0),
    o = (<usize>s) << 2
  const touch = v128.load32_splat(q + PAIR_TOUCH)
  const qx = v128.load32_splat(sx + o),
    qy = v128.load32_splat(sy + o),
    qz = v128.load32_splat(sz + o),
    qr = v128.load32_splat(sr + o)
  const out = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
  let n: usize = 0
  for (let k: usize = 0; k < <usize>ranges; k++) {
    const e = load<i32>(list + (k << 3), 4)
    for (let j4 = load<i32>(list + (k << 3)); j4 < e; j4 += 4)
      for (let mask = near(j4, e, qx, qy, qz, qr, touch, sx, sy, sz, sr); mask; mask &= mask - 1) {
        const j = j4 + ctz(mask)
        if (j == s) continue
        if (n == PAIR_LISTED) {
          store<u32>(at(g, PAIR_COLUMN_LISTED, s), <u32>n)
          return true
        }
        store<i32>(out + (n << 2), j)
        n++
      }
  }
  store<u32>(at(g, PAIR_COLUMN_LISTED, s), <u32>n)
  return false
}
function overlaps(q: usize, g: usize, s: i32): void {
  const x = load<f32>(at(g, 0, s)),
    y = load<f32>(at(g, 1, s)),
    z = load<f32>(at(g, 2, s)),
    r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s)),
    touch = load<f32>(q + PAIR_TOUCH)
  const sx = at(g, 0, 0),
    sy = at(g, 1, 0),
    sz = at(g, 2, 0),
    sr = at(g, PAIR_COLUMN_RADIUS, 0)
  const list = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
  let n = 0
  for (let k: usize = 0, e = (<usize>load<u32>(at(g, PAIR_COLUMN_LISTED, s))) << 2; k < e; k += 4) {
    const o = (<usize>load<i32>(list + k)) << 2
    const dx = load<f32>(sx + o) - x,
      dy = load<f32>(sy + o) - y,
      dz = load<f32>(sz + o) - z,
      reach = (load<f32>(sr + o) + r) * touch
    if (dx * dx + dy * dy + dz * dz < reach * reach) n++
  }
  store<f32>(at(g, PAIR_COLUMN_COUNT, s), <f32>n)
}
/** Which of four, before the end, are nearer than both radii: a bit each. */
// @ts-ignore: decorator
@inline function near(
  j: i32,
  end: i32,
  qx: v128,
  qy: v128,
  qz: v128,
  qr: v128,
  touch: v128,
  sx: usize,
  sy: usize,
  sz: usize,
  sr: usize,
): i32 {
  const o = (<usize>j) << 2
  const dx = f32x4.sub(v128.load(sx + o), qx),
    dy = f32x4.sub(v128.load(sy + o), qy),
    dz = f32x4.sub(v128.load(sz + o), qz),
    reach = f32x4.mul(touch, f32x4.add(v128.load(sr + o), qr))
  const mask = i32x4.bitmask(
    f32x4.lt(f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)), f32x4.mul(reach, reach)),
  )
  const left = end - j
  return left >= 4 ? mask : mask & ((1 << left) - 1)
}
/** Which way two that are at one place go apart: by their numbers, each the other's opposite. */
// @ts-ignore: decorator
@inline function apart(s: i32, j: i32, axis: u32): f32 {
  const direction = signed(hash3(0x51ed270b, <u32>min(s, j) ^ ((<u32>max(s, j)) << 16), axis))
  return s < j ? direction : -direction
}
/** Friction takes away what two slid along each other, up to its share of their overlap (Coulomb): how much of it. */
// @ts-ignore: decorator
@inline function stopped(tx: f32, ty: f32, tz: f32, maximum: f32): f32 {
  const slid = Mathf.sqrt(tx * tx + ty * ty + tz * tz)
  return slid > 1e-12 ? min(<f32>1, maximum / slid) : 0
}
/**
 * A round of corrections. Moving (not `settle`), pairs come no nearer than they were as the substep began, or than they may; all of it
 * counts as velocity. Settling, what still overlaps goes apart, and nobody gets faster by it.
 */
function push(q: usize, g: usize, s: i32, settle: bool): void {
  const x = load<f32>(at(g, 0, s)),
    y = load<f32>(at(g, 1, s)),
    z = load<f32>(at(g, 2, s)),
    r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s)),
    n = load<f32>(at(g, PAIR_COLUMN_COUNT, s))
  const ox = load<f32>(at(g, PAIR_COLUMN_OX, s)),
    oy = load<f32>(at(g, PAIR_COLUMN_OX + 1, s)),
    oz = load<f32>(at(g, PAIR_COLUMN_OX + 2, s))
  const mu: f32 = settle ? 0 : load<f32>(q + PAIR_FRICTION)
  const sx = at(g, 0, 0),
    sy = at(g, 1, 0),
    sz = at(g, 2, 0),
    sr = at(g, PAIR_COLUMN_RADIUS, 0),
    sn = at(g, PAIR_COLUMN_COUNT, 0),
    px = at(g, PAIR_COLUMN_OX, 0),
    py = at(g, PAIR_COLUMN_OX + 1, 0),
    pz = at(g, PAIR_COLUMN_OX + 2, 0)
  const u = load<f32>(at(g, PAIR_COLUMN_UX, s)),
    v = load<f32>(at(g, PAIR_COLUMN_UX + 1, s)),
    w = load<f32>(at(g, PAIR_COLUMN_UX + 2, s)),
    su = at(g, PAIR_COLUMN_UX, 0),
    sv = at(g, PAIR_COLUMN_UX + 1, 0),
    sw = at(g, PAIR_COLUMN_UX + 2, 0)
  const quiet = load<f32>(q + PAIR_QUIET),
    upX = load<f32>(q + PAIR_UP),
    upY = load<f32>(q + PAIR_UP, 4),
    upZ = load<f32>(q + PAIR_UP, 8)
  const m = r * r * r
  let dx: f32 = 0,
    dy: f32 = 0,
    dz: f32 = 0
  const list = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
  if (n > 0) {
    for (let k: usize = 0, e = (<usize>load<u32>(at(g, PAIR_COLUMN_LISTED, s))) << 2; k < e; k += 4) {
      const j = load<i32>(list + k)
      const o = (<usize>j) << 2
      let ax = x - load<f32>(sx + o),
        ay = y - load<f32>(sy + o),
        az = z - load<f32>(sz + o)
      const reach = r + load<f32>(sr + o),
        dd = ax * ax + ay * ay + az * az
      if (dd >= reach * reach) continue
      let d = Mathf.sqrt(dd)
      const bx = ox - load<f32>(px + o),
        by = oy - load<f32>(py + o),
        bz = oz - load<f32>(pz + o)
      const over = (settle ? reach : min(reach, Mathf.sqrt(bx * bx + by * by + bz * bz))) - d
      if (over <= 0) continue
      if (d < 1e-6 * reach) {
        ax = apart(s, j, 1)
        ay = apart(s, j, 2)
        az = apart(s, j, 3)
        d = Mathf.sqrt(ax * ax + ay * ay + az * az) + 1e-9
      }
      ax /= d
      ay /= d
      az /= d
      const rj = load<f32>(sr + o),
        mj = rj * rj * rj
      const maximum = max(n, load<f32>(sn + o))
      let part = mj / (m + mj)
      // What rests on another goes out of its way more than that does: weight is held up by a few rounds, not one for each layer (mass
      // scaling, Macklin et al.).
      const was = (load<f32>(su + o) - u) * ax + (load<f32>(sv + o) - v) * ay + (load<f32>(sw + o) - w) * az
      if (settle || was <= quiet) part += LIFT * 2 * part * (1 - part) * (ax * upX + ay * upY + az * upZ)
      const share = (part / maximum) * (maximum > 1 ? HURRY : <f32>1)
      let fx = ax * over,
        fy = ay * over,
        fz = az * over
      if (mu > 0) {
        let tx = x - load<f32>(sx + o) - bx,
          ty = y - load<f32>(sy + o) - by,
          tz = z - load<f32>(sz + o) - bz
        const tn = tx * ax + ty * ay + tz * az
        tx -= tn * ax
        ty -= tn * ay
        tz -= tn * az
        const h = stopped(tx, ty, tz, mu * over)
        fx -= tx * h
        fy -= ty * h
        fz -= tz * h
      }
      dx += fx * share
      dy += fy * share
      dz += fz * share
    }
  }
  // Far too much at once is spread over the rounds and substeps to come.
  const length = Mathf.sqrt(dx * dx + dy * dy + dz * dz)
  const k: f32 = length < LEAST * r ? 0 : settle && length > MOST * r ? (MOST * r) / length : 1
  store<f32>(at(g, PAIR_COLUMN_DX, s), dx * k)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), dy * k)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), dz * k)
}
/**
 * One of a layer is put on what it rests on, which gives no way: from the lowest layer up the whole weight of a heap is held in one sweep
 * (shock propagation, Guendelman, Bridson and Fedkiw 2003). Moving (not `settle`), only what leans without a blow, no nearer than it was;
 * settling, what still overlaps.
 */
function hold(q: usize, g: usize, s: i32, settle: bool): void {
  const x = load<f32>(at(g, 0, s)),
    y = load<f32>(at(g, 1, s)),
    z = load<f32>(at(g, 2, s)),
    r = load<f32>(at(g, PAIR_COLUMN_RADIUS, s))
  const ox = load<f32>(at(g, PAIR_COLUMN_OX, s)),
    oy = load<f32>(at(g, PAIR_COLUMN_OX + 1, s)),
    oz = load<f32>(at(g, PAIR_COLUMN_OX + 2, s))
  const u = load<f32>(at(g, PAIR_COLUMN_UX, s)),
    v = load<f32>(at(g, PAIR_COLUMN_UX + 1, s)),
    w = load<f32>(at(g, PAIR_COLUMN_UX + 2, s))
  const quiet = load<f32>(q + PAIR_QUIET),
    upX = load<f32>(q + PAIR_UP),
    upY = load<f32>(q + PAIR_UP, 4),
    upZ = load<f32>(q + PAIR_UP, 8)
  const mu: f32 = settle ? 0 : load<f32>(q + PAIR_FRICTION)
  const list = <usize>load<u32>(q + PAIR_LISTS) + <usize>s * (PAIR_LISTED << 2)
  let dx: f32 = 0,
    dy: f32 = 0,
    dz: f32 = 0,
    n: f32 = 0
  for (let k: usize = 0, e = (<usize>load<u32>(at(g, PAIR_COLUMN_LISTED, s))) << 2; k < e; k += 4) {
    const j = load<i32>(list + k)
    let ax = x - load<f32>(at(g, 0, j)),
      ay = y - load<f32>(at(g, 1, j)),
      az = z - load<f32>(at(g, 2, j))
    const reach = r + load<f32>(at(g, PAIR_COLUMN_RADIUS, j)),
      dd = ax * ax + ay * ay + az * az
    if (dd >= reach * reach || dd < 1e-12 * reach * reach) continue
    const d = Mathf.sqrt(dd)
    ax /= d
    ay /= d
    az /= d
    if (ax * upX + ay * upY + az * upZ < UNDER) continue
    const bx = ox - load<f32>(at(g, PAIR_COLUMN_OX, j)),
      by = oy - load<f32>(at(g, PAIR_COLUMN_OX + 1, j)),
      bz = oz - load<f32>(at(g, PAIR_COLUMN_OX + 2, j))
    const over = (settle ? reach : min(reach, Mathf.sqrt(bx * bx + by * by + bz * bz))) - d
    if (over <= 0) continue
    if (
      !settle &&
      (load<f32>(at(g, PAIR_COLUMN_UX, j)) - u) * ax +
        (load<f32>(at(g, PAIR_COLUMN_UX + 1, j)) - v) * ay +
        (load<f32>(at(g, PAIR_COLUMN_UX + 2, j)) - w) * az >
        quiet
    )
      continue
    dx += ax * over
    dy += ay * over
    dz += az * over
    n += 1
    if (mu > 0) {
      let tx = x - load<f32>(at(g, 0, j)) - bx,
        ty = y - load<f32>(at(g, 1, j)) - by,
        tz = z - load<f32>(at(g, 2, j)) - bz
      const tn = tx * ax + ty * ay + tz * az
      tx -= tn * ax
      ty -= tn * ay
      tz -= tn * az
      const h = stopped(tx, ty, tz, mu * over)
      dx -= tx * h
      dy -= ty * h
      dz -= tz * h
    }
  }
  const length = Mathf.sqrt(dx * dx + dy * dy + dz * dz),
    maximum: f32 = settle ? 0.1 * r : MOST * r
  let k: f32 = n > 1 ? HURRY / n : 1
  if (length * k > maximum) k = maximum / length
  if (length < LEAST * r) k = 0
  store<f32>(at(g, PAIR_COLUMN_DX, s), dx * k)
  store<f32>(at(g, PAIR_COLUMN_DX + 1, s), dy * k)
  store<f32>(at(g, PAIR_COLUMN_DX + 2, s), dz * k)
}
/** Corrections become places, as far as the colliders let them; what they really moved becomes velocity. */
function apply(q: usize, g: usize, s: i32, scratch: usize, what: i32): void {
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
function bounce(q: usize, g: usize, s: i32): u32 {
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
function speed(g: usize, s: i32): void {
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
function rub(q: usize, g: usize, s: i32): void {
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
function finish(q: usize, g: usize, s: i32): void {
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
