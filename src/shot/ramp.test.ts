import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fromHex, joinedBy, joiningOf, sampleCurve, sampleRamp, spreadEvenly, toHex, turnedAround } from '.'

describe('ramps and curves', () => {
  it('blend between stops and hold outside', () => {
    const r = {
      stops: [
        { at: 0.2, colour: [0, 0, 0] as [number, number, number] },
        { at: 0.6, colour: [1, 2, 4] as [number, number, number] },
      ],
    }
    expect(sampleRamp(r, 0)).toEqual([0, 0, 0])
    expect(sampleRamp(r, 0.4)[2]).toBeCloseTo(2, 12)
    expect(sampleRamp(r, 1)).toEqual([1, 2, 4])
  })
  it('may have stops in any order and two at one place', () => {
    const c = {
      points: [
        { at: 1, v: 3 },
        { at: 0, v: 1 },
        { at: 0.5, v: 2 },
        { at: 0.5, v: 5 },
      ],
    }
    expect(sampleCurve(c, 0.25)).toBeCloseTo(1.5, 12)
    expect(sampleCurve(c, 0.75)).toBeCloseTo(4, 12)
  })
  it('smooth ones pass through their points and stay within them', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ at: fc.double({ min: 0, max: 1, noNaN: true }), v: fc.double({ min: 0, max: 9, noNaN: true }) }), {
          minLength: 1,
          maxLength: 8,
        }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (points, x) => {
          const s = sampleCurve({ points, smooth: true }, x)
          const values = points.map((p) => p.v)
          return s >= Math.min(...values) - 1e-9 && s <= Math.max(...values) + 1e-9
        },
      ),
    )
  })
})
describe('stops', () => {
  const at = (...list: number[]) => list.map((x, i) => ({ at: x, v: i + 1 }))
  const steps = (...list: number[]) => ({ points: at(...list), steps: true })
  it('of steps hold up to the next one, and the first of them before itself too', () => {
    const values = (c: Parameters<typeof sampleCurve>[0]) => [0, 0.29, 0.3, 0.69, 0.7, 1].map((x) => sampleCurve(c, x))
    expect(values(steps(0.1, 0.3, 0.7))).toEqual([1, 1, 2, 2, 3, 3])
    expect(values({ points: [...at(0.1, 0.3, 0.7)].reverse(), steps: true })).toEqual([1, 1, 2, 2, 3, 3])
  })
  it('are spread evenly in their order: over all of the way, or as steps of one width', () => {
    expect(spreadEvenly([...at(0.2, 0.9, 0.1)]).map((s) => [s.v, s.at])).toEqual([[3, 0], [1, 0.5], [2, 1]]) // biome-ignore format: one line
    expect(spreadEvenly(at(0, 0.1, 0.2, 0.3), true).map((s) => s.at)).toEqual([0, 0.25, 0.5, 0.75])
    expect(spreadEvenly(at(0.4))[0].at).toBe(0)
  })
  it('turn around, and twice are what they were', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 99 }), { minLength: 1, maxLength: 8 }), fc.boolean(), (places, isSteps) => {
        const points = at(0, ...places.sort((a, b) => a - b).map((x) => x / 100))
        const c = { points, steps: isSteps }
        const turned = { points: turnedAround(points, isSteps), steps: isSteps }
        for (const x of [0.003, 0.135, 0.4444, 0.777, 0.997]) expect(sampleCurve(turned, 1 - x)).toBeCloseTo(sampleCurve(c, x), 9)
        const back = turnedAround(turned.points, isSteps)
        back.forEach((p, i) => expect([p.v, p.at]).toEqual([points[i].v, expect.closeTo(points[i].at, 9)]))
      }),
    )
  })
  it('are joined in one of three ways', () => {
    const c = { points: at(0, 1), smooth: true }
    expect([joiningOf(c), joiningOf(joinedBy(c, 'steps')), joiningOf(joinedBy(joinedBy(c, 'steps'), 'straight'))]).toEqual([
      'smooth',
      'steps',
      'straight',
    ])
    expect(joinedBy(c, 'straight')).toEqual({ points: at(0, 1) })
  })
})
describe('colours', () => {
  it('survive hexadecimal both ways', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffffff }), (n) => {
        const hex = `#${n.toString(16).padStart(6, '0')}`
        const c = fromHex(hex)
        expect(c).not.toBeNull()
        if (c) expect(toHex(c)).toBe(hex)
      }),
    )
  })
  it('refuse what is no colour', () => {
    expect(fromHex('ember')).toBeNull()
    expect(fromHex('#12345')).toBeNull()
  })
  it('middle grey is 21 % linear', () => {
    expect(fromHex('#808080')?.[0]).toBeCloseTo(0.2159, 4)
  })
})
