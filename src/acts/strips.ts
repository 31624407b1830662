import { identity, type LinkPlan, type Matrix, type Part, type TrailPlan } from '../engine'
import { type ActDoc, actsIn, type LookDoc, type ObjectDoc, type Shot, type SystemDoc } from '../shot'
import type { Meshes } from './baseMesh'
import { phasesOf } from './compileTurn'
import type { StripDrawing } from './drawing'
import { seedOf, unmuted } from './forcePlan'
import { type Draw, drawsOf, particleLook } from './look'
import { lookTable, sampleLook } from './lookTables'
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
        ...(act.turned?.(p) ? { turned: true } : {}),
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
export interface StripDraw extends Omit<StripDrawing, 'look' | 'generations'> {
  look: LookDoc
  generations?: Omit<NonNullable<StripDrawing['generations']>, 'look'> & { look: LookDoc | null }
}
/** What one strip has on the whole, times what its look has along it. */
export interface StripTone {
  /** Linear, with its brightness. */
  colour: [number, number, number]
  opacity: number
  /** On the width. */
  width: number
}
/**
 * Of a strip by its columns: what its particle's look and its generation (the column `phase` of growth) make of it. `tint`: the colour that the
 * particle took over; `fade`: what is left of one whose particle is gone.
 */
export function stripTone(
  draw: StripDraw,
  looks: readonly Draw[],
  s: { phase: number; age: number; life: number; seed: number; tint?: number; fade: number },
): StripTone {
  const look = looks[s.phase] ?? looks[0]
  const own = draw.own && look ? particleLook(look, s.age, s.life, s.seed, s.tint) : null
  const g = draw.generations
  const order = g?.look ? sampleLook(lookTable(g.look), g.count > 1 ? s.phase / (g.count - 1) : 0) : ONE
  const bright = draw.brightness * (g ? g.brightness ** s.phase : 1)
  return {
    colour: [0, 1, 2].map((c) => (own?.colour[c] ?? 1) * bright * order[c]) as [number, number, number],
    opacity: (own?.opacity ?? 1) * draw.opacity * s.fade * order[3],
    width: (own && look.size > 0 ? own.size / look.size : 1) * (g ? g.width ** s.phase : 1) * order[4],
  }
}
/** Red, green, blue, opacity and size of a look that changes nothing. */
const ONE = [1, 1, 1, 1, 1]
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
  if (!drawing) return null
  const lookOf = (id: string | null) => shot.shared.looks.find((l) => l.id === id) ?? null
  const { generations: g, ...rest } = drawing
  return { ...rest, look: lookOf(drawing.look) ?? FADING, ...(g ? { generations: { ...g, look: lookOf(g.look) } } : {}) }
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
