import { describe, expect, it } from 'vitest'
import { partsOf, volumeAt, volumeGrids, volumeHalves } from '..'
import type { FeedParams, PlanGas } from '../plan'
import { gasOf, gasPlan, shot } from '../testing/gases'
import { framesOn, marksOf, withWorld } from '../testing/plans'

const sum = (a: ArrayLike<number>) => Array.from(a).reduce((s, x) => s + x, 0)
const set = (amount: number) => ({ mode: 'set', amount }) as const
const rising = (o: Partial<PlanGas>, amounts: FeedParams['amounts'], dyeHalf: [number | null, number | null] = [null, null]) =>
  gasPlan(o, { lift: 9.81, vorticity: 0.3, dyeHalf }, { amounts: { density: set(1), temperature: set(200), ...amounts } })

describe('dyes', () => {
  it('go where density goes, and change nothing else', async () => {
    const grids = (g: PlanGas) =>
      withWorld(shot(g), (w) => {
        framesOn(w, 12)
        return (['density', 'temperature', 'w', 'dyeA', 'dyeB'] as const).map((name) => gasOf(w).grid(name))
      })
    const plain = await grids(rising({}, {}))
    const dyed = await grids(rising({ dyes: ['dyeA', 'dyeB'] }, { dyeA: set(1), dyeB: set(0.5) }))
    expect(dyed.slice(0, 3)).toEqual(plain.slice(0, 3))
    expect(plain[3]).toHaveLength(0)
    expect(sum(dyed[0])).toBeGreaterThan(100)
    // Fed as density is, one is density; half as much is half of it.
    const near = (x: number, n: number) => Math.abs(x - dyed[0][n]) < 5e-6 && Math.abs(dyed[4][n] - 0.5 * dyed[0][n]) < 5e-5
    expect(dyed[3].findIndex((x, n) => !near(x, n))).toBe(-1)
  })
  it('fade each in their own time', async () => {
    const left = await withWorld(shot(rising({ dyes: ['dyeA', 'dyeB'] }, { dyeA: set(1), dyeB: set(1) }, [0.25, null])), (w) => {
      framesOn(w, 7)
      const before = (['dyeA', 'dyeB'] as const).map((name) => sum(gasOf(w).grid(name)))
      framesOn(w, 6)
      return (['dyeA', 'dyeB'] as const).map((name, n) => sum(gasOf(w).grid(name)) / before[n])
    })
    // A quarter of a second of 24 frames: half of the one, all of the other.
    expect(left[0]).toBeCloseTo(0.5, 1)
    expect(left[1]).toBeGreaterThan(0.97)
  })
  it.each([1, 3])('are kept by a frame behind the others, and seen alone where there is nothing else (detail %i)', async (factor) => {
    const g = rising({ dyes: ['dyeB'], ...(factor > 1 ? { detail: { factor, strength: () => 1 } } : {}) }, {})
    const only = { ...g, feeds: [{ ...g.feeds[0], params: () => ({ ...g.feeds[0].params(0), amounts: { dyeB: set(0.75) } }) }] }
    const [part] = await withWorld(shot(only), (w) => partsOf(framesOn(w, 3).parts, 'volume'))
    expect(volumeGrids(part)).toEqual(['density', 'temperature', 'flame', 'dyeB'])
    expect(part.data.byteLength).toBe(part.tiles * (4 + 4 * 512 * 2))
    const middle = Float32Array.of(0, 0, 0)
    expect(volumeAt(part, 'dyeB', middle)[0]).toBeCloseTo(0.75, 1)
    expect(volumeAt(part, 'density', middle)[0]).toBe(0)
    expect(sum(volumeHalves(part, 0, 'dyeA'))).toBe(0)
  })
  it('begin at nothing in a state from before something brought them, and the others are where they were', async () => {
    const names = ['density', 'temperature', 'w', 'dyeB', 'dyeA', 'fuel'] as const
    const detail = { factor: 2, strength: () => 1 }
    const dyed = rising({ detail, dyes: ['dyeA', 'dyeB'] }, { dyeA: set(1), dyeB: set(0.5) })
    const state = await withWorld(shot(dyed), (w) => {
      framesOn(w, 8)
      return { saved: w.save(), grids: names.map((name) => gasOf(w).grid(name)) }
    })
    // Without dye A, with fuel.
    const other = rising({ detail, burns: true, dyes: ['dyeB'] }, { fuel: set(1), dyeB: set(0.5) })
    await withWorld(shot(other), (w) => {
      w.restore(state.saved)
      const now = names.map((name) => gasOf(w).grid(name))
      expect(now.slice(0, 4)).toEqual(state.grids.slice(0, 4))
      expect(now[4]).toHaveLength(0)
      expect(sum(now[5])).toBe(0)
      expect(partsOf(framesOn(w, 2).parts, 'volume')[0].tiles).toBeGreaterThan(10)
    })
  })
  it('are the same on three threads and from a saved state, beside fuel that burns', async () => {
    const burning = rising({ burns: true, dyes: ['dyeB'], detail: { factor: 2, strength: () => 1 } }, { fuel: set(1), dyeB: set(1) }, [
      null,
      1,
    ])
    const [one, three, resumed] = await marksOf(shot(burning))
    expect(three).toBe(one)
    expect(resumed).toBe(one)
  })
})
