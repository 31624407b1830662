// Turns: particles that change their phase. Conditions leave moments, the age at which each came true, in rows of scratch; a turn takes
// one of them. Everything here is particle by particle, by numbers of the particle alone, and so the same on any number of threads.
import { col } from './columns'
import { applyCondition, applyLimit, isCondition, isLimit } from './dispatch'
import {
  AGE,
  DEAD,
  HELD,
  HITS,
  LIFE,
  OP_CODE,
  OP_SEED,
  OP_SIZE,
  OP_TURN,
  OP_TURNS_OF,
  PHASE,
  PHASE_FROM,
  PHASE_START,
  SCRATCH_LIMITS,
  SCRATCH_MASSES,
  SCRATCH_ROW,
  SCRATCH_ROWS,
  SEED,
  SIZE,
  STUCK,
  TARGET_FAR,
  TOUCHED,
  TOUCHED_AGE,
  TOUCH_SPEED,
  TURN_FREE,
  TURN_FROM,
  TURN_LIFE,
  TURN_LIFE_VARY,
  TURN_MARK,
  TURN_MODE,
  TURN_DEFLECT,
  TURN_DEFLECT_VARY,
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
  TURNS_OF_PHASE,
  TURNED,
  VX,
  VY,
  VZ,
  WHEN_AGE_AT,
  WHEN_AGE_OF,
  WHEN_AGE_VARY,
  WHEN_CHANCE_CHANCE,
  WHEN_CONTACTS_COUNT,
  WHEN_FEW_COUNT,
  WHEN_FEW_MOST,
  WHEN_JOINED_ANY,
  WHEN_JOINED_COUNT,
  WHEN_REACHED_WITHIN,
  WHEN_SHOT_SINCE,
  WHEN_TIME_AFTER,
  WHEN_TIME_NARROWS,
  WHEN_TIME_NOT,
  WHEN_TIME_ROW,
  WHEN_TIME_VARY,
  WHEN_TOUCHED_HASH,
  WHEN_TOUCHED_SPEED,
} from './layout'
import { cosTurn, hash3, hash3x4, signed, signedx4, sinTurn, unit, unitx4 } from './math'
import { beginNarrowing, gatherFour, listOf, narrow, narrowFour, nth, scatterFour, sortByPhase, takeLeft } from './turnList'

/** From here on an amount counts as true. */
const HALF: f32 = 0.5

/** Whether a condition that draws four at a time leaves those alone in the list for whom it holds; one that is turned round cannot know. */
// @ts-ignore: decorator
@inline function narrowsItself(op: usize): bool {
  const narrows = load<u32>(op + WHEN_TIME_NARROWS) != 0 && load<u32>(op + WHEN_TIME_NOT) == 0
  if (narrows) beginNarrowing()
  return narrows
}
export function whenTime(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const after = load<f32>(op + WHEN_TIME_AFTER),
    vary = load<f32>(op + WHEN_TIME_VARY),
    seed = load<u32>(op + OP_SEED),
    narrows = narrowsItself(op)
  const soonest = vary == 0 ? after : max(<f32>0, after - abs(vary))
  const ages = col(columns, AGE, begin),
    starts = col(columns, PHASE_START, begin),
    seeds = col(columns, SEED, begin)
  const never = f32x4.splat(Infinity),
    zero = f32x4.splat(0)
  for (let k = 0; k < n; k += 4) {
    const a = nth(scratch, k),
      b = nth(scratch, k + 1),
      c = nth(scratch, k + 2),
      d = nth(scratch, k + 3)
    const start = gatherFour(starts, a, b, c, d),
      age = gatherFour(ages, a, b, c, d)
    let at = never
    // Before the earliest of all moments nothing need be drawn.
    const may = f32x4.le(f32x4.add(start, f32x4.splat(soonest)), age)
    if (v128.any_true(may)) {
      let late = f32x4.splat(after)
      if (vary != 0)
        late = f32x4.pmax(
          zero,
          f32x4.add(late, f32x4.mul(f32x4.splat(vary), signedx4(hash3x4(i32x4.splat(seed), gatherFour(seeds, a, b, c, d), 40)))),
        )
      at = f32x4.add(start, late)
      at = v128.bitselect(at, never, v128.and(may, f32x4.le(at, age)))
    }
    if (!narrows) scatterFour(row, a, b, c, d, at)
    else if (v128.any_true(f32x4.ne(at, never))) {
      scatterFour(row, a, b, c, d, at)
      narrowFour(scratch, k, n, f32x4.ne(at, never))
    }
  }
}
export function whenAge(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const share = load<i32>(op + WHEN_AGE_OF) == 1,
    value = load<f32>(op + WHEN_AGE_AT),
    vary = load<f32>(op + WHEN_AGE_VARY),
    seed = load<u32>(op + OP_SEED)
  const ages = col(columns, AGE, begin),
    starts = col(columns, PHASE_START, begin),
    lives = col(columns, LIFE, begin),
    seeds = col(columns, SEED, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    let at = vary == 0 ? value : max(<f32>0, value + vary * signed(hash3(seed, load<u32>(seeds + o), 41)))
    if (share) at *= load<f32>(lives + o)
    store<f32>(row + o, at <= load<f32>(ages + o) ? max(at, load<f32>(starts + o)) : Infinity)
  }
}
export function whenShot(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const since = load<f32>(op + WHEN_SHOT_SINCE)
  const ages = col(columns, AGE, begin),
    starts = col(columns, PHASE_START, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    store<f32>(row + o, since >= 0 ? max(load<f32>(ages + o) - since, load<f32>(starts + o)) : Infinity)
  }
}
export function whenTouched(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const hash = load<u32>(op + WHEN_TOUCHED_HASH),
    speed = load<f32>(op + WHEN_TOUCHED_SPEED)
  const there = load<u32>(columns + (TOUCHED << 2)) != 0
  const starts = col(columns, PHASE_START, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    let at: f32 = Infinity
    if (there) {
      const who = load<u32>(col(columns, TOUCHED, begin) + o),
        when = load<f32>(col(columns, TOUCHED_AGE, begin) + o)
      // The contact that led into the phase is none of this phase.
      if (who && (hash == 0 || who == hash) && when > load<f32>(starts + o) && load<f32>(col(columns, TOUCH_SPEED, begin) + o) >= speed)
        at = when
    }
    store<f32>(row + o, at)
  }
}
export function whenContacts(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const count = load<u32>(op + WHEN_CONTACTS_COUNT)
  const hits = col(columns, HITS, begin),
    ages = col(columns, AGE, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    store<f32>(row + o, load<u32>(hits + o) >= count ? load<f32>(ages + o) : Infinity)
  }
}
export function whenChance(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const chance = load<f32>(op + WHEN_CHANCE_CHANCE),
    seed = load<u32>(op + OP_SEED),
    narrows = narrowsItself(op)
  const seeds = col(columns, SEED, begin),
    ages = col(columns, AGE, begin)
  // Drawn anew at every age: each is another number.
  for (let k = 0; k < n; k += 4) {
    const a = nth(scratch, k),
      b = nth(scratch, k + 1),
      c = nth(scratch, k + 2),
      d = nth(scratch, k + 3)
    const age = gatherFour(ages, a, b, c, d),
      drawn = unitx4(hash3x4(v128.xor(i32x4.splat(seed), age), gatherFour(seeds, a, b, c, d), 42)),
      holds = f32x4.lt(drawn, f32x4.splat(chance))
    if (!narrows) scatterFour(row, a, b, c, d, v128.bitselect(age, f32x4.splat(Infinity), holds))
    else {
      scatterFour(row, a, b, c, d, age)
      narrowFour(scratch, k, n, holds)
    }
  }
}
export function whenLimits(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const ages = col(columns, AGE, begin),
    amounts = scratch + SCRATCH_LIMITS
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    store<f32>(row + o, load<f32>(amounts + o) >= HALF ? load<f32>(ages + o) : Infinity)
  }
}
export function whenReached(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const within = load<f32>(op + WHEN_REACHED_WITHIN),
    there = load<u32>(columns + (TARGET_FAR << 2)) != 0
  const ages = col(columns, AGE, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    // Nothing that it chases yet: zero.
    const far = there ? load<f32>(col(columns, TARGET_FAR, begin) + o) : <f32>0
    store<f32>(row + o, far > 0 && far <= within ? load<f32>(ages + o) : Infinity)
  }
}
export function whenFew(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const few = load<u32>(op + WHEN_FEW_COUNT) < load<u32>(op + WHEN_FEW_MOST)
  const ages = col(columns, AGE, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    store<f32>(row + o, few ? load<f32>(ages + o) : Infinity)
  }
}
/** All: the last moment of its rows; any: the first. */
export function whenJoined(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const count = load<i32>(op + WHEN_JOINED_COUNT),
    any = load<u32>(op + WHEN_JOINED_ANY) == 1
  const starts = col(columns, PHASE_START, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    let at: f32 = count == 0 ? (any ? <f32>Infinity : load<f32>(starts + o)) : load<f32>(row + o)
    for (let r = 1; r < count; r++) {
      const other = load<f32>(row + <usize>r * SCRATCH_ROW + o)
      at = any ? min(at, other) : max(at, other)
    }
    store<f32>(row + o, at)
  }
}
/** True where it was not, as the substep ends. */
function negate(columns: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const ages = col(columns, AGE, begin)
  for (let k = 0; k < n; k++) {
    const o = nth(scratch, k)
    store<f32>(row + o, load<f32>(row + o) == Infinity ? load<f32>(ages + o) : Infinity)
  }
}
/** Turns in a radian. */
const PER_TURN: f32 = 0.159154943
/** Those whose moment has come and who have not turned in this substep yet. Returns how many lives it ended. */
function turn(columns: usize, op: usize, begin: i32, n: i32, row: usize, done: usize, scratch: usize): i32 {
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
  if (taken) atomic.add<u32>(op + TURN_TAKEN, taken)
  return ended
}
/** The conditions and turns of a block, in their order. Returns how many lives they ended. */
export function turns(columns: usize, first: usize, count: i32, begin: i32, n: i32, scratch: usize): i32 {
  const done = scratch + SCRATCH_MASSES,
    bytes = (<usize>n) << 2
  memory.fill(done, 0, SCRATCH_ROW)
  sortByPhase(col(columns, PHASE, begin), n, scratch)
  let limited = false,
    ended = 0,
    here = 0
  for (let k = 0, op = first; k < count; k++, op += <usize>load<u32>(op + OP_SIZE)) {
    const code = load<i32>(op + OP_CODE)
    if (code == OP_TURNS_OF) here = listOf(load<u32>(op + TURNS_OF_PHASE), scratch)
    else if (here == 0) continue
    else if (isLimit(code)) {
      if (!limited) for (let o: usize = 0; o < bytes; o += 4) store<f32>(scratch + SCRATCH_LIMITS + o, 1)
      limited = true
      applyLimit(code, columns, op, begin, n, scratch + SCRATCH_LIMITS, scratch)
    } else if (isCondition(code)) {
      // All conditions have their row, whether they are turned round and whether they narrow the list at the same place.
      const row = scratch + SCRATCH_ROWS + <usize>load<i32>(op + WHEN_TIME_ROW) * SCRATCH_ROW
      applyCondition(code, columns, op, begin, here, row, scratch)
      const left = takeLeft()
      if (load<u32>(op + WHEN_TIME_NOT)) negate(columns, begin, here, row, scratch)
      if (left >= 0) here = left
      else if (load<u32>(op + WHEN_TIME_NARROWS)) here = narrow(row, here, scratch)
      limited = false
    } else if (code == OP_TURN)
      ended += turn(columns, op, begin, here, scratch + SCRATCH_ROWS + <usize>load<i32>(op + TURN_ROW) * SCRATCH_ROW, done, scratch)
  }
  return ended
}
