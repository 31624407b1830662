// Particles with a radius that meet each other: their places are corrected until none overlaps (position based, after Macklin, Müller,
// Chentanez and Kim 2014), their velocities follow, then each touching pair gives back its share of the speed it met with. A pair's
// correction is divided by the larger of both counts of overlaps, so that what one gets the other loses and momentum stays.
import { crowded, inRanges, rangesAround } from './grid'
import {
  BENT,
  GIRTH,
  GRID_CELL,
  GRID_COLUMNS,
  GRID_DIMS,
  GRID_ORDER,
  JOB_CHUNK,
  JOB_CONTACTS,
  JOB_COUNT,
  JOB_CROWDED,
  JOB_NEXT,
  JOB_RECORD,
  JOB_SCRATCH,
  JOB_STOP,
  OX,
  PAIR_COLUMN_BENT,
  PAIR_COLUMN_BLOWS,
  PAIR_COLUMN_COUNT,
  PAIR_COLUMN_LISTED,
  PAIR_COLUMN_OX,
  PAIR_COLUMN_RADIUS,
  PAIR_COLUMN_UX,
  PAIR_GRID,
  PAIR_LISTED,
  PAIR_LISTS,
  PAIR_ORDERED,
  PAIR_RADIUS,
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
  PAIR_VARY,
  SCRATCH_BYTES,
  SCRATCH_HIT,
  SEED,
  VX,
} from './layout'
import { hash3, signed } from './math'
import { at, source } from './pairColumns'
import { hold, push } from './pairPushes'
import { apply, bounce, finish, rub, speed } from './pairSpeeds'
import { find, strike } from './pairStrikes'

/** Nobody looks at more others than this. */
const MANY: i32 = 1024

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

function prepare(q: usize, g: usize, s: i32): void {
  const i = load<i32>(<usize>load<u32>(g + GRID_ORDER) + ((<usize>s) << 2))
  const r = load<f32>(q + PAIR_RADIUS),
    vary = load<f32>(q + PAIR_VARY),
    girth = load<u32>(<usize>load<u32>(g + GRID_COLUMNS) + (GIRTH << 2)) ? load<f32>(source(g, GIRTH, i)) : 1
  store<f32>(
    at(g, PAIR_COLUMN_RADIUS, s),
    max(<f32>1e-6, (vary == 0 ? r : r + vary * signed(hash3(load<u32>(q + PAIR_SEED), load<u32>(source(g, SEED, i)), 32))) * girth),
  )
  for (let a = 0; a < 3; a++) {
    store<f32>(at(g, PAIR_COLUMN_OX + <usize>a, s), load<f32>(source(g, OX + a, i)))
    store<f32>(at(g, PAIR_COLUMN_UX + <usize>a, s), load<f32>(source(g, VX + a, i)))
  }
  store<u32>(at(g, PAIR_COLUMN_BENT, s), load<u32>(source(g, BENT, i)))
  store<f32>(at(g, PAIR_COLUMN_BLOWS, s), 0)
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
