import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { apply, compose, cosTurns, hash3, identity, invert, sinTurns, unit } from '..'

const angle = fc.double({ min: -720, max: 720, noNaN: true })
const place = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -50, max: 50, noNaN: true }))) as fc.Arbitrary<[number, number, number]>
const scale = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.1, max: 9, noNaN: true }))) as fc.Arbitrary<[number, number, number]>

describe('matrices', () => {
  it('the inverse takes every point back', () => {
    fc.assert(
      fc.property(place, fc.tuple(angle, angle, angle), scale, place, (p, r, s, point) => {
        const m = compose(p, r, s)
        const i = invert(m)
        expect(i).not.toBeNull()
        if (!i) return
        const back = apply(i, ...apply(m, ...point))
        back.forEach((v, k) => expect(v).toBeCloseTo(point[k], 6))
      }),
    )
  })
  it('rotation keeps lengths', () => {
    fc.assert(
      fc.property(fc.tuple(angle, angle, angle), place, (r, v) => {
        const w = apply(compose([0, 0, 0], r, [1, 1, 1]), ...v)
        expect(Math.hypot(...w)).toBeCloseTo(Math.hypot(...v), 8)
      }),
    )
  })
  it('turns the right way: +90° about Y takes Z to X, about X takes Y to Z, about Z takes X to Y', () => {
    const near = (a: number[], b: number[]) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i], 10))
    near(apply(compose([0, 0, 0], [0, 90, 0], [1, 1, 1]), 0, 0, 1), [1, 0, 0])
    near(apply(compose([0, 0, 0], [90, 0, 0], [1, 1, 1]), 0, 1, 0), [0, 0, 1])
    near(apply(compose([0, 0, 0], [0, 0, 90], [1, 1, 1]), 1, 0, 0), [0, 1, 0])
  })
  it('Z goes first, then X, then Y', () => {
    const w = apply(compose([0, 0, 0], [90, 90, 90], [1, 1, 1]), 1, 0, 0)
    // X → Y by Z, Y → Z by X, Z → X by Y.
    ;[1, 0, 0].forEach((v, i) => expect(w[i]).toBeCloseTo(v, 10))
  })
  it('a flat one has no inverse', () => {
    expect(invert(compose([1, 2, 3], [0, 0, 0], [1, 0, 1]))).toBeNull()
    expect(invert(identity())).not.toBeNull()
  })
})
describe('elementary functions', () => {
  it('sin and cos agree with the true ones to 1e-12', () => {
    fc.assert(
      fc.property(fc.double({ min: -100, max: 100, noNaN: true }), (x) => {
        expect(Math.abs(sinTurns(x) - Math.sin((x - Math.round(x)) * 2 * Math.PI))).toBeLessThan(1e-12)
        expect(Math.abs(cosTurns(x) - Math.cos((x - Math.round(x)) * 2 * Math.PI))).toBeLessThan(1e-12)
      }),
    )
  })
  it('those of the kernels agree to 5e-7, and the hash to the bit', async () => {
    const { exports } = await nodeKernels()
    for (let i = 0; i < 2000; i++) {
      const x = (i - 1000) / 137
      expect(Math.abs(exports.sinTurn(x) - sinTurns(Math.fround(x)))).toBeLessThan(5e-7)
      expect(Math.abs(exports.cosTurn(x) - cosTurns(Math.fround(x)))).toBeLessThan(2e-6)
      expect(exports.hash3(i * 2654435761, i, i % 7) >>> 0).toBe(hash3((i * 2654435761) >>> 0, i, i % 7))
    }
  })
  it('hashed numbers are even over their range (chi-square, 63 degrees of freedom)', () => {
    const bins = new Array(64).fill(0)
    const n = 64000
    for (let i = 0; i < n; i++) bins[Math.floor(unit(hash3(12345, i, 3)) * 64)]++
    const chi = bins.reduce((s, b) => s + (b - n / 64) ** 2 / (n / 64), 0)
    // 99.99 % of fair draws lie below 115.
    expect(chi).toBeLessThan(115)
  })
})
