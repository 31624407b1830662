import { describe, expect, it, vi } from 'vitest'
import { checkShot, type Reference, readElements, references, touchedFrom } from '../acts'
import { demoShot } from '../acts/testing/shots'
import type { ActDoc, Shot } from '../shot'
import { parcelOf, withParcel } from './clipboard'
import { removeElement } from './commands'
import { copiesOf } from './duplicate'
import { loadStudio, shotNow } from './store'

vi.mock('../acts/registry', async (original) => {
  const real = await original<typeof import('../acts/registry')>()
  const { pied } = await import('../acts/testing/pied')
  return { ...real, ...real.registryOf([...real.ACTS, pied]) }
})
vi.mock('./toast', () => ({ toast: () => {} }))

const piper = (values: Partial<ActDoc> = {}): ActDoc => ({
  id: 'p',
  kind: 'pied',
  seed: 1,
  piper: 'anvil',
  crowd: 'sparks',
  stops: ['floor', 'anvil'],
  step: 'walk',
  share: 100,
  limits: [],
  ...values,
})
/** The demo shot with the act in the force of the shot, in the whole life, and in a phase. */
function shotWith(values: Partial<ActDoc> = {}): Shot {
  const s = demoShot()
  s.systems[0].phases[0].movement.push(piper({ ...values, id: 'in-phase' }))
  s.forces.push({ id: 'f', name: 'Piper', seed: 1, act: piper({ ...values, id: 'of-shot' }), reaches: [s.systems[0].id], shares: [] })
  return s
}
const ids = demoShot()
const [object, other] = ids.objects.map((o) => o.id)
const system = ids.systems[0].id
const real = { piper: object, crowd: system, stops: [other, object] }
const of = (s: Shot, act: string): Reference[] => references(s).filter((r) => r.record?.record.id === act)

describe('references', () => {
  it('are found by the declared parameters alone, whatever their names', () => {
    const s = shotWith(real)
    for (const act of ['in-phase', 'of-shot'])
      expect(of(s, act).map((r) => [r.path.at(-1), r.to, r.id])).toEqual([
        ['piper', 'object', object],
        ['crowd', 'system', system],
        [0, 'object', other],
        [1, 'object', object],
      ])
    expect(of(s, 'in-phase')[0].path).toEqual(['systems', 0, 'phases', 0, 'movement', s.systems[0].phases[0].movement.length - 1, 'piper'])
    expect(of(s, 'of-shot')[0].path).toEqual(['forces', s.forces.length - 1, 'act', 'piper'])
  })
  it('that lead nowhere do not pass the check, wherever they stand', () => {
    expect(checkShot(shotWith(real)).ok).toBe(true)
    const bad = (values: Partial<ActDoc>) => {
      const r = checkShot(shotWith({ ...real, ...values }))
      return r.ok ? [] : r.problems.map((p) => `${p.path}: ${p.message}`)
    }
    const n = ids.systems[0].phases[0].movement.length
    expect(bad({ piper: 'gone' })).toEqual([
      `systems[0].phases[0].movement[${n}].piper: no object has the id gone`,
      `forces[${ids.forces.length}].act.piper: no object has the id gone`,
    ])
    expect(bad({ crowd: object })[0]).toContain(`no system has the id ${object}`)
    expect(bad({ stops: [object, 'gone'] })[1]).toContain('act.stops[1]: no object has the id gone')
  })
  it('are cleared with their target, and mute an act for which nobody would mean somebody else', () => {
    const removed = (id: string): Shot => {
      loadStudio('id', { id: 'p', name: 'Quay' }, shotWith(real))
      removeElement(id)
      expect(checkShot(shotNow()).ok).toBe(true)
      return shotNow()
    }
    const act = (s: Shot) => s.forces.find((f) => f.id === 'f')?.act
    expect(act(removed(object))).toMatchObject({ piper: null, crowd: system, stops: [other] })
    expect(act(removed(object))?.muted).toBeUndefined()
    const s = removed(system)
    expect(act(s)).toMatchObject({ piper: object, crowd: null, muted: true })
    expect(s.forces.find((f) => f.id === 'f')?.reaches).toEqual([])
  })
  it('lead to the copies among what is copied, else where they led', () => {
    const s = shotWith(real)
    const [{ element }] = copiesOf(s, system, 'fresh')
    const copied = (element as unknown as Shot['systems'][number]).phases[0].movement.at(-1)
    expect(copied).toMatchObject({ kind: 'pied', piper: object, crowd: element.id, stops: [other, object] })
    expect(copied?.id).not.toBe('in-phase')
  })
  it('go over the clipboard: into its own shot as they were, into another to nobody', () => {
    const s = shotWith(real)
    const parcel = parcelOf(s, 'f') as string
    const here = withParcel(s, parcel)
    if ('problem' in here) throw new Error(here.problem)
    expect(here.shot.forces.at(-1)?.act).toMatchObject({ piper: object, crowd: system })
    const empty = { ...demoShot(), objects: [], forces: [], systems: [] }
    const there = withParcel(empty, parcel)
    if ('problem' in there) throw new Error(there.problem)
    expect(there.shot.forces[0]).toMatchObject({ reaches: [], act: { piper: null, crowd: null, stops: [] } })
  })
  it('say what the simulation reads: a change there touches its frames', () => {
    const s = shotWith(real)
    s.objects[0].roles = { source: false, collider: false }
    expect(readElements(s)).toContain(object)
    const moved = structuredClone(s)
    moved.objects[0].place = [3, 0, 0]
    expect(touchedFrom(s, moved)).not.toBeNull()
  })
})
describe('references of values', () => {
  it('follow the element and the act that they name, also inside modulators and formulas', () => {
    const s = demoShot()
    const force = s.systems[0].whole.movement[0]
    const names = [{ name: 'g', element: system, value: `acts.${force.id}.strength` }]
    s.lights[0].strength = {
      value: 1,
      modulators: [{ id: 'm', kind: 'expression', seed: 1, mode: 'replace', formula: 'g', names }],
    }
    const found = references(s).filter((r) => r.element.id === s.lights[0].id && r.to !== 'folder')
    expect(found.map((r) => [r.to, r.id])).toEqual([
      ['element', system],
      ['act', force.id],
    ])
    expect(found[0].path).toEqual(['lights', 0, 'strength', 'modulators', 0, 'names', 0, 'element'])
    found[1].lead('other-act')
    expect(names[0].value).toBe('acts.other-act.strength')
  })
})
