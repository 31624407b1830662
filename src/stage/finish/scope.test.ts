import { describe, expect, it } from 'vitest'
import { BRIGHTEST, DARKEST, histogram, passing, stopOf, waveform } from './scope'

const scope = (width: number, height: number, light: (x: number, y: number) => number[]) => {
  const after = new Float32Array(width * height * 4)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) after.set([...light(x, y), 1], (y * width + x) * 4)
  return { width, height, before: after, after }
}
describe('scopes', () => {
  it('say how much passes a brightness, and the brightest of it', () => {
    const s = scope(10, 4, (x) => (x < 3 ? [0.2, 2.5, 0] : [0.1, 0.9, 0.1]))
    expect(passing(s, 1)).toEqual({ share: 0.3, brightest: 2.5 })
    expect(passing(s, 4).share).toBe(0)
    expect(passing({ before: new Float32Array(0) }, 1)).toEqual({ share: 0, brightest: 0 })
  })
  it('put stops evenly: each twice as bright is as far along', () => {
    const one = stopOf(2) - stopOf(1)
    for (const v of [0.01, 0.18, 1, 4]) expect(stopOf(v * 2) - stopOf(v)).toBeCloseTo(one, 9)
    expect(stopOf(2 ** DARKEST)).toBeCloseTo(0, 9)
    expect(stopOf(2 ** BRIGHTEST)).toBeCloseTo(1, 9)
    expect([stopOf(0), stopOf(-1), stopOf(1e9)]).toEqual([0, 0, 1])
  })
  it('count every pixel once in each channel, and in its column', () => {
    const s = scope(8, 6, (x, y) => [x / 4, y / 3, 0])
    for (const c of histogram(s, 12)) expect(c.reduce((a, b) => a + b)).toBe(48)
    const w = waveform(s, 4, 10)
    expect(w.reduce((a, b) => a + b)).toBe(48)
    for (let x = 0; x < 4; x++) expect(w.subarray(x * 10, x * 10 + 10).reduce((a, b) => a + b)).toBe(12)
  })
})
