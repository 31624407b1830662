import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fromHex, sampleCurve, sampleRamp, toHex } from '.'

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
