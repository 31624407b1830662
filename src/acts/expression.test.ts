import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CONSTANTS, FUNCTIONS, readFormula } from '.'

const run = (
  text: string,
  names: Record<string, number> = {},
  at: Partial<{ time: number; frame: number; keyed: number }> = {},
): number => {
  const f = readFormula(text, Object.keys(names))
  if (!f.ok) throw new Error(`${f.at}: ${f.message}`)
  return f.run({ time: 0, frame: 0, keyed: 0, ...at, named: (n) => names[n] })
}
const problem = (text: string, names: string[] = []) => {
  const f = readFormula(text, names)
  return f.ok ? null : `${f.at + 1}: ${f.message}`
}

describe('a formula', () => {
  it.each([
    ['1 + 2 * 3', 7],
    ['(1 + 2) * 3', 9],
    ['-2 ^ 2', -4],
    ['2 ^ 3 ^ 2', 512],
    ['2 ^ -1', 0.5],
    ['7 % 4', 3],
    ['-1 % 4', 3],
    ['8 / 4 / 2', 1],
    ['1e3 + .5', 1000.5],
    ['3 > 2', 1],
    ['2 >= 3', 0],
    ['when(1 < 2, 10, 20)', 10],
    ['clamp(5, 0, 1) + min(3, 1, 2) + max(1, 4)', 6],
    ['mix(10, 20, 0.25)', 12.5],
    ['smooth(0, 2, 1)', 0.5],
    ['wrap(-0.5, 2)', 1.5],
    ['round(2.5) + floor(-0.5) + ceil(0.2)', 3],
    ['sin(90) + cos(180) + sin(360)', 0],
    ['sqrt(16) + abs(-2) + sign(-9)', 5],
  ])('%s is %f', (text, value) => {
    expect(run(text)).toBeCloseTo(value, 12)
  })
  it('knows time, frame, the keyed value and names', () => {
    expect(run('time * 2 + frame + keyed + wind', { wind: 100 }, { time: 1, frame: 24, keyed: 0.5 })).toBe(126.5)
  })
  it('its own exp, log and power agree with the ideal functions to 1e-12', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -200, max: 200, noNaN: true }),
        fc.double({ min: 1e-6, max: 1e6, noNaN: true }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        (x, p, y) => {
          const near = (a: number, b: number) => Math.abs(a - b) <= 1e-12 * Math.max(1, Math.abs(b))
          return (
            near(run('exp(x)', { x }) / Math.exp(x), 1) &&
            near(run('log(x)', { x: p }), Math.log(p)) &&
            Math.abs(run('x ^ y', { x: p, y }) / p ** y - 1) < 1e-12
          )
        },
      ),
    )
  })
  it('noise is smooth, stays within ±1 and depends on its seed; random is even', () => {
    let last = run('noise(x)', { x: 0 })
    for (let i = 1; i < 4000; i++) {
      const v = run('noise(x)', { x: i / 200 })
      expect(Math.abs(v)).toBeLessThanOrEqual(1)
      expect(Math.abs(v - last)).toBeLessThan(0.025)
      last = v
    }
    expect(run('noise(0.5, 1)')).not.toBe(run('noise(0.5, 2)'))
    const n = 4000
    const mean = Array.from({ length: n }, (_, i) => run('random(n)', { n: i })).reduce((a, b) => a + b) / n
    expect(Math.abs(mean - 0.5)).toBeLessThan(4 / Math.sqrt(12 * n))
  })
  it.each([
    ['', '1: the formula is empty; write one, such as keyed + sin(time * 90)'],
    ['1 +', '4: something is missing at the end'],
    ['(1 + 2', '7: expected “)” before the end'],
    ['1 2', '3: “2” does not belong here'],
    ['sinn(3)', '1: there is no function sinn; did you mean sin?'],
    ['clamp(1)', '1: clamp takes 3 values, not 1: clamp(x, low, high): x, held between the two'],
    ['sin', '1: sin is a function: sin(degrees)'],
    ['tine', '1: nothing here is called tine; did you mean time?; pick a value and give it this name'],
    ['3 $ 4', '3: “$” means nothing in a formula'],
    ['constructor(1)', '1: there is no function constructor; did you mean cos?'],
    ['toString', '1: nothing here is called toString; pick a value and give it this name'],
    ['a.b', '2: “.” means nothing in a formula'],
  ])('%j is refused: %s', (text, message) => {
    expect(problem(text)).toBe(message)
  })
  it('refuses what is nested too deeply instead of falling over', () => {
    expect(problem(`${'('.repeat(5000)}1${')'.repeat(5000)}`)).toMatch(/nested too deeply/)
    expect(problem('-'.repeat(5000) + '1')).toMatch(/nested too deeply/)
  })
  it('whatever is typed, it answers, and never with something that is not a number or a problem', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), (s) => {
        const f = readFormula(s, ['a'])
        return f.ok
          ? typeof f.run({ time: 1, frame: 2, keyed: 3, named: () => 4 }) === 'number'
          : f.at >= 0 && f.at <= s.length && f.message.length > 5
      }),
    )
  })
  it('every function and constant has words', () => {
    for (const [name, f] of Object.entries(FUNCTIONS)) expect(f.help).toContain(`${name}(`)
    expect(Object.values(CONSTANTS).every((h) => h.length > 5)).toBe(true)
  })
})
