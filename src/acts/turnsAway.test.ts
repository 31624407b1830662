import { describe, expect, it } from 'vitest'
import { type Frame, partsOf, pointColumn } from '../engine'
import { marksOf } from '../engine/testing/plans'
import type { ActDoc, Shot } from '../shot'
import { checkShot, compile } from '.'
import { col, one, partOf, phase, phased, RATE } from './testing/phased'
import { after } from './testing/quiet'
import { thing } from './testing/things'

describe('turns that copy', () => {
  const copied = (values: Record<string, unknown> = {}, change: (s: Shot) => void = () => {}) =>
    phased(
      [
        phase('a', { turns: [one('turnCopy', { to: 'b', life: null, when: [one('whenInPhase', { after: 0.3 })], ...values })] }),
        phase('b'),
      ],
      (d) => {
        d.systems[0].birth[0].speed = { value: 2, vary: 1 }
        d.systems[0].birth[0].spread = 180
        d.systems[0].limit = 20000
        change(d)
      },
    )
  const byId = (f: Frame) => new Map(col(f, 'id').map((id, i) => [id, i]))
  it('leave the originals bit for bit as they were, and go on from there', async () => {
    const plain = await after(
      copied({}, (d) => void (d.systems[0].phases[0].turns = [])),
      20,
    )
    const f = await after(copied({ keeps: 50 }), 20)
    // At 0.3 and 0.6 s: two copies each, in 0.83 s.
    expect(partOf(f).count).toBe(6000)
    expect(f.stats.sparks.phases).toEqual([2000, 4000])
    for (const name of ['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'seed', 'id'] as const)
      expect(col(f, name).slice(0, 2000), name).toEqual(col(plain, name))
    const seeds = new Set(col(f, 'seed'))
    expect(seeds.size).toBe(6000)
    const ids = col(f, 'id')
    expect(ids).toEqual([...ids].sort((x, y) => x - y))
    expect(byId(f).size).toBe(6000)
    // Half as fast from the moment on: the first copies have gone half of the originals' way since.
    const [x0, x1] = [col(f, 'vx')[5], col(f, 'vx')[2005]]
    expect(x1).toBeCloseTo(x0 / 2, 5)
  })
  it('stop at the limit of the system, and say so', async () => {
    const f = await after(
      copied({ when: [] }, (d) => void (d.systems[0].limit = 3000)),
      10,
    )
    expect(partOf(f).count).toBe(3000)
    expect(f.notices.map((x) => x.kind)).toEqual(['limit'])
  })
  it('are the same on three threads and from a saved state', async () => {
    const checked = checkShot(copied({ scatter: 1, life: { value: 0.4, vary: 0.2 } }))
    if (!checked.ok) throw new Error('not valid')
    const { plan } = compile(checked.shot, new Map())
    expect(new Set(await marksOf(plan, { last: 30, saved: 11 })).size).toBe(1)
  })
})
describe('turns into another system', () => {
  const two = (change: (s: Shot) => void = () => {}) =>
    phased(
      [
        phase('a', {
          turns: [one('turnInto', { to: 'ash', life: null, when: [one('limitChance', { part: 50 }), one('whenInPhase', { after: 0.2 })] })],
        }),
      ],
      (d) => {
        const ash = structuredClone(d.systems[0])
        const again = (a: ActDoc): ActDoc => ({ ...a, id: `${a.id}-ash` })
        d.systems.push({
          ...ash,
          id: 'ash',
          name: 'Ash',
          birth: [],
          whole: { ...ash.whole, look: ash.whole.look.map(again) },
          phases: [phase('grey', { movement: [one('gravity', { strength: 1 })] })],
        })
        change(d)
      },
    )
  it('take place, velocity, age and life along, and nobody is lost or doubled', async () => {
    const f = await after(two(), 12)
    const [sparks, ash] = partsOf(f.parts, 'points')
    expect(sparks.count + ash.count).toBe(2000)
    expect(Math.abs(ash.count / 2000 - 0.5)).toBeLessThan(0.05)
    expect(pointColumn(ash, 'age')[0]).toBe(pointColumn(sparks, 'age')[0])
    expect(f.stats.ash).toMatchObject({ alive: ash.count })
    // Gravity of where it is now, from the turn on.
    expect(Math.abs(pointColumn(ash, 'vy')[0] + 12 / RATE - 0.2)).toBeLessThan(2 / RATE)
    expect(pointColumn(sparks, 'vy')[0]).toBe(0)
  })
  it('change nothing by another system that has nothing to do with them', async () => {
    const plain = await after(two(), 14)
    const more = await after(
      two((d) => {
        const other = structuredClone(d.systems[1])
        d.systems.unshift({ ...other, id: 'other', whole: { ...other.whole, look: [] }, phases: [phase('o')] })
      }),
      14,
    )
    for (const k of [0, 1]) {
      const [a, b] = [partsOf(plain.parts, 'points')[k], partsOf(more.parts, 'points')[k + 1]]
      expect(new Uint32Array(b.data)).toEqual(new Uint32Array(a.data))
    }
  })
  it('stand at the same place of the shot when the other runs in the space of an object', async () => {
    const f = await after(
      two((d) => {
        d.objects = [thing('float', { place: [3, 1, -2], rotate: [0, 90, 0] }), thing('buoy', { place: [1, 2, 3] })]
        d.systems[0].birth[0].source = 'buoy'
        d.systems[1].space = 'float'
        d.systems[1].phases[0].movement = []
      }),
      8,
    )
    const ash = partsOf(f.parts, 'points')[1]
    // Turned back by a quarter about Y, from where the object stands.
    expect(
      [pointColumn(ash, 'px')[0], pointColumn(ash, 'py')[0], pointColumn(ash, 'pz')[0]].map((v) => Math.round(v * 1e4) / 1e4 + 0),
    ).toEqual([-5, 1, -2])
  })
  it('with a target that is gone or muted stay where they are', async () => {
    expect(
      partOf(
        await after(
          two((d) => void (d.systems[1].muted = true)),
          12,
        ),
      ).count,
    ).toBe(2000)
    expect(
      partOf(
        await after(
          two((d) => void (d.systems[0].phases[0].turns[0].to = null)),
          12,
        ),
      ).count,
    ).toBe(2000)
  })
})
