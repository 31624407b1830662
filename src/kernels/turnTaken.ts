// A turn, of those whose moment has come; and how many took each, for the engine.
import { col } from './columns'
import {
  DEAD,
  HELD,
  LIFE,
  OP_CODE,
  OP_SEED,
  OP_SIZE,
  OP_TURN,
  PHASE,
  PHASE_FROM,
  PHASE_START,
  SCRATCH_ROW,
  SCRATCH_ROWS,
  SCRATCH_TAKEN,
  SEED,
  SIZE,
  STUCK,
  TARGET_FAR,
  TURNED,
  TURN_DEFLECT,
  TURN_DEFLECT_VARY,
  TURN_FREE,
  TURN_FROM,
  TURN_LIFE,
  TURN_LIFE_VARY,
  TURN_MARK,
  TURN_MODE,
  TURN_PUSH,
  TURN_REDRAW,
  TURN_RENEW,
  TURN_ROW,
  TURN_SCALE,
  TURN_SCALE_VARY,
  TURN_SCATTER,
  TURN_SIZE,
  TURN_SIZE_VARY,
  TURN_TAKEN,
  TURN_TO,
  VX,
  VY,
  VZ,
} from './layout'
import { cosTurn, hash3, signed, sinTurn, unit } from './math'
import { nth } from './turnList'

/** Turns in a radian. */
const PER_TURN: f32 = 0.159154943
/** How many the last turn took; of this thread. */
export let takenNow: u32 = 0
/** Those whose moment has come and who have not turned in this substep yet. Returns how many lives it ended. */
export function turn(columns: usize, op: usize, begin: i32, n: i32, done: usize, scratch: usize): i32 {
  const row = scratch + SCRATCH_ROWS + <usize>load<i32>(op + TURN_ROW) * SCRATCH_ROW
  const from = load<u32>(op + TURN_FROM),
    to = load<i32>(op + TURN_TO),
    seed = load<u32>(op + OP_SEED)
  const scale = load<f32>(op + TURN_SCALE),
    scaleVary = load<f32>(op + TURN_SCALE_VARY),
    pushX = load<f32>(op + TURN_PUSH),
    pushY = load<f32>(op + TURN_PUSH + 4),
    pushZ = load<f32>(op + TURN_PUSH + 8),
    scatter = load<f32>(op + TURN_SCATTER),
    deflect = load<f32>(op + TURN_DEFLECT),
    deflectVary = load<f32>(op + TURN_DEFLECT_VARY)
  const renew = load<u32>(op + TURN_RENEW) == 1,
    life = load<f32>(op + TURN_LIFE),
    lifeVary = load<f32>(op + TURN_LIFE_VARY),
    size = load<f32>(op + TURN_SIZE),
    sizeVary = load<f32>(op + TURN_SIZE_VARY),
    free = load<u32>(op + TURN_FREE) == 1,
    redraw = load<u32>(op + TURN_REDRAW) == 1,
    mode = load<u32>(op + TURN_MODE),
    mark = load<u32>(op + TURN_MARK)
  const phases = col(columns, PHASE, begin),
    starts = col(columns, PHASE_START, begin),
    lives = col(columns, LIFE, begin),
    dead = col(columns, DEAD, begin),
    seeds = col(columns, SEED, begin)
  const vx = col(columns, VX, begin),
    vy = col(columns, VY, begin),
    vz = col(columns, VZ, begin)
  let taken = 0,
    ended = 0
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    const at = load<f32>(row + o)
    if (at == Infinity || load<u32>(phases + o) != from || load<u32>(dead + o) || load<u32>(done + o)) continue
    store<u32>(done + o, 1)
    taken++
    if (mode) {
      // The engine does the rest: who is marked is copied, or taken over by another system.
      store<f32>(starts + o, at)
      store<u32>(col(columns, TURNED, begin) + o, mark)
      if (mode == 1) continue
      store<u32>(dead + o, 0xffffffff)
      ended++
      continue
    }
    if (to < 0) {
      store<u32>(dead + o, 0xffffffff)
      ended++
      continue
    }
    // Another draw each time the particle comes by.
    const own = hash3(seed, load<u32>(seeds + o), reinterpret<u32>(at))
    if (load<u32>(columns + (PHASE_FROM << 2))) store<u32>(col(columns, PHASE_FROM, begin) + o, from)
    store<u32>(phases + o, to)
    store<f32>(starts + o, at)
    if (load<u32>(columns + (TARGET_FAR << 2))) store<f32>(col(columns, TARGET_FAR, begin) + o, 0)
    const kept = scaleVary == 0 ? scale : scale + scaleVary * signed(hash3(own, 1, 43))
    let x = load<f32>(vx + o) * kept,
      y = load<f32>(vy + o) * kept,
      z = load<f32>(vz + o) * kept
    if (deflect != 0 || deflectVary != 0) {
      // Within the plane of the velocity and of a direction across it, in a frame by Duff et al. 2017.
      const speed = Mathf.sqrt(x * x + y * y + z * z)
      if (speed > 0) {
        const angle = (deflect + deflectVary * signed(hash3(own, 7, 43))) * PER_TURN,
          side = unit(hash3(own, 8, 43))
        const per: f32 = 1 / speed,
          dx = x * per,
          dy = y * per,
          dz = z * per
        const sign: f32 = dz >= 0 ? 1 : -1,
          a: f32 = <f32>-1 / (sign + dz),
          b = dx * dy * a
        const c = cosTurn(angle),
          su = sinTurn(angle) * cosTurn(side),
          sv = sinTurn(angle) * sinTurn(side)
        x = speed * (c * dx + su * (<f32>1 + sign * dx * dx * a) + sv * b)
        y = speed * (c * dy + su * sign * b + sv * (sign + dy * dy * a))
        z = speed * (c * dz - su * sign * dx - sv * dy)
      }
    }
    x += pushX
    y += pushY
    z += pushZ
    if (scatter != 0) {
      // Even over the directions: Archimedes.
      const h = signed(hash3(own, 2, 43)),
        r = Mathf.sqrt(max(<f32>0, 1 - h * h)) * scatter,
        a = unit(hash3(own, 3, 43))
      x += r * cosTurn(a)
      y += h * scatter
      z += r * sinTurn(a)
    }
    store<f32>(vx + o, x)
    store<f32>(vy + o, y)
    store<f32>(vz + o, z)
    if (load<u32>(columns + (SIZE << 2))) {
      const at = col(columns, SIZE, begin) + o
      const by = max(<f32>0, sizeVary == 0 ? size : size + sizeVary * signed(hash3(own, 6, 43)))
      store<f32>(at, (load<f32>(at) + 1) * by - 1)
    }
    if (redraw) store<u32>(seeds + o, hash3(own, 5, 43))
    if (renew) store<f32>(lives + o, at + max(<f32>1e-6, lifeVary == 0 ? life : life + lifeVary * signed(hash3(own, 4, 43))))
    if (free) {
      if (load<u32>(columns + (STUCK << 2))) store<u32>(col(columns, STUCK, begin) + o, 0)
      if (load<u32>(columns + (HELD << 2))) store<u32>(col(columns, HELD, begin) + o, 0)
    }
  }
  takenNow = taken
  return ended
}
/** Turns that a thread counts by itself. */
const COUNTED: i32 = <i32>(SCRATCH_ROW >> 2)
/** Counts by thread: a word that all threads wrote after every block would bounce between their caches. */
// @ts-ignore: decorator
@inline export function countTaken(op: usize, k: i32, taken: u32, scratch: usize): void {
  const own = scratch + SCRATCH_TAKEN + ((<usize>k) << 2)
  if (k < COUNTED) store<u32>(own, load<u32>(own) + taken)
  else if (taken) atomic.add<u32>(op + TURN_TAKEN, taken)
}
/** Before a thread's first block. */
export function beginTaken(scratch: usize): void {
  memory.fill(scratch + SCRATCH_TAKEN, 0, SCRATCH_ROW)
}
/** After its last one: adds what a thread has counted to the ops. */
export function addTaken(first: usize, count: i32, scratch: usize): void {
  let turnsBefore = 0
  for (let k = 0, op = first; k < count && turnsBefore < COUNTED; k++, op += <usize>load<u32>(op + OP_SIZE)) {
    if (load<i32>(op + OP_CODE) != OP_TURN) continue
    const taken = load<u32>(scratch + SCRATCH_TAKEN + ((<usize>turnsBefore) << 2))
    if (taken) atomic.add<u32>(op + TURN_TAKEN, taken)
    turnsBefore++
  }
}
