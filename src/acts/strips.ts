import type { TrailPlan } from '../engine'
import { type ActDoc, actsIn, type LookDoc, type Shot, type SystemDoc } from '../shot'
import { phasesOf } from './compileTurn'
import type { StripDrawing } from './drawing'
import { seedOf, unmuted } from './forcePlan'
import { readerOf } from './reader'
import { actOfSort } from './registry'

/** The trails of a system, of its whole life and of its phases. */
export function trailPlans(shot: Shot, s: SystemDoc): TrailPlan[] {
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
export function stripDraw(shot: Shot, system: SystemDoc, act: string, t: number): StripDraw | null {
  const doc = actsIn(system, 'offspring').find((a) => a.id === act && !a.muted)
  const drawing = doc && actOfSort(doc.kind, 'offspring').strips?.(readerOf(doc), t)
  return drawing ? { ...drawing, look: shot.shared.looks.find((l) => l.id === drawing.look) ?? FADING } : null
}
