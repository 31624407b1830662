import { type ActDoc, actsIn, newId, type PhaseDoc, type Shot, type SystemDoc } from '../../shot'
import { newAct } from '../create'
import { edit } from '../store'
import { copyOfAct } from './copyOfAct'

// What a person does to the phases of a system. Turns lead to phases by their ids, which are the system's own.
const systemIn = (s: Shot, id: string): SystemDoc | undefined => s.systems.find((x) => x.id === id)
const turnsOf = (s: SystemDoc): ActDoc[] => s.phases.flatMap((p) => p.turns)
/** Acts that name a phase beside turns: what they make goes there. */
const namingOf = (s: SystemDoc): ActDoc[] => actsIn(s, 'offspring').filter((a) => 'phase' in a)

function freeName(s: SystemDoc, name: string): string {
  const names = new Set(s.phases.map((p) => p.name))
  let out = name
  for (let n = 2; names.has(out); n++) out = `${name} ${n}`
  return out
}
/** A phase behind all others, and the turn that leads there from the last one, after a second. */
export function addPhase(system: string): void {
  edit('a new phase', (shot) => {
    const s = systemIn(shot, system)
    const last = s?.phases.at(-1)
    if (!s || !last) return
    const phase: PhaseDoc = {
      id: newId('phase'),
      name: freeName(s, 'Phase'),
      blend: 0,
      movement: [],
      contact: [],
      offspring: [],
      look: [],
      turns: [],
    }
    s.phases.push(phase)
    last.turns.push(newAct('turnTo', { to: phase.id, life: null, when: [newAct('whenInPhase')] }))
  })
}
export function changePhase(system: string, phase: string, label: string, recipe: (p: PhaseDoc, s: SystemDoc, at: number) => void): void {
  edit(label, (shot) => {
    const s = systemIn(shot, system)
    const at = s?.phases.findIndex((p) => p.id === phase) ?? -1
    if (s && at >= 0) recipe(s.phases[at], s, at)
  })
}
/** With its cards and turns; those that led to itself lead to the copy. */
export const duplicatePhase = (system: string, phase: string): void =>
  changePhase(system, phase, 'a copy of the phase', (p, s, at) => {
    const copy = structuredClone(p)
    copy.id = newId('phase')
    copy.name = freeName(s, p.name)
    for (const key of ['movement', 'contact', 'offspring', 'look', 'turns'] as const) copy[key] = p[key].map(copyOfAct)
    for (const t of copy.turns) if (t.to === p.id) t.to = copy.id
    s.phases.splice(at + 1, 0, copy)
  })
export const movePhase = (system: string, phase: string, by: -1 | 1): void =>
  changePhase(system, phase, 'order of the phases', (_p, s, at) => {
    if (at + by >= 0 && at + by < s.phases.length) s.phases.splice(at + by, 0, ...s.phases.splice(at, 1))
  })
/** What led there leads to another phase, or is taken out with it. */
export const deletePhase = (system: string, phase: string, instead: string | null): void =>
  changePhase(system, phase, 'removal of the phase', (_p, s, at) => {
    if (s.phases.length < 2) return
    s.phases.splice(at, 1)
    if (instead === null) for (const p of s.phases) p.turns = p.turns.filter((t) => t.to !== phase)
    else for (const t of turnsOf(s)) if (t.to === phase) t.to = instead
    for (const a of namingOf(s)) if (a.phase === phase) a.phase = instead ?? ''
  })
