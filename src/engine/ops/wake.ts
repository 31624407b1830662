import { f32, i32 } from '../memory'
import { defineOp } from './define'
import { type Falloff, falloffIndex } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

type V3 = readonly [number, number, number]
/** A place that an object had: how it went there, m/s, and how much of that is left, 0 to 1. */
export interface WakePlace {
  place: V3
  velocity: V3
  left: number
}
export interface Wake {
  places: readonly WakePlace[]
  /** m, of each place. */
  radius: number
  falloff: Falloff
}
/** The places follow: x, y, z, velocity u, v, w, and what is left. */
const WAKE_WORDS = { count: i32(), perRadius: f32(), falloff: i32(), response: f32() } as const
export const wakeOp = defineOp({ name: 'wake', code: 22, group: 'force', kernel: 'wake', tail: true, words: WAKE_WORDS })
export const wakeFlowOp = defineOp({
  name: 'wakeFlow',
  code: 27,
  group: 'force',
  kernel: 'wake',
  tail: true,
  flows: true,
  words: WAKE_WORDS,
})
export const limitWakeOp = defineOp({
  name: 'limitWake',
  code: 28,
  group: 'limit',
  kernel: 'wake',
  tail: true,
  flows: true,
  words: WAKE_WORDS,
})

const wordsOf = (p: Wake, responseS: number) => ({
  count: p.places.length,
  perRadius: 1 / p.radius,
  falloff: falloffIndex(p.falloff),
  response: responseS,
})
const tailOf = (p: Wake) => p.places.flatMap((x) => [...x.place, ...x.velocity, x.left])
/** Leads particles to what is left of an object's motion at places that it had. */
export const encodeWake = (w: OpWriter, p: Wake & { responseS: number }, seed = 0, share = FULL): void =>
  void w.write(wakeOp, wordsOf(p, p.responseS), seed, share, tailOf(p))
/** Adds the velocities of a wake themselves, times what is left of them: for a volume. */
export const encodeWakeFlow = (w: OpWriter, p: Wake): void => void w.write(wakeFlowOp, wordsOf(p, 0), 0, FULL, tailOf(p))
/** Limits the forces behind it to a wake. */
export const encodeLimitWake = (w: OpWriter, p: Wake): void => void w.write(limitWakeOp, wordsOf(p, 0), 0, FULL, tailOf(p))
