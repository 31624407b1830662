import { describe, expect, it } from 'vitest'
import { frameMark } from '../engine'
import { marksOf } from '../engine/testing/plans'
import type { ActDoc, PhaseDoc, Shot } from '../shot'
import { checkShot, compile, touchedFrom } from '.'
import { col, one, phase, phased, RATE, turnTo } from './testing/phased'
import { after } from './testing/quiet'
import { thing } from './testing/things'

describe('what holds in a phase', () => {
  it('moves only those in it, and sets in over its blend', async () => {
    const wind = (blend: number) =>
      phased([
        phase('a', { turns: [turnTo('b', [one('limitChance', { part: 50 }), one('whenInPhase', { after: 0.5 })])] }),
        phase('b', { blend, movement: [one('gravity', { strength: 2 })] }),
      ])
    const f = await after(wind(0), RATE)
    col(f, 'vy').forEach((v, i) => {
      if (col(f, 'phase')[i] === 0) expect(v).toBe(0)
      // From the substep behind the turn on.
      else expect(Math.abs(v + 1)).toBeLessThan(2 / RATE)
    })
    const soft = await after(wind(0.25), RATE)
    const i = col(soft, 'phase').indexOf(1)
    expect(Math.abs(col(soft, 'vy')[i] + 0.75)).toBeLessThan(3 / RATE)
  })
  it('a collider of the whole life is never forgotten, and a phase may say otherwise of it', async () => {
    const make = (contact: ActDoc[]) =>
      phased([phase('a', { turns: [turnTo('b', [one('limitChance', { part: 50 })])] }), phase('b', { contact })], (d) => {
        d.objects = [
          thing('floor', { shape: { kind: 'plane', size: 10, endless: true }, roles: { source: false, collider: true } }),
          thing('above', { place: [0, 1, 0] }),
        ]
        d.systems[0].birth[0].source = 'above'
        d.systems[0].whole.movement = [one('gravity', { strength: 9.81 })]
        d.systems[0].whole.contact = [one('slide', {})]
      })
    const held = await after(make([]), 40)
    for (const y of col(held, 'py')) expect(y).toBeGreaterThanOrEqual(0)
    const through = await after(make([one('ignore', { with: 'floor' })]), 40)
    col(through, 'py').forEach((y, i) => void expect(y < 0, `${i}`).toBe(col(through, 'phase')[i] === 1))
    const dies = await after(make([one('die', {})]), 40)
    expect(new Set(col(dies, 'phase'))).toEqual(new Set([0]))
  })
})
describe('runs with turns', () => {
  const busy = () =>
    phased(
      [
        phase('a', {
          movement: [one('gravity', { strength: 3 })],
          turns: [turnTo('b', [one('whenChance', { share: 60 })], { scatter: 2 }), turnTo('c', [one('limitSpeed', { from: 1, to: 99 })])],
        }),
        phase('b', {
          blend: 0.3,
          movement: [one('turbulence', {})],
          turns: [turnTo('a', [one('whenInPhase', { after: { value: 0.4, vary: 0.3 } })])],
        }),
        phase('c', { turns: [one('turnEnd', { when: [one('whenInPhase', { after: 0.6 })] }), turnTo('b', [one('limitPlace', {})])] }),
      ],
      (d) => {
        d.systems[0].birth = [one('steady', { rate: 3000, source: null, speed: { value: 1, vary: 1 }, spread: 180 })]
        d.systems[0].limit = 20000
      },
    )
  it('are the same on three threads and from any saved state', async () => {
    const s = busy()
    const checked = checkShot(s)
    if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
    const { plan } = compile(checked.shot, new Map())
    expect(new Set(await marksOf(plan, { last: 40, saved: 17 })).size).toBe(1)
  })
  it('stay as they were where another phase is added that nobody comes to', async () => {
    const s = busy()
    const more = busy()
    more.systems = structuredClone(s.systems)
    more.systems[0].phases.push(phase('d', { movement: [one('turbulence', {})] }))
    expect(frameMark(await after(more, 30))).toBe(frameMark(await after(s, 30)))
  })
  it('are out of date when a phase, a turn or a condition changes', () => {
    const s = busy()
    const changed = (recipe: (d: Shot) => void) => {
      const d = structuredClone(s)
      recipe(d)
      return touchedFrom(s, d)
    }
    expect(changed((d) => void (d.systems[0].phases[0].name = 'Rising'))).toBeNull()
    for (const recipe of [
      (d: Shot) => void (d.systems[0].phases[1].blend = 0.5),
      (d: Shot) => void ((d.systems[0].phases[1].turns[0].when as ActDoc[])[0].after = 2),
      (d: Shot) => void (d.systems[0].phases[0].turns[0].to = 'c'),
      (d: Shot) => void d.systems[0].phases[2].turns.pop(),
      (d: Shot) => void d.systems[0].phases.push(phase('e')),
    ])
      expect(changed(recipe)).not.toBeNull()
  })
})
describe('documents with phases', () => {
  it('name what leads nowhere, what is called alike, and what is too much', () => {
    const problems = (phases: PhaseDoc[]) => {
      const r = checkShot(phased(phases))
      return r.ok ? [] : r.problems.map((p) => `${p.path}: ${p.message}`)
    }
    expect(problems([phase('a', { turns: [turnTo('z', [])] })])).toEqual([
      'systems[0].phases[0].turns[0].to: no phase of this system has the id z',
    ])
    expect(problems([phase('a'), phase('a')])).toEqual(['systems[0].phases[1].id: a is the id of another phase of this system already'])
    expect(problems([])).toEqual(['systems[0].phases: must have at least one phase'])
    const eight = () => Array.from({ length: 9 }, () => one('whenInPhase'))
    const deep = [...eight(), one('whenGroup', { when: [...eight(), one('whenGroup', { when: eight() })] })]
    expect(problems([phase('a', { turns: [turnTo('a', deep)] })])).toEqual([
      'systems[0].phases[0].turns[0].when: more than 16 conditions are open at once; put fewer groups into each other',
    ])
  })
})
