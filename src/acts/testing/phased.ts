import { type Frame, type PointsPart, partsOf, pointColumn } from '../../engine'
import { framesOn, withWorld } from '../../engine/testing/plans'
import type { ActDoc, PhaseDoc, Shot } from '../../shot'
import { checkShot, compile } from '..'
import { act, quiet } from './quiet'

export const RATE = 24
let n = 0
/** An act with an id of its own. */
export const one = (kind: string, values: Record<string, unknown> = {}): ActDoc => ({ ...act(kind, values), id: `${kind}-${n++}` })
export const turnTo = (to: string, when: ActDoc[], values: Record<string, unknown> = {}) =>
  one('turnTo', { to, when, life: null, ...values })
export const phase = (id: string, values: Partial<PhaseDoc> = {}): PhaseDoc => ({
  id,
  name: id,
  blend: 0,
  movement: [],
  contact: [],
  offspring: [],
  look: [],
  turns: [],
  ...values,
})
/** Two thousand that stand still, through the phases given. */
export const phased = (phases: PhaseDoc[], change: (s: Shot) => void = () => {}): Shot =>
  quiet((s) => {
    s.systems[0].phases = phases
    s.systems[0].birth[0].count = 2000
    s.systems[0].limit = 5000
    change(s)
  })
export const partOf = (f: Frame): PointsPart => partsOf(f.parts, 'points')[0]
export const col = (f: Frame, name: Parameters<typeof pointColumn>[1]) => Array.from(pointColumn(partOf(f), name))
export const share = (f: Frame, k: number) => col(f, 'phase').filter((p) => p === k).length / partOf(f).count
export const states = async (s: Shot, frames: number, columns: ('phaseStart' | 'hits')[]): Promise<number[][]> => {
  const checked = checkShot(s)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  return withWorld(compile(checked.shot, new Map()).plan, (w) => {
    framesOn(w, frames)
    const all = w.columnsOf('sparks')
    if (!all) throw new Error('no sparks')
    return columns.map((c) => Array.from({ length: all.count }, (_, i) => all.value(c, i)))
  })
}
