import {
  boundsOf,
  type ColumnName,
  type ContactPlan,
  DESCENT_COLUMNS,
  encodeBounds,
  encodeMinSize,
  type ForcePlan,
  type Matrix,
  type PlanSystem,
  TOUCH_COLUMNS,
} from '../engine'
import { type ActDoc, actsIn, isVaried, loopSeconds, type ObjectDoc, type SystemDoc, sampleNumber, valueOf, varyOf } from '../shot'
import { columnsKeptFor, keptFor } from './asks'
import { viewPlanes } from './cameras'
import { birthPlan } from './compileBirth'
import type { CompileContext } from './compileContext'
import { blendsLooks, changesSize, descends, shedPlans, takesColours } from './compileShed'
import { phasesOf, turnPlans } from './compileTurn'
import type { EndingSite } from './define'
import { forcePlan, seedOf, unmuted } from './forcePlan'
import { forceSite } from './forceSite'
import { drawOf } from './look'
import { sizeCurve } from './lookTables'
import { planesIn } from './places'
import { readerOf } from './reader'
import { actOf, actOfSort } from './registry'
import { linkPlans, trailPlans } from './strips'

/** A system with all sections of its life. */
export function compileSystem(c: CompileContext, s: SystemDoc): PlanSystem {
  const { shot } = c
  const loops = loopSeconds(shot)
  const births = s.muted ? [] : unmuted(s.birth)
  const ofShot = shot.forces.filter((f) => !f.muted && (f.reaches === 'all' || f.reaches.includes(s.id)))
  // What the shot's forces leave of themselves for this system, in per cent.
  const left = new Map(ofShot.map((f) => [f.act, f.shares.find((x) => x.system === s.id)?.share ?? 100]))
  const forces = unmuted([...ofShot.map((f) => f.act), ...actsIn(s, 'movement')])
  const phaseOf = phasesByAct(s)
  const meetings = unmuted(actsIn(s, 'contact'))
  const answers = meetings.filter((a) => actOf(a.kind).sort === 'contact')
  const meeting = meetingOf(c, s, answers)
  if (!s.muted) reportNeeds(c, s, forces, !!meeting.meet)
  const contacts = answers.filter((a) => actOfSort(a.kind, 'contact').contact)
  const space = shot.objects.find((o) => o.id === s.space)
  const site = forceSite(shot, s, c.objects, c.where)
  return {
    id: s.id,
    name: s.name,
    seed: s.seed,
    limit: s.limit,
    // Without end, one lives until the loop begins again.
    life: (t) =>
      s.endless && loops ? [Math.max(0, loops - t - c.secondsPerSubstep), 0] : [sampleNumber(valueOf(s.life), t), varyOf(s.life)],
    endless: s.endless && !loops,
    ...(space ? { space: (t: number, out: Matrix) => c.where(space, t, out) } : {}),
    births: births.map((a) => birthPlan(c, s, a, forces)),
    forces: forces.map((a) => forcePlan(shot, s, a, left.get(a) ?? 100, site, phaseOf(a))),
    ...(isVaried(s.mass) || s.mass !== 1
      ? { mass: (t: number): readonly [number, number] => [sampleNumber(valueOf(s.mass), t), varyOf(s.mass)] }
      : {}),
    ...(s.timeScale !== 100 ? { timeScale: (t: number) => sampleNumber(s.timeScale, t) / 100 } : {}),
    contacts: contacts.map((a) => contactPlan(c, s, a, phaseOf(a)?.phases)),
    ...meeting,
    endings: meetings.filter((a) => actOf(a.kind).sort === 'ending').map((a) => endingPlan(c, s, a, space, phaseOf(a)?.phases)),
    phases: s.phases.length,
    turns: s.muted ? [] : turnPlans(shot, s, site),
    trails: s.muted ? [] : trailPlans(shot, s),
    links: s.muted ? [] : linkPlans(shot, s),
    sheds: s.muted ? [] : shedPlans(shot, s),
    extraColumns: [
      ...columnsFor(
        [...births, ...forces, ...answers, ...unmuted(actsIn(s, 'look', 'offspring')), ...conditionsOf(s)],
        contacts.length > 0,
        descends(shot, s),
      ),
      ...(changesSize(shot, s) ? (['size'] as const) : []),
      ...(takesColours(shot, s) ? (['tint'] as const) : []),
      ...(blendsLooks(s) ? (['phaseFrom'] as const) : []),
      ...columnsKeptFor(s),
    ],
    ...(keptFor(s).length ? { kept: keptFor(s) } : {}),
  }
}
/** The phases in which an act of a system's sections counts; null: in all. */
function phasesByAct(s: SystemDoc): (a: ActDoc) => { phases: number; blend: number } | null {
  const found = new Map<ActDoc, { phases: number; blend: number }>()
  s.phases.forEach((p, k) => {
    const only = phasesOf(s, k)
    if (only) for (const a of [...p.movement, ...p.contact]) found.set(a, only)
  })
  return (a) => found.get(a) ?? null
}
/** What the turns of a system wait for, groups and all that is in them; of muted ones as well, since they can be tried out. */
function conditionsOf(s: SystemDoc): ActDoc[] {
  const all = (acts: readonly ActDoc[]): ActDoc[] => unmuted(acts).flatMap((a) => [a, ...all(a.when ?? [])])
  return s.phases.flatMap((p) => p.turns.flatMap((a) => [...(a.muted ? [] : [a]), ...all(a.when ?? [])]))
}
const columnsFor = (acts: readonly ActDoc[], meets: boolean, comesFromOthers: boolean): ColumnName[] => [
  ...new Set<ColumnName>([
    ...acts.flatMap((a) => actOf(a.kind).columns ?? []),
    ...(meets ? TOUCH_COLUMNS : []),
    ...(comesFromOthers ? DESCENT_COLUMNS : []),
  ]),
]
/** What its forces and their limits still lack. */
function reportNeeds(c: CompileContext, s: SystemDoc, forces: readonly ActDoc[], meets: boolean): void {
  for (const a of forces) {
    const element = c.shot.forces.find((f) => f.act === a)?.id ?? s.id
    for (const x of [a, ...unmuted(a.limits ?? [])]) {
      const act = actOf(x.kind)
      const noRadius = 'widens' in act && act.widens && !meets && element === s.id
      const why = noRadius
        ? `changes nothing: “${s.name}” has no card “${actOf('meet').title}”, which says what its radius is`
        : 'needs' in act
          ? act.needs?.(readerOf(x))
          : null
      const message = `${act.title} ${why}`
      if (why && !c.problems.some((p) => p.element === element && p.message === message)) c.problems.push({ element, message })
    }
  }
}
function contactPlan(c: CompileContext, s: SystemDoc, a: ActDoc, phases: number | undefined): ContactPlan {
  const { contact } = actOfSort(a.kind, 'contact')
  const p = readerOf(a)
  const target = p.text('with')
  const only = target ? c.indexOf(target) : -1
  const isThere = only >= 0 && !c.shot.objects[only].muted
  return {
    id: a.id,
    seed: seedOf(c.shot, s, a),
    ...(phases === undefined ? {} : { phases }),
    colliders: target ? (isThere ? [only] : []) : c.colliders,
    params: (t) => (contact as NonNullable<typeof contact>)(p, t),
  }
}
/** Of several cards that make particles meet each other the last counts. */
function meetingOf(c: CompileContext, s: SystemDoc, answers: readonly ActDoc[]): Pick<PlanSystem, 'meet'> {
  const a = answers.filter((x) => actOfSort(x.kind, 'contact').meet).at(-1)
  const meet = a && actOfSort(a.kind, 'contact').meet
  if (!a || !meet) return {}
  const p = readerOf(a)
  return { meet: { seed: seedOf(c.shot, s, a), params: (t) => meet(p, t) } }
}
function endingPlan(c: CompileContext, s: SystemDoc, a: ActDoc, space: ObjectDoc | undefined, phases: number | undefined): ForcePlan {
  const { shot } = c
  const p = readerOf(a)
  const act = actOfSort(a.kind, 'ending')
  const site: EndingSite = {
    object(id, t) {
      const i = id ? c.indexOf(id) : -1
      const mesh = i >= 0 ? c.objects[i].mesh : null
      return mesh?.positions.length ? { matrix: c.where(shot.objects[i], t), box: boundsOf(mesh) } : null
    },
    view: (t, wider) => viewPlanes(shot, t, wider),
  }
  return {
    id: a.id,
    encode(w, at) {
      const planes = act.planes?.(p, at.t1, site)
      if (planes) encodeBounds(w, space ? planesIn(planes, c.where(space, at.t1)) : planes, phases)
      if (!act.below) return
      const draw = drawOf(shot, s, at.t1)
      encodeMinSize(w, act.below(p, at.t1), draw.size, draw.sizeVary, draw.sizeSeed, sizeCurve(draw.look), phases)
    },
  }
}
