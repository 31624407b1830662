// Turns: particles that change their phase. Conditions leave moments, the age at which each came true, in rows of scratch; a turn takes
// one of them. Everything here is particle by particle, by numbers of the particle alone, and so the same on any number of threads.
import { col } from './columns'
import { applyCondition, applyLimit, isCondition, isLimit } from './dispatch'
import {
  AGE,
  HITS,
  LIFE,
  OP_CODE,
  OP_SEED,
  OP_SIZE,
  OP_TURN,
  OP_TURNS_OF,
  PHASE,
  PHASE_START,
  SCRATCH_LIMITS,
  SCRATCH_MASSES,
  SCRATCH_ROW,
  SCRATCH_ROWS,
  SEED,
  TARGET_FAR,
  TOUCHED,
  TOUCHED_AGE,
  TOUCH_SPEED,
  TURNS_OF_PHASE,
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
import { hash3, hash3x4, signed, signedx4, unitx4 } from './math'
import { beginNarrowing, gatherFour, listAt, listOf, narrow, narrowFour, nth, scatterFour, sortByPhase, takeLeft } from './turnList'
import { countTaken, takenNow, turn } from './turnTaken'

/** From here on an amount counts as true. */
const HALF: f32 = 0.5

/** Whether a condition that draws four at a time leaves those alone in the list for whom it holds; one that is turned round cannot know. */
// @ts-ignore: decorator
@inline function narrowsItself(op: usize, scratch: usize): bool {
  const narrows = load<u32>(op + WHEN_TIME_NARROWS) != 0 && load<u32>(op + WHEN_TIME_NOT) == 0
  if (narrows) beginNarrowing(scratch)
  return narrows
}
export function whenTime(columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {
  const after = load<f32>(op + WHEN_TIME_AFTER),
    vary = load<f32>(op + WHEN_TIME_VARY),
    seed = load<u32>(op + OP_SEED),
    narrows = narrowsItself(op, scratch)
  const soonest = vary == 0 ? after : max(<f32>0, after - abs(vary))
  const ages = col(columns, AGE, begin),
    starts = col(columns, PHASE_START, begin),
    seeds = col(columns, SEED, begin)
  const never = f32x4.splat(Infinity),
    zero = f32x4.splat(0)
  for (let list = listAt(scratch), end = list + ((<usize>n) << 2); list < end; list += 16) {
    const a = <usize>load<u32>(list),
      b = <usize>load<u32>(list, 4),
      c = <usize>load<u32>(list, 8),
      d = <usize>load<u32>(list, 12)
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
      narrowFour(list, end, f32x4.ne(at, never))
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
    narrows = narrowsItself(op, scratch)
  const seeds = col(columns, SEED, begin),
    ages = col(columns, AGE, begin)
  // Drawn anew at every age: each is another number.
  for (let list = listAt(scratch), end = list + ((<usize>n) << 2); list < end; list += 16) {
    const a = <usize>load<u32>(list),
      b = <usize>load<u32>(list, 4),
      c = <usize>load<u32>(list, 8),
      d = <usize>load<u32>(list, 12)
    const age = gatherFour(ages, a, b, c, d),
      drawn = unitx4(hash3x4(v128.xor(i32x4.splat(seed), age), gatherFour(seeds, a, b, c, d), 42)),
      holds = f32x4.lt(drawn, f32x4.splat(chance))
    if (!narrows) scatterFour(row, a, b, c, d, v128.bitselect(age, f32x4.splat(Infinity), holds))
    else {
      scatterFour(row, a, b, c, d, age)
      narrowFour(list, end, holds)
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
/** The conditions and turns of a block, in their order. Returns how many lives they ended. */
export function turns(columns: usize, first: usize, count: i32, begin: i32, n: i32, scratch: usize): i32 {
  const done = scratch + SCRATCH_MASSES,
    bytes = (<usize>n) << 2
  memory.fill(done, 0, SCRATCH_ROW)
  sortByPhase(col(columns, PHASE, begin), n, scratch)
  let limited = false,
    ended = 0,
    here = 0,
    turnsBefore = 0
  for (let k = 0, op = first; k < count; k++, op += <usize>load<u32>(op + OP_SIZE)) {
    const code = load<i32>(op + OP_CODE)
    if (code == OP_TURN) turnsBefore++
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
      const left = takeLeft(scratch)
      if (load<u32>(op + WHEN_TIME_NOT)) negate(columns, begin, here, row, scratch)
      if (left >= 0) here = left
      else if (load<u32>(op + WHEN_TIME_NARROWS)) here = narrow(row, here, scratch)
      limited = false
    } else if (code == OP_TURN) {
      ended += turn(columns, op, begin, here, done, scratch)
      countTaken(op, turnsBefore - 1, takenNow, scratch)
    }
  }
  return ended
}
