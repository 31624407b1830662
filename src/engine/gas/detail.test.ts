import { describe, expect, it } from 'vitest'
import { frameMark, partsOf, type VolumeGrid, type VolumePart, volumeHalves, volumeTile } from '..'
import { halfTable } from '../frame'
import { DETAIL_NOISE_NODES as NODES } from '../memory'
import type { PlanGas } from '../plan'
import { gasOf, gasPlan, shot } from '../testing/gases'
import { framesOn, marksOf, withWorld } from '../testing/plans'
import { detailNoise } from './detailNoise'

const CELLS = 32
/** A cloud that rises and turns, fed at 0.25 m around the middle of 2 m of air. */
const rising = (factor: number, o: Partial<PlanGas> = {}, eddies = 1) =>
  gasPlan(
    { ...(factor > 1 ? { detail: { factor, strength: () => eddies } } : {}), ...o },
    { lift: 9.81, vorticity: 0.5 },
    { amounts: { density: { mode: 'set', amount: 1 }, temperature: { mode: 'set', amount: 300 } } },
  )
/** A grid of a part over all that the gas may have, `per` cells along each edge: means of boxes of `by` of them. */
function boxes(part: VolumePart, grid: VolumeGrid, per: number, by: number): Float64Array {
  const n = per / by
  const of = halfTable()
  const out = new Float64Array(n ** 3)
  for (let t = 0; t < part.tiles; t++) {
    const at = volumeTile(part, t)
    volumeHalves(part, t, grid).forEach((h, c) => {
      const [i, j, k] = [c % 8, (c >> 3) % 8, c >> 6].map((x, a) => Math.floor((at[a] * 8 + x) / by))
      out[i + n * (j + n * k)] += of[h] / by ** 3
    })
  }
  return out
}
const sum = (a: ArrayLike<number>) => Array.from(a).reduce((s, x) => s + x, 0)
const GRIDS = ['u', 'v', 'w', 'density', 'temperature'] as const
const cloud = (g: PlanGas, frames = 20) =>
  withWorld(shot(g), (w) => {
    const frame = framesOn(w, frames)
    return { part: partsOf(frame.parts, 'volume')[0], mark: frameMark(frame), grids: GRIDS.map((name) => gasOf(w).grid(name)) }
  })
/** How much of the change from cell to cell along x there is: of what is finer than a cell of the gas, in the mean square. */
const roughness = (part: VolumePart, factor: number) => {
  const per = CELLS * factor
  const all = boxes(part, 'density', per, 1)
  const coarse = boxes(part, 'density', per, factor)
  let of = 0
  all.forEach((x, n) => {
    const [i, j, k] = [n % per, Math.floor(n / per) % per, Math.floor(n / per ** 2)].map((v) => Math.floor(v / factor))
    of += (x - coarse[i + CELLS * (j + CELLS * k)]) ** 2
  })
  return of / sum(all.map((x) => x * x))
}
describe('detail', () => {
  it.each([2, 3, 4])('%i times finer leaves the gas bit for bit as it was, and has its large shapes', async (factor) => {
    const plain = await cloud(rising(1))
    const fine = await cloud(rising(factor))
    expect(fine.grids).toEqual(plain.grids)
    expect(fine.part.voxel).toBeCloseTo(plain.part.voxel / factor)
    // Boxes of eight of the gas's cells.
    const a = boxes(plain.part, 'density', CELLS, 8)
    const b = boxes(fine.part, 'density', CELLS * factor, 8 * factor)
    expect(sum(a.map((x, n) => Math.abs(x - b[n]))) / sum(a)).toBeLessThan(0.1)
    expect(Math.abs(sum(b) / sum(a) - 1)).toBeLessThan(0.05)
    // Heat is that of the gas, between its cells.
    const heat = boxes(plain.part, 'temperature', CELLS, 8)
    const same = boxes(fine.part, 'temperature', CELLS * factor, 8 * factor)
    expect(sum(heat.map((x, n) => Math.abs(x - same[n]))) / sum(heat)).toBeLessThan(0.03)
  })
  it('has eddies below the voxel, by their strength', async () => {
    const of = async (eddies: number) => roughness((await cloud(rising(2, {}, eddies))).part, 2)
    const none = await of(0)
    const some = await of(1)
    expect(some).toBeGreaterThan(1.15 * none)
    expect(await of(3)).toBeGreaterThan(1.1 * some)
  })
  it('is the same on three threads, and from a saved state', async () => {
    const [one, three, resumed] = await marksOf(shot(rising(2)))
    expect(three).toBe(one)
    expect(resumed).toBe(one)
  })
  it('takes up what a source says, and loses it as the gas does', async () => {
    const still = (o: Partial<PlanGas> = {}) => gasPlan({ detail: { factor: 2, strength: () => 1 }, ...o })
    const { part } = await cloud(still(), 6)
    // One a second for a quarter of one, in a ball of 0.25 m.
    const put = 0.25 * (4 / 3) * Math.PI * 0.25 ** 3 * 32 ** 3
    expect(sum(boxes(part, 'density', 2 * CELLS, 1)) / put).toBeGreaterThan(0.95)
    expect(sum(boxes(part, 'density', 2 * CELLS, 1)) / put).toBeLessThan(1.05)
    const fading = gasPlan({ detail: { factor: 2, strength: () => 1 } }, { densityHalf: 0.25 })
    const [early, late] = [await cloud(fading, 8), await cloud(fading, 14)]
    // A quarter of a second later, half of it.
    const left = sum(boxes(late.part, 'density', 64, 1)) / sum(boxes(early.part, 'density', 64, 1))
    expect(left).toBeGreaterThan(0.47)
    expect(left).toBeLessThan(0.53)
  })
  it('goes on without it when there is no memory, and says so', async () => {
    const huge = rising(4, { voxel: 1 / 80 })
    await withWorld(
      shot(huge),
      (w) => {
        framesOn(w, 2)
        expect(
          gasOf(w)
            .notices.map((n) => n.message)
            .join(),
        ).toMatch(/Gas goes on without detail: .*make its detail or its bounds smaller/)
        expect(partsOf(framesOn(w, 1).parts, 'volume')[0].voxel).toBeCloseTo(1 / 80)
      },
      1,
      64e6,
    )
  })
})
describe('noise', () => {
  const wide = NODES + 1
  const noise = detailNoise()
  const at = (i: number, j: number, k: number, c: number) => noise[4 * (i + wide * (j + wide * k)) + c]
  it('has a mean square of one, repeats itself, and has no divergence', () => {
    let power = 0
    let divergence = 0
    let slopes = 0
    for (let k = 1; k < NODES; k++)
      for (let j = 1; j < NODES; j++)
        for (let i = 1; i < NODES; i++) {
          power += [0, 1, 2].reduce((s, c) => s + at(i, j, k, c) ** 2, 0)
          const [x, y, z] = [
            at(i + 1, j, k, 0) - at(i - 1, j, k, 0),
            at(i, j + 1, k, 1) - at(i, j - 1, k, 1),
            at(i, j, k + 1, 2) - at(i, j, k - 1, 2),
          ]
          divergence = Math.max(divergence, Math.abs(x + y + z))
          slopes = Math.max(slopes, Math.abs(x))
        }
    expect(power / (NODES - 1) ** 3).toBeCloseTo(1, 1)
    expect(divergence / slopes).toBeLessThan(1e-5)
    for (const [j, k] of [
      [0, 0],
      [5, 9],
      [31, 63],
    ])
      for (let c = 0; c < 4; c++) expect(at(NODES, j, k, c)).toBe(at(0, j, k, c))
  })
})
