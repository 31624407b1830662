import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { answers, best, isNear } from './search'

describe('finding by words', () => {
  it('takes words in any order, as beginnings, and in both spellings', () => {
    expect(answers('add light', ['Add a light'])).toBeGreaterThan(0.8)
    expect(answers('light add', ['Add a light'])).toBeGreaterThan(0.8)
    expect(answers('turb', ['Turbulence'])).toBeGreaterThan(0.8)
    expect(answers('color', ['Colour'])).toBeGreaterThan(0.8)
    expect(answers('colour', ['Color'])).toBeGreaterThan(0.8)
  })
  it('wants every word', () => {
    expect(answers('add wind tunnel', ['Add wind'])).toBe(0)
    expect(answers('drag', ['Gravity'])).toBe(0)
  })
  it('forgives typing errors in words of four letters and more', () => {
    expect(answers('trubulence', ['Turbulence'])).toBeGreaterThan(0)
    expect(answers('emiter', ['emitter'])).toBeGreaterThan(0)
    expect(answers('gravty', ['Gravity'])).toBeGreaterThan(0)
    expect(answers('widn', ['Wind'])).toBeGreaterThan(0)
    expect(answers('fps', ['fpz'])).toBe(0)
  })
  it('a name counts more than a synonym, a synonym more than an explanation', () => {
    const [name, synonym, help] = [['Noise'], ['Turbulence', 'noise'], ['Wind', '', 'gusts of noise']].map((t) => answers('noise', t))
    expect(name).toBeGreaterThan(synonym)
    expect(synonym).toBeGreaterThan(help)
    expect(help).toBeGreaterThan(0)
  })
  it('leaves out what is far behind the best', () => {
    const things = [
      ['Bounce', 'collision'],
      ['Follow a path', 'curve'],
      ['Wind', 'air', 'takes a collision along'],
    ]
    expect(best('coll', things, (t) => t).map((t) => t[0])).toEqual(['Bounce', 'Wind'])
    expect(best('', things, (t) => t)).toHaveLength(3)
  })
  it('one error anywhere is one error (property)', () => {
    const word = fc.stringMatching(/^[a-z]{5,10}$/)
    fc.assert(
      fc.property(word, fc.nat(), fc.nat(3), (w, at, kind) => {
        const i = at % (w.length - 1)
        const broken =
          kind === 0
            ? w.slice(0, i) + w.slice(i + 1)
            : kind === 1
              ? `${w.slice(0, i)}x${w.slice(i)}`
              : kind === 2
                ? `${w.slice(0, i)}x${w.slice(i + 1)}`
                : w.slice(0, i) + w[i + 1] + w[i] + w.slice(i + 2)
        expect(isNear(broken, w, 1)).toBe(true)
      }),
    )
  })
})
