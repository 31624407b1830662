import { describe, expect, it } from 'vitest'
import { grouped } from './grouped'

describe('a number with commas', () => {
  it('is written as the locale writes it, for whole ones and parts', () => {
    let random = 7
    const next = () => (random = (Math.imul(random, 1103515245) + 12345) >>> 0) / 2 ** 32
    for (let k = 0; k < 3000; k++) {
      const n = (next() - 0.5) * 10 ** Math.floor(next() * 14)
      const whole = Math.round(n)
      expect(grouped(whole)).toBe((whole || 0).toLocaleString('en-US'))
      const cents = Math.round(n * 100) / 100 || 0
      expect(grouped(cents)).toBe(cents.toLocaleString('en-US'))
    }
  })
  it('has no sign at nothing, and stays itself where there are no thousands to part', () => {
    expect([0, -0, 0.0004, -0.0001, 999, 1000, 1e20].map(grouped)).toEqual([
      '0',
      '0',
      '0',
      '0',
      '999',
      '1,000',
      '100,000,000,000,000,000,000',
    ])
    expect([1e21, Number.POSITIVE_INFINITY, Number.NaN].map(grouped)).toEqual(['1e+21', 'Infinity', 'NaN'])
  })
})
