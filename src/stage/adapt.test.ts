import { describe, expect, it } from 'vitest'
import { bloomWeights } from '../acts/finish/bloom'
import { Adapt } from './adapt'

/** Cost of a picture that falls with scale and share, and how often the quality changed over many pictures. */
function play(a: Adapt, cost: (scale: number, share: number) => number, pictures: number, alive = 1e6): number {
  let changes = 0
  for (let i = 0; i < pictures; i++) {
    const before = a.moving
    a.took(cost(before.scale, before.share), alive)
    if (a.moving.scale !== before.scale || a.moving.share !== before.share) changes++
  }
  return changes
}
describe('the quality of a moving picture', () => {
  it('goes down until it keeps up, and stays there', () => {
    const a = new Adapt(100, 0)
    play(a, (s, n) => 20 + 200 * s * s + 200 * n, 40)
    expect(20 + 200 * a.moving.scale ** 2 + 200 * a.moving.share).toBeLessThan(100)
    expect(play(a, (s, n) => 20 + 200 * s * s + 200 * n, 55)).toBeLessThanOrEqual(2)
  })
  it('comes back up when pictures are quick', () => {
    const a = new Adapt(14, 7)
    play(a, () => 3, 200)
    expect(a.moving).toEqual({ scale: 1, share: 1 })
  })
  it('one slow picture changes nothing, and the first after a change do not count', () => {
    const a = new Adapt(100, 2)
    const before = a.moving
    for (const ms of [500, 500, 90, 400, 90, 400, 90]) a.took(ms)
    expect(a.moving).toEqual(before)
  })
  it('a finer step that failed is left alone for a while, so that it does not swing', () => {
    const a = new Adapt(100, 0)
    // Only full size is too slow.
    expect(play(a, (s) => (s === 1 ? 150 : 30), 60)).toBeLessThanOrEqual(2)
  })
  it('few particles are never thinned, and half size stays while it is five pictures a second', () => {
    const a = new Adapt(100, 0)
    play(a, () => 150, 200, 18000)
    expect(a.moving).toEqual({ scale: 0.5, share: 1 })
    play(a, (s) => 60 + 1000 * s * s, 200, 18000)
    expect(a.moving).toEqual({ scale: 0.25, share: 1 })
  })
  it('is half the size where particles are what costs, and a smaller picture would be no quicker', () => {
    const a = new Adapt(100, 0)
    const cost = (s: number) => 400 + 100 * s * s
    play(a, cost, 60, 18000)
    const seen = { half: 0, smaller: 0 }
    for (let i = 0; i < 300; i++) {
      seen[a.moving.scale < 0.5 ? 'smaller' : 'half']++
      a.took(cost(a.moving.scale), 18000)
    }
    // It is tried again now and then: objects may have become what costs.
    expect(seen.smaller).toBeGreaterThan(0)
    expect(seen.smaller / seen.half).toBeLessThan(0.1)
  })
  it('of many at least 20,000 are drawn', () => {
    const a = new Adapt(100, 0)
    play(a, () => 150, 300, 50000)
    expect(a.moving).toEqual({ scale: 0.5, share: 0.4 })
  })
  it('never leaves its steps, however slow', () => {
    const a = new Adapt(10, 0)
    play(a, () => 1000, 100)
    expect(a.moving.share).toBeGreaterThan(0)
    expect(a.moving.scale).toBeGreaterThanOrEqual(0.25)
  })
})
describe('the weights of bloom', () => {
  it('add up to one at every height, so that a small preview glows as strong as the full picture', () => {
    for (const h of [92, 180, 270, 540, 720, 1080, 2160]) {
      for (const s of [0, 0.3, 1]) {
        const w = bloomWeights(h, s)
        expect(w.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9)
        expect(w.every((x) => x > 0)).toBe(true)
      }
    }
  })
  it('spread moves weight to the wide levels; a smaller picture has fewer of them', () => {
    const narrow = bloomWeights(1080, 0.1)
    const wide = bloomWeights(1080, 0.9)
    expect(wide[6]).toBeGreaterThan(narrow[6] * 3)
    expect(bloomWeights(270, 0.5).length).toBe(bloomWeights(1080, 0.5).length - 2)
  })
})
