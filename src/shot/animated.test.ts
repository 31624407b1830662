import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  type Animated,
  dropKey,
  type Ease,
  firstDifference,
  integral,
  type Keyed,
  sampleColour,
  sampleNumber,
  sampleStep,
  sampleVec3,
  setKey,
  sortedKeys,
  withModulators,
  withValue,
} from '.'

const ease = fc.constantFrom<Ease>('hold', 'linear', 'smooth')
const key = fc.record({ t: fc.integer({ min: 0, max: 100 }).map((n) => n / 10), v: fc.integer({ min: -50, max: 50 }), ease })
const keyed = fc
  .array(key, { minLength: 1, maxLength: 6 })
  .map((keys): Keyed<number> => ({ keys: [...new Map(keys.map((k) => [k.t, k])).values()] }))

describe('sampling', () => {
  const a: Keyed<number> = {
    keys: [
      { t: 1, v: 10, ease: 'linear' },
      { t: 2, v: 20, ease: 'smooth' },
      { t: 4, v: 0, ease: 'hold' },
      { t: 5, v: 7, ease: 'hold' },
    ],
  }
  it('is the first value before the first key and the last after the last', () => {
    expect(sampleNumber(a, 0)).toBe(10)
    expect(sampleNumber(a, 99)).toBe(7)
  })
  it('goes straight, smoothly, or holds between keys', () => {
    expect(sampleNumber(a, 1.25)).toBeCloseTo(12.5, 12)
    expect(sampleNumber(a, 2.5)).toBeCloseTo(20 - 20 * (3 * 0.25 ** 2 - 2 * 0.25 ** 3), 12)
    expect(sampleNumber(a, 3)).toBeCloseTo(10, 12)
    expect(sampleNumber(a, 4.999)).toBe(0)
    expect(sampleNumber(a, 5)).toBe(7)
  })
  it('keys need not be in order', () => {
    const shuffled: Keyed<number> = { keys: [...a.keys].reverse() }
    for (let t = 0; t < 6; t += 0.1) expect(sampleNumber(shuffled, t)).toBe(sampleNumber(a, t))
  })
  it('takes vectors by component, colours as a whole, choices by holding', () => {
    expect(sampleVec3([1, a, 3], 1.5)).toEqual([1, 15, 3])
    const c = {
      keys: [
        { t: 0, v: [0, 0, 0] as [number, number, number], ease: 'linear' as const },
        { t: 1, v: [1, 2, 4] as [number, number, number], ease: 'linear' as const },
      ],
    }
    expect(sampleColour(c, 0.5)).toEqual([0.5, 1, 2])
    const w = {
      keys: [
        { t: 0, v: 'push', ease: 'hold' as const },
        { t: 1, v: 'carry', ease: 'hold' as const },
      ],
    }
    expect(sampleStep(w, 0.99)).toBe('push')
    expect(sampleStep(w, 1)).toBe('carry')
  })
  it('never leaves the range of its keys', () => {
    fc.assert(
      fc.property(keyed, fc.double({ min: -2, max: 12, noNaN: true }), (k, t) => {
        const values = k.keys.map((x) => x.v)
        const s = sampleNumber(k, t)
        return s >= Math.min(...values) - 1e-9 && s <= Math.max(...values) + 1e-9
      }),
    )
  })
})

describe('the integral', () => {
  it('of a constant is the constant times time', () => {
    expect(integral(3, 2.5)).toBe(7.5)
  })
  it('agrees with a fine sum over any keys', () => {
    fc.assert(
      fc.property(keyed, fc.integer({ min: 1, max: 110 }), (k, n) => {
        const end = n / 10
        const steps = 4000
        let sum = 0
        for (let i = 0; i < steps; i++) sum += sampleNumber(k, ((i + 0.5) / steps) * end) * (end / steps)
        // Jumps at held keys cost the sum at most one step of the range each.
        expect(Math.abs(integral(k, end) - sum)).toBeLessThan(6 * 100 * (end / steps) + 1e-6)
      }),
      { numRuns: 60 },
    )
  })
  it('adds up over neighbouring stretches', () => {
    fc.assert(
      fc.property(keyed, fc.double({ min: 0, max: 5, noNaN: true }), fc.double({ min: 5, max: 11, noNaN: true }), (k, b, c) => {
        const direct = integral(k, c) - integral(k, b)
        let sum = 0
        const n = 7
        for (let i = 0; i < n; i++) sum += integral(k, b + ((c - b) * (i + 1)) / n) - integral(k, b + ((c - b) * i) / n)
        expect(sum).toBeCloseTo(direct, 6)
      }),
    )
  })
})

describe('the first difference', () => {
  it('is never for equal values and always for different constants', () => {
    expect(firstDifference(3, 3)).toBe(Infinity)
    expect(firstDifference(3, 4)).toBe(-Infinity)
    expect(firstDifference([1, 2, 3], [1, 2, 3])).toBe(Infinity)
    expect(firstDifference({ value: 3, vary: 1 }, { value: 3, vary: 2 })).toBe(-Infinity)
  })
  it('is conservative: before it both values agree', () => {
    fc.assert(
      fc.property(keyed, keyed, (a, b) => {
        const t = firstDifference(a, b)
        for (let x = 0; x < 11; x += 0.07) if (x < t - 1e-9) expect(sampleNumber(b, x)).toBe(sampleNumber(a, x))
      }),
    )
  })
  it('lies at the key before the changed one, not at the start', () => {
    const keys = [0, 1, 2, 3].map((t) => ({ t, v: t, ease: 'linear' as const }))
    const changed = keys.map((k) => (k.t === 3 ? { ...k, v: 9 } : k))
    expect(firstDifference({ keys }, { keys: changed })).toBe(2)
  })
})

describe('keys', () => {
  it('are set once at a time, and taken away again', () => {
    let a: Animated<number> = 5
    a = setKey(a, 1, 6)
    a = setKey(a, 0.5, 2)
    a = setKey(a, 1, 8)
    expect(sortedKeys(a).map((k) => [k.t, k.v])).toEqual([
      [0.5, 2],
      [1, 8],
    ])
    const one = dropKey(a, 0.5)
    expect(one).toEqual({ keys: [{ t: 1, v: 8, ease: 'smooth' }] })
    expect(dropKey(one as Keyed<number>, 1)).toBe(8)
  })
})

describe('curves between keys', () => {
  const one = (bend?: [number, number, number, number]): Keyed<number> => ({
    keys: [
      { t: 1, v: 2, ease: 'curve', bend },
      { t: 3, v: 6, ease: 'hold' },
    ],
  })
  it('with flat handles at thirds are the smooth ease', () => {
    const smooth: Keyed<number> = {
      keys: [
        { t: 1, v: 2, ease: 'smooth' },
        { t: 3, v: 6, ease: 'hold' },
      ],
    }
    for (let t = 1; t <= 3; t += 0.1) expect(sampleNumber(one(), t)).toBeCloseTo(sampleNumber(smooth, t), 9)
    expect(integral(one(), 2.3)).toBeCloseTo(integral(smooth, 2.3), 9)
  })
  it('leave and reach their keys at the slopes of the handles, and may overshoot', () => {
    const a = one([0.25, 3, 0.5, 2])
    const slope = (t: number) => (sampleNumber(a, t + 1e-5) - sampleNumber(a, t)) / 1e-5
    expect(slope(1)).toBeCloseTo(3 / 0.5, 1)
    expect(slope(3 - 2e-5)).toBeCloseTo(-2 / 1, 1)
    expect(Math.max(...Array.from({ length: 100 }, (_, i) => sampleNumber(a, 1 + i / 50)))).toBeGreaterThan(6.3)
  })
  it('have the integral of the curve (property)', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: 0, max: 4, noNaN: true }),
        (x1, d1, x2, d2, end) => {
          const a = one([x1, d1, x2, d2])
          const n = 4000
          let sum = 0
          for (let i = 0; i < n; i++) sum += (sampleNumber(a, ((i + 0.5) / n) * end) * end) / n
          return Math.abs(integral(a, end) - sum) < 0.02
        },
      ),
      { numRuns: 60 },
    )
  })
})
describe('what comes after the last key', () => {
  const keys = [
    { t: 1, v: 0, ease: 'linear' as const },
    { t: 2, v: 10, ease: 'linear' as const },
    { t: 3, v: 4, ease: 'linear' as const },
  ]
  it.each([
    ['hold', [4, 4, 4]],
    ['repeat', [5, 10, 5]],
    ['mirror', [7, 10, 5]],
    ['onward', [9, 14, 13]],
  ] as const)('%s', (loop, values) => {
    const a: Keyed<number> = { keys, loop }
    expect([3.5, 4, 5.5].map((t) => sampleNumber(a, t))).toEqual(values)
    expect(sampleNumber(a, 0)).toBe(0)
  })
  it('integrals go round with it (property)', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('hold' as const, 'repeat' as const, 'mirror' as const, 'onward' as const),
        fc.double({ min: 0, max: 14, noNaN: true }),
        (loop, end) => {
          const a: Keyed<number> = { keys, loop }
          const n = 6000
          let sum = 0
          for (let i = 0; i < n; i++) sum += (sampleNumber(a, ((i + 0.5) / n) * end) * end) / n
          return Math.abs(integral(a, end) - sum) < 0.05
        },
      ),
      { numRuns: 60 },
    )
  })
  it('a changed loop changes nothing before the last key', () => {
    expect(firstDifference({ keys }, { keys, loop: 'repeat' })).toBe(3)
    expect(firstDifference({ keys, loop: 'repeat' }, { keys, loop: 'repeat' })).toBe(Number.POSITIVE_INFINITY)
  })
})
describe('modulators in the document', () => {
  const m = [{ id: 'm', kind: 'wave', seed: 1, mode: 'add' as const }]
  it('stay when keys come, change and go', () => {
    const free = withModulators<number>(5, m)
    expect(free).toEqual({ value: 5, modulators: m })
    const keyed = setKey(free, 1, 6)
    expect(keyed.modulators).toEqual(m)
    expect(dropKey(keyed, 1)).toEqual({ value: 6, modulators: m })
    expect(withValue(free, 0, 9)).toEqual({ value: 9, modulators: m })
    expect(withModulators(keyed, [])).toEqual({ keys: keyed.keys })
    expect(withModulators(free, [])).toBe(5)
    expect(firstDifference(free, withModulators<number>(5, []))).toBe(Number.NEGATIVE_INFINITY)
  })
})
