import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

// Conditions of turns. Each leaves a row with a number a particle: the age at which it came true, or infinity. What is known in
// closed form has its own moment within the substep, anything else the end of it.

/** How many rows there are: conditions of one turn that are open at once. */
export const CONDITION_ROWS = 16
const head = { row: i32(), not: u32(), narrows: u32() }
/**
 * Where a condition's row goes, and whether it counts where it is not true. `narrows`: the turn needs it, so that only those for whom it holds are
 * asked what comes behind it.
 */
export interface Slot {
  row: number
  not: boolean
  narrows?: boolean
}
const words = ({ row, not, narrows }: Slot) => ({ row, not: not ? 1 : 0, narrows: narrows ? 1 : 0 })

export const whenTimeOp = defineOp({
  name: 'whenTime',
  code: 41,
  group: 'when',
  kernel: 'turns',
  words: { ...head, after: f32(), vary: f32() },
})
/** Seconds in the phase, with ±. */
export const encodeWhenTime = (w: OpWriter, s: Slot, after: number, vary: number, seed: number): void =>
  void w.write(whenTimeOp, { ...words(s), after, vary }, seed)

const OF = ['age', 'life'] as const
export const whenAgeOp = defineOp({
  name: 'whenAge',
  code: 42,
  group: 'when',
  kernel: 'turns',
  words: { ...head, of: i32(), at: f32(), vary: f32() },
})
/** An age, s, or a share of the life, 0 to 1; with ±. */
export const encodeWhenAge = (w: OpWriter, s: Slot, of: (typeof OF)[number], at: number, vary: number, seed: number): void =>
  void w.write(whenAgeOp, { ...words(s), of: OF.indexOf(of), at, vary }, seed)

export const whenShotOp = defineOp({ name: 'whenShot', code: 43, group: 'when', kernel: 'turns', words: { ...head, since: f32() } })
/** A moment of the shot: seconds of the system's time since then, at the end of the substep; below zero it is still to come. */
export const encodeWhenShot = (w: OpWriter, s: Slot, since: number): void => void w.write(whenShotOp, { ...words(s), since })

export const whenTouchedOp = defineOp({
  name: 'whenTouched',
  code: 44,
  group: 'when',
  kernel: 'turns',
  words: { ...head, hash: u32(), speed: f32() },
})
/** A contact since the phase began: with one object (hash of its id; 0: any), at least so fast towards it, m/s. */
export const encodeWhenTouched = (w: OpWriter, s: Slot, hash: number, speed: number): void =>
  void w.write(whenTouchedOp, { ...words(s), hash, speed })

export const whenContactsOp = defineOp({ name: 'whenContacts', code: 45, group: 'when', kernel: 'turns', words: { ...head, count: u32() } })
/** So many contacts in its life. */
export const encodeWhenContacts = (w: OpWriter, s: Slot, count: number): void => void w.write(whenContactsOp, { ...words(s), count })

export const whenChanceOp = defineOp({ name: 'whenChance', code: 46, group: 'when', kernel: 'turns', words: { ...head, chance: f32() } })
/** By chance in this substep, 0 to 1. */
export const encodeWhenChance = (w: OpWriter, s: Slot, chance: number, seed: number): void =>
  void w.write(whenChanceOp, { ...words(s), chance }, seed)

export const whenLimitsOp = defineOp({ name: 'whenLimits', code: 47, group: 'when', kernel: 'turns', words: head })
/** Where the limits before it let at least half through. */
export const encodeWhenLimits = (w: OpWriter, s: Slot): void => void w.write(whenLimitsOp, words(s))

export const whenReachedOp = defineOp({ name: 'whenReached', code: 54, group: 'when', kernel: 'turns', words: { ...head, within: f32() } })
/** What it chases is at most `within` m away, in the phase that it is in. */
export const encodeWhenReached = (w: OpWriter, s: Slot, within: number): void => void w.write(whenReachedOp, { ...words(s), within })

export const whenFewOp = defineOp({
  name: 'whenFew',
  code: 55,
  group: 'when',
  kernel: 'turns',
  words: { ...head, count: u32(), most: u32() },
})
/** Fewer than `most` particles of the system are in one of its phases as the substep begins. */
export function encodeWhenFew(w: OpWriter, s: Slot, phase: number, most: number): void {
  const start = w.write(whenFewOp, { ...words(s), count: 0, most })
  w.counts.push({ at: w.wordOf(start, whenFewOp, 'count'), phase })
}

export const whenJoinedOp = defineOp({
  name: 'whenJoined',
  code: 48,
  group: 'when',
  kernel: 'turns',
  words: { ...head, count: i32(), any: u32() },
})
/** Rows from its own on: all of them, the last of which counts, or any, the first of which does. Without one: all is true, any is not. */
export const encodeWhenJoined = (w: OpWriter, s: Slot, count: number, any: boolean): void =>
  void w.write(whenJoinedOp, { ...words(s), count, any: any ? 1 : 0 })
