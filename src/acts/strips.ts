import { identity, type LinkPlan, type Matrix, type Part, type TrailPlan } from '../engine'
import { type ActDoc, actsIn, type LookDoc, type ObjectDoc, type Shot, type SystemDoc } from '../shot'
import type { Meshes } from './baseMesh'
import { phasesOf } from './compileTurn'
import type { StripDrawing } from './drawing'
import { seedOf, unmuted } from './forcePlan'
import { type Draw, drawsOf } from './look'
import { systemMatrices } from './placed'
import { readerOf } from './reader'
import { actOfSort } from './registry'

/** What may leave trails: a system, or an object as one without phases. */
type Leaver = Pick<SystemDoc, 'id' | 'name' | 'seed' | 'phases'> & { whole: Pick<SystemDoc['whole'], 'offspring'> }
/** The trails of a system, of its whole life and of its phases. */
export function trailPlans(shot: Shot, s: Leaver): TrailPlan[] {
  const made = (a: ActDoc, phases?: number): TrailPlan[] => {
    const act = actOfSort(a.kind, 'offspring')
    const { trail } = act
    if (!trail) return []
    const p = readerOf(a)
    const seed = seedOf(shot, s, a)
    const drift = act.drift?.(p, seed)
    return [
      {
        ...{ id: a.id, name: `${act.title} of ${s.name}`, seed, share: act.share(p), reachVary: act.reachVary?.(p) ?? 0 },
        params: (t) => trail(p, t),
        ...(phases === undefined ? {} : { phases }),
        ...(drift ? { drift } : {}),
      },
    ]
  }
  const ofPhases = s.phases.flatMap((phase, k) => unmuted(phase.offspring).flatMap((a) => made(a, phasesOf(s, k)?.phases)))
  return [...unmuted(s.whole.offspring).flatMap((a) => made(a)), ...ofPhases]
}

/** The links of a system. What leads to one that is gone or muted is left out. */
export function linkPlans(shot: Shot, s: SystemDoc): LinkPlan[] {
  const made = (a: ActDoc, phases?: number): LinkPlan[] => {
    const act = actOfSort(a.kind, 'offspring')
    const what = act.links?.(readerOf(a))
    if (!what) return []
    const system = what.with === null || what.with === s.id ? -1 : shot.systems.findIndex((x) => x.id === what.with && !x.muted)
    if (system < 0 && what.with !== null && what.with !== s.id) return []
    const plan = { id: a.id, name: `${act.title} of ${s.name}`, seed: seedOf(shot, s, a), share: act.share(readerOf(a)) }
    const frameSeconds = shot.rate.den / shot.rate.num
    return [{ ...plan, ...(phases === undefined ? {} : { phases }), system, frameSeconds, params: what.params }]
  }
  const ofPhases = s.phases.flatMap((phase, k) => unmuted(phase.offspring).flatMap((a) => made(a, phasesOf(s, k)?.phases)))
  return [...unmuted(s.whole.offspring).flatMap((a) => made(a)), ...ofPhases]
}
/** How strips are drawn at a moment, with the look along them. */
export interface StripDraw extends Omit<StripDrawing, 'look'> {
  look: LookDoc
}
/** What a strip has along it while nothing is chosen: it thins and fades towards its end. */
const FADING: LookDoc = {
  id: '',
  name: 'fading white',
  colour: { stops: [{ at: 0, colour: [1, 1, 1] }] },
  size: {
    points: [
      { at: 0, v: 1 },
      { at: 1, v: 0 },
    ],
  },
  opacity: {
    points: [
      { at: 0, v: 1 },
      { at: 0.4, v: 0.45 },
      { at: 1, v: 0 },
    ],
    smooth: true,
  },
}
/** How the strips of one act are drawn; null when it is gone, muted, or leaves none. */
export function stripDraw(shot: Shot, owner: SystemDoc | ObjectDoc, act: string, t: number): StripDraw | null {
  const acts = 'phases' in owner ? actsIn(owner, 'offspring') : owner.offspring
  const doc = acts.find((a) => a.id === act && !a.muted)
  const drawing = doc && actOfSort(doc.kind, 'offspring').strips?.(readerOf(doc), t)
  return drawing ? { ...drawing, look: shot.shared.looks.find((l) => l.id === drawing.look) ?? FADING } : null
}

/** Whose strips they are, how its particles are drawn by phase, and where the whole stands; null when it is gone or muted. */
export function stripOwner(
  shot: Shot,
  element: string,
  t: number,
  meshes: Meshes = new Map(),
  parts: readonly Part[] = [],
): { owner: SystemDoc | ObjectDoc; looks: Draw[]; matrices: Matrix[] } | null {
  const system = shot.systems.find((s) => s.id === element)
  if (system)
    return system.muted
      ? null
      : { owner: system, looks: drawsOf(shot, system, t), matrices: systemMatrices(shot, system, t, meshes, parts) }
  const object = shot.objects.find((o) => o.id === element)
  return object && !object.muted ? { owner: object, looks: [], matrices: [identity()] } : null
}
