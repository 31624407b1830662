import { describe, expect, it } from 'vitest'
import { type Frame, hasColumn, type PointsPart, partsOf, pointColumn } from '../engine'
import type { ActDoc, PhaseDoc, Shot, SystemDoc } from '../shot'
import { drawsOf, partLooks, touchedFrom } from '.'
import { act, after, quiet } from './testing/quiet'

let n = 0
const one = (kind: string, values: Record<string, unknown> = {}): ActDoc => ({ ...act(kind, values), id: `${kind}-${n++}` })
const turn = (to: string, afterS: number, values: Record<string, unknown> = {}, kind = 'turnTo') =>
  one(kind, { to, when: [one('whenInPhase', { after: afterS })], life: null, ...values })
const phase = (id: string, values: Partial<PhaseDoc> = {}): PhaseDoc => ({
  ...{ id, name: id, blend: 0, movement: [], contact: [], offspring: [], look: [], turns: [] },
  ...values,
})
const phased = (phases: PhaseDoc[], change: (s: Shot) => void = () => {}): Shot =>
  quiet((s) => {
    s.systems[0].phases = phases
    s.systems[0].birth[0].count = 1000
    s.systems[0].limit = 9000
    change(s)
  })
const partOf = (f: Frame, id = 'sparks'): PointsPart => partsOf(f.parts, 'points').filter((p) => p.element === id)[0]
const looksAt = (s: Shot, f: Frame, id = 'sparks') => {
  const system = s.systems.find((x) => x.id === id) as SystemDoc
  return partLooks(
    partOf(f, id),
    drawsOf(s, system, f.frame / 24),
    system.phases.map((p) => p.blend),
  )
}

describe('sizes that turns make', () => {
  it('multiply, with ±, and add up through turns; without them no column is kept', async () => {
    const grows = (size: unknown) =>
      phased([phase('a', { turns: [turn('b', 0.2, { size })] }), phase('b', { turns: [turn('c', 0.2, { size })] }), phase('c')])
    const plain = await after(grows(100), 20)
    expect(hasColumn(partOf(plain), 'size')).toBe(false)
    const s = grows(50)
    const f = await after(s, 20)
    for (const x of pointColumn(partOf(f), 'size')) expect(x).toBeCloseTo(-0.75, 6)
    const [was, is] = [looksAt(s, plain)(3).size, looksAt(s, f)(3).size]
    expect(is).toBeCloseTo(was / 4, 6)
    const varied = await after(grows({ value: 100, vary: 40 }), 7)
    const sizes = [...pointColumn(partOf(varied), 'size')].sort((x, y) => x - y)
    const far = Math.max(...sizes.map((x, i) => Math.abs((x + 0.4) / 0.8 - (i + 0.5) / 1000)))
    expect(far).toBeLessThan(1.63 / Math.sqrt(1000))
    expect(touchedFrom(grows(100), grows(50))).not.toBeNull()
  })
  it('go along with copies, into other systems and, by a share, to those who are shed', async () => {
    const s = phased(
      [
        phase('a', { turns: [turn('b', 0.1, { size: 300 })] }),
        phase('b', { turns: [turn('b', 0.2, { size: 50 }, 'turnCopy'), turn('other', 0.5, { size: 200 }, 'turnInto')] }),
      ],
      (d) => {
        const other = { ...structuredClone(d.systems[0]), id: 'other', name: 'Other', birth: [], phases: [phase('only')], seed: 9 }
        const shed = { ...structuredClone(other), id: 'shed', name: 'Shed', phases: [phase('last')] }
        for (const x of [other, shed]) {
          x.whole.look.forEach((a) => (a.id += x.id))
          d.systems.push(x)
        }
        d.systems[0].phases[1].offspring = [one('shed', { to: 'shed', each: 'turn', count: 1, size: 50, speed: 0 })]
      },
    )
    const f = await after(s, 13)
    // A copy at 0.3 s and another at 0.5 s of each, half as large; the copies copy as well.
    const copies = [...pointColumn(partOf(f), 'size')].filter((_, i) => pointColumn(partOf(f), 'phase')[i] === 1)
    expect(new Set(copies.map((x) => Math.round((1 + x) * 1000) / 1000))).toEqual(new Set([3, 1.5, 0.75]))
    // Half of what is more or less of it: of the turned themselves, and of their copies.
    const made = new Set([...pointColumn(partOf(f, 'shed'), 'size')].map((x) => Math.round((1 + x) * 1000) / 1000))
    expect(made).toEqual(new Set([2, 1.25]))
    const late = await after(
      phased([phase('a', { turns: [turn('other', 0.2, { size: 200 }, 'turnInto')] })], (d) => {
        const other = { ...structuredClone(d.systems[0]), id: 'other', name: 'Other', birth: [], phases: [phase('only')], seed: 9 }
        other.whole.look.forEach((a) => (a.id += 'other'))
        d.systems.push(other)
      }),
      8,
    )
    for (const x of pointColumn(partOf(late, 'other'), 'size')) expect(x).toBeCloseTo(1, 6)
  })
})
describe('looks that blend', () => {
  const blending = (blend: number) =>
    phased([phase('a', { turns: [turn('b', 0.25)] }), phase('b', { blend, look: [one('overLife', { size: 0.5, opacity: 40 })] })])
  it('pass over from the look before, evenly over the time of the phase', async () => {
    const s = blending(0.5)
    const at = async (frame: number) => looksAt(s, await after(s, frame))(5)
    // 0.25 s after the turn: half way.
    const [half, done] = [await at(12), await at(20)]
    const mixed = partLooks(partOf(await after(blending(0), 12)), drawsOf(s, s.systems[0], 0.5), [0, 0])(5)
    const old = partLooks(partOf(await after(phased([phase('a')]), 12)), drawsOf(s, s.systems[0], 0.5), [0])(5)
    expect(half.size).toBeCloseTo((mixed.size + old.size) / 2, 5)
    expect(half.opacity).toBeCloseTo((mixed.opacity + old.opacity) / 2, 5)
    expect(done.size).toBeCloseTo(looksAt(blending(0), await after(blending(0), 20))(5).size, 6)
  })
  it('keep the columns only where they are asked for', async () => {
    expect(hasColumn(partOf(await after(blending(0), 3)), 'phaseFrom')).toBe(false)
    expect(hasColumn(partOf(await after(blending(0.5), 3)), 'phaseFrom')).toBe(true)
  })
})
