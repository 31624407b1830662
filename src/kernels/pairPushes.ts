// Corrections of pairs that overlap: all at once in rounds, and layer by layer from the lowest up.
import {
  PAIR_COLUMN_COUNT,
  PAIR_COLUMN_DX,
  PAIR_COLUMN_LISTED,
  PAIR_COLUMN_OX,
  PAIR_COLUMN_RADIUS,
  PAIR_COLUMN_UX,
  PAIR_FRICTION,
  PAIR_LISTED,
  PAIR_LISTS,
  PAIR_QUIET,
  PAIR_UP,
} from './layout'
import { apart, at, stopped } from './pairColumns'

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

/**
 * A round of corrections. Moving (not `settle`), pairs come no nearer than they were as the substep began, or than they may; all of it
 * counts as velocity. Settling, what still overlaps goes apart, and nobody gets faster by it.
 */
export function push(q: usize, g: usize, s: i32, settle: bool): void {
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
export function hold(q: usize, g: usize, s: i32, settle: bool): void {
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
