import { expect, it } from 'vitest'
import { softShadows } from './softShadow'

it('the edges of shadows are a tent of 25 places whose weights add up to one, without noise, where the picture is to be smooth', () => {
  const chunk = softShadows()
  // Of spots and suns; point lights keep their own.
  const from = chunk.indexOf('float getShadow(')
  const own = chunk.slice(from, chunk.indexOf('#elif', from))
  expect(own).toMatch(/if \(smoothShadows\) \{[\s\S]*shadow \/= 81\.0;\s*\} else \{[\s\S]*interleavedGradientNoise[\s\S]*\}/)
  const weights = [-2, -1, 0, 1, 2].flatMap((i) => [-2, -1, 0, 1, 2].map((j) => (3 - Math.abs(i)) * (3 - Math.abs(j))))
  expect(weights.reduce((a, b) => a + b, 0)).toBe(81)
  expect(chunk).toContain('uniform bool smoothShadows')
  expect(() => softShadows('another chunk')).toThrow('three.js')
})
