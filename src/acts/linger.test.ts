import { describe, expect, it } from 'vitest'
import { type ActDoc, defaultsOf } from '../shot'
import type { FinishView } from './finishing'
import { readerOf } from './reader'
import { actOfSort } from './registry'

const linger = actOfSort('linger', 'finish')
const doc = (values: Record<string, unknown>): ActDoc =>
  ({ id: 'l', kind: 'linger', seed: 1, ...defaultsOf(linger.params), ...values }) as ActDoc
const view = (step: number): FinishView => ({ t: 2, step, frame: 48, width: 1600, height: 900, seen: () => null, plane: () => null })
const ago = (values: Record<string, unknown>, step = 1 / 24) => linger.earlier?.(readerOf(doc(values)), view(step)) ?? []
/** What each earlier frame is given, in order: weight, hue, blur and its place. */
function given(values: Record<string, unknown>, step = 1 / 24) {
  const passes = linger.passes?.(readerOf(doc(values)), view(step), 1) ?? []
  return passes
    .filter((p) => p.to)
    .flatMap((p) =>
      Array.from({ length: 6 }, (_, i) => ({
        of: p.reads?.[`e${i}`],
        place: p.values?.[`place${i}`] as number[],
        look: p.values?.[`look${i}`] as number[],
      })),
    )
    .filter((e) => e.look[0] > 0)
}

describe('which earlier frames linger', () => {
  it('are all within the time, the present one and that at its end left out', () => {
    expect(ago({ time: 5 / 24 })).toEqual([1, 2, 3, 4])
    expect(ago({ time: 5.01 / 24 })).toEqual([1, 2, 3, 4, 5])
    for (const time of [0, 1 / 24]) expect(ago({ time })).toEqual([])
    expect(ago({ time: 1, strength: 0 })).toEqual([])
  })
  it('are forty at the most: over a longer time each second or third, evenly', () => {
    const many = ago({ time: 4 }, 1 / 60)
    expect(many.length).toBeLessThanOrEqual(40)
    expect(new Set(many.map((k, i) => k - (many[i - 1] ?? 0))).size).toBe(1)
    expect(many[many.length - 1]).toBeGreaterThan(200)
  })
  it('are what its steps read, each by the name that it was asked for', () => {
    for (const time of [3 / 24, 9 / 24, 1.2]) {
      const names = given({ time }).map((e) => e.of)
      expect(new Set(names)).toEqual(new Set(ago({ time }).map((k) => `earlier ${k}`)))
    }
  })
})
describe('what is left of them', () => {
  it('fades along the curve; what adds doubles what stands still at most, whatever the rate of frames', () => {
    const weights = given({ time: 0.5, strength: 60 }).map((e) => e.look[0])
    expect(weights[0]).toBeLessThan(0.6)
    for (let i = 1; i < weights.length; i++) expect(weights[i]).toBeLessThan(weights[i - 1])
    for (const step of [1 / 24, 1 / 60])
      expect(given({ time: 0.5, strength: 60, join: 'adds' }, step).reduce((sum, e) => sum + e.look[0], 0)).toBeCloseTo(0.6, 6)
  })
  it('drifts, grows, blurs and turns by its age in seconds', () => {
    const all = given({ time: 0.5, right: 30, up: -20, grow: 50, soften: 10, hue: 90 })
    all.forEach((e, i) => {
      const age = (i + 1) / 24
      expect(e.place[0]).toBeCloseTo((0.3 * age * 900) / 1600, 6)
      expect(e.place[1]).toBeCloseTo(-0.2 * age, 6)
      expect(e.place[2]).toBeCloseTo(1 + 0.5 * age, 6)
      expect(e.look[1]).toBeCloseTo((Math.PI / 2) * age, 6)
      expect(e.look[2]).toBeCloseTo(0.1 * age, 6)
    })
  })
})
