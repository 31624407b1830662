import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type ActDoc, defaultsOf, integral } from '../shot'
import { actOfSort, readerOf } from '.'

const source = (kind: string, values: Record<string, unknown>) => {
  const act = actOfSort(kind, 'source')
  const p = readerOf({ id: 'a', kind, seed: 1, ...defaultsOf(act.params), ...values } as ActDoc)
  return {
    act,
    due: (a: number, b: number, way: (t: number) => number = () => 0) => act.due(p, a, b, way),
    starts: act.starts(p),
    ends: act.ends(p),
    rate: (a: number, b: number) => act.rate(p, a, b),
  }
}
const total = (batches: { count: number }[]) => batches.reduce((s, b) => s + b.count, 0)

describe('a steady rate', () => {
  it('gives the same births however time is cut', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 3000, noNaN: true }),
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 1, max: 8 }),
        (rate, frames, substeps) => {
          const s = source('steady', { rate, start: 0, end: null })
          const dt = 1 / 24 / substeps
          let n = 0
          for (let i = 0; i < frames * substeps; i++) n += total(s.due(i * dt, (i + 1) * dt))
          expect(Math.abs(n - Math.floor((rate * frames) / 24 + 1e-6))).toBeLessThanOrEqual(1)
        },
      ),
    )
  })
  it('is exact for a whole number of births', () => {
    const s = source('steady', { rate: 634, start: 0, end: null })
    let n = 0
    for (let i = 0; i < 48; i++) n += total(s.due(i / 48, (i + 1) / 48))
    expect(n).toBe(634)
  })
  it('spaces births evenly across the ends of substeps', () => {
    const s = source('steady', { rate: 100, start: 0, end: null })
    const times: number[] = []
    for (let i = 0; i < 48; i++)
      for (const b of s.due(i / 48, (i + 1) / 48)) for (let k = 0; k < b.count; k++) times.push(i / 48 + b.at + k * b.spacing)
    expect(times).toHaveLength(100)
    times.forEach((t, k) => expect(t).toBeCloseTo((k + 1) / 100, 6))
  })
  it('stays inside its window', () => {
    const s = source('steady', { rate: 240, start: 0.5, end: 1 })
    expect(s.starts).toBe(0.5)
    expect(s.ends).toBe(1)
    let n = 0
    for (let i = 0; i < 96; i++) {
      for (const b of s.due(i / 48, (i + 1) / 48)) {
        n += b.count
        for (let k = 0; k < b.count; k++) {
          const t = i / 48 + b.at + k * b.spacing
          expect(t).toBeGreaterThan(0.5 - 1e-9)
          expect(t).toBeLessThan(1 + 1e-9)
        }
      }
    }
    expect(n).toBe(120)
  })
  it('follows keys: as many as the area under the rate', () => {
    const rate = {
      keys: [
        { t: 0, v: 0, ease: 'smooth' },
        { t: 1, v: 1000, ease: 'linear' },
        { t: 2, v: 0, ease: 'hold' },
      ],
    }
    const s = source('steady', { rate, start: 0, end: null })
    let n = 0
    for (let i = 0; i < 96; i++) n += total(s.due(i / 48, (i + 1) / 48))
    expect(n).toBe(Math.floor(integral(rate as never, 2) + 1e-6))
    expect(s.rate(0, 2)).toBeCloseTo(1000, 9)
  })
  it('a rate of 0 or a window of no length emits nothing', () => {
    expect(source('steady', { rate: 0, end: null }).due(0, 1)).toEqual([])
    expect(source('steady', { rate: 100, start: 1, end: 1 }).due(0, 2)).toEqual([])
    expect(source('steady', { rate: 100, start: 2, end: 1 }).due(0, 5)).toEqual([])
  })
})
describe('a burst', () => {
  it('happens exactly once, wherever the substeps fall', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 200 }),
        fc.constantFrom(1, 2, 3, 4, 7),
        fc.constantFrom([24, 1], [24000, 1001], [30, 1], [60, 1]),
        (frame, substeps, [num, den]) => {
          const s = source('burst', { count: 10, at: (frame * den) / num, every: null })
          let n = 0
          for (let f = 0; f < 202; f++)
            for (let k = 0; k < substeps; k++) n += total(s.due(((f + k / substeps) * den) / num, ((f + (k + 1) / substeps) * den) / num))
          expect(n).toBe(10)
        },
      ),
    )
  })
  it('repeats as often as it says', () => {
    const s = source('burst', { count: 3, at: 0.25, every: 0.5, times: 4 })
    const hits: number[] = []
    for (let i = 0; i < 240; i++) for (const b of s.due(i / 48, (i + 1) / 48)) hits.push(i / 48 + b.at)
    expect(hits.map((t) => Math.round(t * 1000) / 1000)).toEqual([0.25, 0.75, 1.25, 1.75])
    expect(s.ends).toBeCloseTo(1.75, 9)
  })
  it('repeats to the end when no number is set', () => {
    const s = source('burst', { count: 1, at: 0, every: 0.1, times: null })
    let n = 0
    for (let i = 0; i < 480; i++) n += total(s.due(i / 48, (i + 1) / 48))
    expect(n).toBe(100)
    expect(s.ends).toBe(Infinity)
  })
})

describe('a total', () => {
  it('is born in all, evenly over its window, however time is cut', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 5000 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        fc.integer({ min: 10, max: 200 }),
        (count, start, span, steps) => {
          const s = source('total', { count, start, end: start + span })
          let n = 0
          let last = -1
          for (let i = 0; i < steps; i++) {
            for (const b of s.due((i * 4) / steps, ((i + 1) * 4) / steps)) {
              n += b.count
              const first = (i * 4) / steps + b.at
              expect(first).toBeGreaterThan(last - 1e-6)
              last = first + (b.count - 1) * b.spacing
              expect(last).toBeLessThan(start + span + 1e-6)
            }
          }
          expect(n).toBe(count)
        },
      ),
    )
  })
})
describe('births by distance', () => {
  it('gives one for each length that the source has gone, at even places, whatever its speed', () => {
    const way = (t: number) => 3 * t * t
    const s = source('travel', { each: 0.1, end: null })
    const at: number[] = []
    for (let i = 0; i < 96; i++)
      for (const b of s.due(i / 48, (i + 1) / 48, way)) for (let k = 0; k < b.count; k++) at.push(way(i / 48 + b.at + k * b.spacing))
    expect(at).toHaveLength(120)
    // Within a substep the speed is taken as even.
    at.forEach((x, k) => expect(Math.abs(x - (k + 1) * 0.1)).toBeLessThan(0.005))
  })
  it('is nothing while the source stands, and keeps to its window', () => {
    expect(total(source('travel', { each: 0.1, end: null }).due(0, 1))).toBe(0)
    expect(total(source('travel', { each: 0.1, start: 0.5, end: 1 }).due(0, 2, (t) => t))).toBe(5)
  })
})
