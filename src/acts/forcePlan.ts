import { encodeEndLimits, encodeLimitPhase, type ForcePlan, type Matrix, mix, type StepTime } from '../engine'
import type { ActDoc, ObjectDoc, Shot } from '../shot'
import type { ForceSite } from './define'
import { readerOf } from './reader'
import { actOfSort } from './registry'

/** Own space of an object to the shot. */
export type Where = (o: ObjectDoc, t: number, out?: Matrix) => Matrix
/** The seed that an act runs with: its own, mixed with its element's and the shot's, so that each of the three can be renewed. */
export const seedOf = (shot: Shot, element: { seed: number }, act: { seed: number }): number =>
  mix(act.seed ^ mix(element.seed ^ mix(shot.seed)))
export const unmuted = (acts: readonly ActDoc[]) => acts.filter((a) => !a.muted)

/** A force with its limits as the engine takes it; `left`: per cent of it that the one that feels it is reached by, `only`: the phases in which it acts. */
export function forcePlan(
  shot: Shot,
  whose: { name: string; seed: number },
  a: ActDoc,
  left: number,
  place: ForceSite,
  only: { phases: number; blend: number } | null = null,
): ForcePlan {
  const act = actOfSort(a.kind, 'force')
  const p = readerOf(a)
  const seed = seedOf(shot, whose, a)
  const part = left / 1e4
  const limits = unmuted(a.limits ?? []).map((l) => ({ act: actOfSort(l.kind, 'limit'), p: readerOf(l), seed: seedOf(shot, whose, l) }))
  return {
    id: a.id,
    name: shot.forces.find((f) => f.act === a)?.name ?? `${act.title} of ${whose.name}`,
    resists: act.resists?.(p) ?? false,
    leads: act.leads ?? false,
    ...(act.widens ? { widens: (at: StepTime) => act.widens?.(p, at.t0) ?? 1 } : {}),
    encode(w, at) {
      if (only) encodeLimitPhase(w, only.phases, only.blend)
      for (const l of limits) l.act.encode(w, l.p, at, l.seed, place)
      act.encode(w, p, at, seed, { value: p.number('share', at.t0) * part, vary: p.vary('share') * part }, place)
      if (limits.length || only) encodeEndLimits(w)
    },
  }
}
