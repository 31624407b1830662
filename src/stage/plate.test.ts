import { describe, expect, it } from 'vitest'
import { fitted, pictureAt } from './plate'

describe('which of numbered pictures is shown', () => {
  const held = { rate: 24, start: 0, speed: 1, after: 'hold' } as const
  it('is that of the frame, at every rate that films have, for an hour', () => {
    for (const [num, den] of [
      [24, 1],
      [24000, 1001],
      [25, 1],
      [30000, 1001],
      [60, 1],
    ])
      for (let f = 0; f < (3600 * num) / den; f += 997) expect(pictureAt({ ...held, rate: num / den }, 1e6, (f * den) / num)).toBe(f)
  })
  it('begins late, goes slower, is held at its end or begins again', () => {
    const at = (t: number, o: object = {}) => pictureAt({ ...held, ...o }, 10, t)
    expect([at(-1), at(0), at(9 / 24), at(5)]).toEqual([0, 0, 9, 9])
    expect([at(1, { start: 1 }), at(1.25, { start: 1 }), at(0.25, { speed: 0.5 })]).toEqual([0, 6, 3])
    expect([at(10 / 24, { after: 'repeat' }), at(13 / 24, { after: 'repeat' })]).toEqual([0, 3])
  })
})

describe('how a plate lies in the picture', () => {
  it('fills it, cut off where it is longer, or lies in it whole', () => {
    expect(fitted('stretch', 2, 1)).toEqual([1, 1])
    expect(fitted('fill', 2, 1)).toEqual([0.5, 1])
    expect(fitted('fill', 1, 2)).toEqual([1, 0.5])
    expect(fitted('fit', 2, 1)).toEqual([1, 2])
    expect(fitted('fit', 1, 2)).toEqual([2, 1])
    expect(fitted('fill', 16 / 9, 16 / 9)).toEqual([1, 1])
  })
})
