import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { arithmetic, clockTime, parseTyped, show, showWithUnit } from './units'

const typed = (text: string, unit: string, moment = false) => {
  const r = parseTyped(text, { unit: unit as never, moment }, 24)
  return r.ok ? r.value : r.problem
}
describe('what a person types', () => {
  it.each([
    ['40cm', 'm', 0.4],
    ['3.4 mm', 'm', 0.0034],
    ['2s', 's', 2],
    ['250 ms', 's', 0.25],
    ['12f', 's', 0.5],
    ['50%', '1', 0.5],
    ['50%', '%', 50],
    ['3/4', 'm', 0.75],
    ['2*(1+0.5)', 'm', 3],
    ['-3', 'm', -3],
    ['−3', 'm', -3],
    ['1,5', 'm', 1.5],
    ['36 km/h', 'm/s', 10],
    ['1g', 'm/s²', 9.80665],
    ['5 m/s2', 'm/s²', 5],
    ['100 Hz', '1/s', 100],
    ['0.25 turn', '°', 90],
    ['2e3', '1/s', 2000],
    ['1.5x', '×', 1.5],
    ['150 %', '×', 1.5],
  ])('%s in %s is %d', (text, unit, value) => {
    expect(typed(text, unit)).toBeCloseTo(value, 9)
  })
  it('a moment is in frames unless it says seconds', () => {
    expect(typed('12', 's', true)).toBe(0.5)
    expect(typed('12f', 's', true)).toBe(0.5)
    expect(typed('2s', 's', true)).toBe(2)
  })
  it.each([
    ['abc', 'm', '“abc” is not a number'],
    ['', 'm', '“” is not a number'],
    ['3 kg', 'm', '“kg” does not fit here; the unit is m'],
    ['3 s', 'm', '“s” does not fit here; the unit is m'],
    ['3f', 'm', 'frames do not fit here'],
    ['1/0', 'm', '“1/0” cannot be computed'],
    ['2+', 'm', '“2+” cannot be computed'],
    ['(1', 'm', '“(1” cannot be computed'],
    ['5 m', '', '“m” does not fit here; the unit is a plain number'],
  ])('%j in %s is refused: %s', (text, unit, problem) => {
    expect(typed(text, unit)).toBe(problem)
  })
  it('arithmetic is that of JavaScript, without ever running it (property)', () => {
    const expression: fc.Arbitrary<string> = fc.letrec<{ e: string }>((tie) => ({
      e: fc.oneof(
        { maxDepth: 4 },
        fc.integer({ min: 0, max: 99 }).map(String),
        fc.tuple(tie('e'), fc.constantFrom('+', '-', '*'), tie('e')).map((x) => `(${x.join('')})`),
        tie('e').map((x) => `-${x}`),
      ),
    })).e
    fc.assert(
      fc.property(
        expression.filter((e) => !e.includes('--')),
        (e) => {
          // biome-ignore lint/security/noGlobalEval: the reference, on text that the test itself made
          expect(arithmetic(e)).toBe(globalThis.eval(e))
        },
      ),
    )
  })
  it('any text is a value or a problem (property)', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 20 }), (text) => {
        const r = parseTyped(text, { unit: 'm' }, 24)
        if (r.ok) expect(Number.isFinite(r.value)).toBe(true)
        else expect(r.problem).not.toBe('')
      }),
    )
  })
})
describe('how numbers read', () => {
  it.each([
    [0, '0'],
    [0.5, '0.5'],
    [9.81, '9.81'],
    [-3, '−3'],
    [1234.56, '1234.6'],
    [12345.6, '12,346'],
    [0.0034, '0.0034'],
    [Number.NaN, '–'],
  ])('%d as %s', (v, text) => {
    expect(show(v)).toBe(text)
  })
  it.each([
    [0.0034, { unit: 'm' }, '3.4 mm'],
    [0.4, { unit: 'm' }, '0.4 m'],
    [0.5, { unit: 's', moment: true }, '12 f'],
    [900, { unit: '1/s' }, '900 /s'],
    [42, { unit: '%' }, '42 %'],
    [34, { unit: '°' }, '34°'],
    [7000, { unit: '', integer: true }, '7,000'],
    [0.2, { unit: '1' }, '0.2'],
  ])('%d with its unit as %s', (v, p, text) => {
    expect(showWithUnit(v, p as never, 24)).toBe(text)
  })
  it('what is shown can be typed again and means nearly the same (property)', () => {
    fc.assert(
      fc.property(fc.double({ min: -9000, max: 9000, noNaN: true }), (v) => {
        const r = parseTyped(show(v), { unit: 'm' }, 24)
        expect(r.ok && Math.abs(r.value - v)).toBeLessThan(Math.max(6e-5, Math.abs(v) * 0.0065))
      }),
    )
  })
})
describe('how moments read', () => {
  it('hours and minutes are of two digits, midnight is 00', () => {
    expect([new Date(2026, 11, 1, 0, 5), new Date(2026, 11, 1, 18, 40), '2026-12-01T09:07:59'].map(clockTime)).toEqual([
      '00:05',
      '18:40',
      '09:07',
    ])
  })
})
