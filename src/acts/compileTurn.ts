import {
  encodeTurn,
  encodeTurnsOf,
  encodeWhenJoined,
  encodeWhenLimits,
  NO_EFFECT,
  type OpWriter,
  type Slot,
  type StepTime,
  type TurnPlan,
} from '../engine'
import type { ActDoc, Shot, SystemDoc } from '../shot'
import type { ForceSite } from './define'
import { seedOf, unmuted } from './forcePlan'
import { readerOf } from './reader'
import { actOf, actOfSort } from './registry'

/** Sections of a system with the phases in which they count, a bit each; null: all, from birth to death. */
export const phasesOf = (s: Pick<SystemDoc, 'phases'>, k: number | null): { phases: number; blend: number } | null =>
  k === null || (s.phases.length === 1 && s.phases[0].blend === 0) ? null : { phases: (1 << k) >>> 0, blend: s.phases[k].blend }

/** The turns of all phases, in the order in which they are tried. One that is muted or leads nowhere yet is there to be tried out. */
export function turnPlans(shot: Shot, s: SystemDoc, site: ForceSite): TurnPlan[] {
  const plans: TurnPlan[] = []
  for (const [from, phase] of s.phases.entries())
    for (const a of phase.turns) plans.push(turnPlan(shot, s, a, from, site, plans.length + 1))
  return plans
}
/** `mark`: what its particles carry until the engine has passed them on, the place of the turn among them from 1 on. */
function turnPlan(shot: Shot, s: SystemDoc, a: ActDoc, from: number, site: ForceSite, mark: number): TurnPlan {
  const act = actOfSort(a.kind, 'turn')
  const p = readerOf(a)
  const seed = seedOf(shot, s, a)
  const target = act.effect(p, 0).to
  const elsewhere = act.passes === 'system'
  const system = elsewhere && target ? shot.systems.findIndex((x) => x.id === target && x.id !== s.id && !x.muted) : -1
  const to = target === null || elsewhere ? null : s.phases.findIndex((x) => x.id === target)
  const muted = !!a.muted || to === -1 || (elsewhere && system < 0)
  const mode = act.passes === 'copy' ? 'copy' : elsewhere ? 'leave' : 'go'
  const effect = (t: number) => act.effect(p, t)
  return {
    id: a.id,
    ...(muted ? { muted } : {}),
    encode(w, at, trial) {
      encodeTurnsOf(w, from)
      encodeJoined(w, shot, s, a, { row: 0, not: false, narrows: true }, p.choice('join') === 'any', at, site)
      if (trial) return encodeTurn(w, { row: 0, from, to: from, mode: 'go', mark }, NO_EFFECT, seed)
      return encodeTurn(w, { row: 0, from, to, mode, mark }, effect(at.t0), seed)
    },
    ...(act.passes ? { passes: { system, phase: to ?? 0, seed, effect } } : {}),
  }
}
/** The conditions of a turn or a group, each in a row behind the one before, and their joint moment in the first. */
function encodeJoined(w: OpWriter, shot: Shot, s: SystemDoc, a: ActDoc, slot: Slot, any: boolean, at: StepTime, site: ForceSite): void {
  const conditions = unmuted(a.when ?? [])
  // Where one is enough, or none may hold, all are asked.
  const narrows = !!slot.narrows && !any && !slot.not
  conditions.forEach((c, k) => encodeCondition(w, shot, s, c, { row: slot.row + k, narrows }, at, site))
  encodeWhenJoined(w, slot, conditions.length, any)
}
function encodeCondition(
  w: OpWriter,
  shot: Shot,
  s: SystemDoc,
  c: ActDoc,
  place: Pick<Slot, 'row' | 'narrows'>,
  at: StepTime,
  site: ForceSite,
): void {
  const act = actOf(c.kind)
  const p = readerOf(c)
  const seed = seedOf(shot, s, c)
  if (act.sort === 'limit') {
    // A limit looks at the particle as the substep leaves it.
    act.encode(w, p, { ...at, t0: at.t1, t1: at.t1 + (at.t1 - at.t0) }, seed, site)
    encodeWhenLimits(w, { ...place, not: false })
    return
  }
  const condition = actOfSort(c.kind, 'condition')
  const slot = { ...place, not: p.choice('holds') === 'false' }
  if (condition.groups) encodeJoined(w, shot, s, c, slot, p.choice('join') === 'any', at, site)
  else condition.encode?.(w, p, at, slot, seed, (id) => s.phases.findIndex((x) => x.id === id))
}
