import type { ShedPlan } from '../engine'
import { type ActDoc, actsIn, type Shot, type SystemDoc, type Vec3 } from '../shot'
import { phasesOf } from './compileTurn'
import { seedOf, unmuted } from './forcePlan'
import { drawsOf } from './look'
import { lookTable, sampleLook } from './lookTables'
import { readerOf } from './reader'
import { actOfSort } from './registry'

const sheddingOf = (a: ActDoc) => actOfSort(a.kind, 'offspring').shed?.(readerOf(a))

/** What the particles of a system shed, in its whole life and in its phases. What leads nowhere yet is left out. */
export function shedPlans(shot: Shot, s: SystemDoc): ShedPlan[] {
  const made = (a: ActDoc, phases?: number): ShedPlan[] => {
    const what = sheddingOf(a)
    if (!what) return []
    const { to, colour, ...rest } = what
    const system = 'system' in to ? shot.systems.findIndex((x) => x.id === to.system && !x.muted) : -1
    const phase = 'phase' in to ? s.phases.findIndex((x) => x.id === to.phase) : 0
    if (phase < 0 || ('system' in to && system < 0)) return []
    const act = actOfSort(a.kind, 'offspring')
    return [
      {
        ...{ id: a.id, name: `${act.title} of ${s.name}`, seed: seedOf(shot, s, a), share: act.share(readerOf(a)) },
        ...(phases === undefined ? {} : { phases }),
        ...{ system: shot.systems[system]?.id === s.id ? -1 : system, phase },
        ...rest,
        ...(colour > 0 ? { colour: { share: colour, of: (t: number) => coloursOf(shot, s, t) } } : {}),
      },
    ]
  }
  const ofPhases = s.phases.flatMap((phase, k) => unmuted(phase.offspring).flatMap((a) => made(a, phasesOf(s, k)?.phases)))
  return [...unmuted(s.whole.offspring).flatMap((a) => made(a)), ...ofPhases]
}
/** The colours of the particles of a system at t, by phase and share of life. */
function coloursOf(shot: Shot, s: SystemDoc, t: number) {
  const tables = drawsOf(shot, s, t).map((d) => lookTable(d.look))
  return (phase: number, life: number) => sampleLook(tables[phase] ?? tables[0], life).slice(0, 3) as Vec3
}
/** Whether particles of some system are shed into it: they know how many they descend from. */
export const isShedInto = (shot: Shot, s: SystemDoc): boolean =>
  shot.systems.some((x) =>
    unmuted(actsIn(x, 'offspring')).some((a) => {
      const to = sheddingOf(a)?.to
      return to && 'system' in to && to.system === s.id
    }),
  )
/** Whether some of its particles may have taken over a colour: shed so, or gone over from where that is. */
export function takesColours(shot: Shot, s: SystemDoc): boolean {
  const tinted = new Set<string>()
  for (const x of shot.systems)
    for (const a of unmuted(actsIn(x, 'offspring'))) {
      const what = sheddingOf(a)
      if (!what || !(what.colour > 0)) continue
      const into = 'system' in what.to ? what.to.system : x.id
      if (into) tinted.add(into)
    }
  // Along all turns into other systems.
  for (let before = -1; before !== tinted.size; ) {
    before = tinted.size
    for (const x of shot.systems) if (tinted.has(x.id)) for (const y of shot.systems) if (turnsInto(x, y.id)) tinted.add(y.id)
  }
  return tinted.has(s.id)
}
/** Whether turns make its particles larger or smaller, or bring such from elsewhere. */
export const changesSize = (shot: Shot, s: SystemDoc): boolean =>
  shot.systems.some((x) => {
    const grows = x.phases.some((p) => unmuted(p.turns).some((a) => a.size !== undefined && a.size !== 100))
    return grows && (x.id === s.id || isShedInto(shot, s) || turnsInto(x, s.id))
  })
/** Whether its particles may come from others: shed, copied, or gone over from another system. They know from whom. */
export const descends = (shot: Shot, s: SystemDoc): boolean =>
  isShedInto(shot, s) ||
  unmuted(actsIn(s, 'offspring')).some((a) => {
    const to = sheddingOf(a)?.to
    return to && 'phase' in to
  }) ||
  s.phases.some((p) => unmuted(p.turns).some((a) => actOfSort(a.kind, 'turn').passes === 'copy')) ||
  shot.systems.some((x) => x.id !== s.id && turnsInto(x, s.id))
const turnsInto = (x: SystemDoc, id: string): boolean => x.phases.some((p) => unmuted(p.turns).some((a) => a.to === id))
/** Whether the look of one phase passes over into that of another. */
export const blendsLooks = (s: SystemDoc): boolean => s.phases.length > 1 && s.phases.some((p) => p.blend > 0)
