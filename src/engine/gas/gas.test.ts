import { describe, expect, it } from 'vitest'
import { type Frame, frameMark, identity, partsOf, type World } from '..'
import { sphere } from '../geometry/primitives'
import type { FeedParams, GasParams, Plan, PlanGas } from '../plan'
import { framesOn, plan, withWorld } from '../testing/plans'
import type { Gas } from './gas'

const calm: GasParams = {
  ...{ lift: 0, weight: 0, vorticity: 0, cooling: 0, densityHalf: null, heatHalf: null },
  ...{ ignition: 300, burnRate: 0, heat: 0, soot: 0, expansion: 0, flameLife: 0.1 },
}
const feed: FeedParams = {
  ...{ reach: 0, amounts: [{ mode: 'add', amount: 1 }, null, null], own: 0, outwards: 0, direction: [0, 0, 0], lead: 0 },
  ...{ breakUp: 0, breakSize: 0.1, breakPhase: 0 },
}
/** Two metres of air over a ball of 0.25 m that feeds it. */
const gasPlan = (o: Partial<PlanGas> = {}, p: Partial<GasParams> = {}, f: Partial<FeedParams> = {}): PlanGas => ({
  ...{
    id: 'gas',
    name: 'Gas',
    seed: 3,
    voxel: 1 / 16,
    low: [-1, -1, -1],
    size: [2, 2, 2],
    open: Array(6).fill(true),
    burns: false,
    steps: 4,
  },
  params: () => ({ ...calm, ...p }),
  feeds: [
    {
      id: 'feed',
      name: 'Feed',
      seed: 5,
      from: { object: 0, skin: false },
      active: (t0) => (t0 < 0.25 ? 1 : 0),
      params: () => ({ ...feed, ...f }),
    },
  ],
  forces: [],
  solids: [],
  ...o,
})
const ball = (place: readonly number[] = [0, 0, 0], id = 'ball', radius = 0.25) => ({
  ...{ id, mesh: sphere(radius, 24), endless: false },
  matrix: (_t: number, out = identity()) => {
    identity(out)
    ;[out[3], out[7], out[11]] = place
    return out
  },
})
const shot = (g: PlanGas, o: Partial<Plan> = {}) => plan([], [ball()], { gases: [g], substeps: 1, ...o })
const gasOf = (w: World) => w.solver('gas') as Gas
const sum = (a: Float32Array) => a.reduce((s, x) => s + x, 0)
const lasting = async (p: Plan, frames: number, threads = 1): Promise<Frame> => withWorld(p, (w) => framesOn(w, frames), threads)

describe('sources', () => {
  it('put in what they say, within 1 %', async () => {
    await withWorld(shot(gasPlan()), (w) => {
      framesOn(w, 6)
      const there = sum(gasOf(w).grid('density')) / 16 ** 3
      // One a second for a quarter of one, in a ball of 0.25 m; the mesh is a little smaller than the ball.
      expect(there / (0.25 * (4 / 3) * Math.PI * 0.25 ** 3)).toBeGreaterThan(0.97)
      expect(there / (0.25 * (4 / 3) * Math.PI * 0.25 ** 3)).toBeLessThan(1.01)
    })
  })
})
describe('flow', () => {
  const rising = (o: Partial<PlanGas> = {}) =>
    gasPlan(o, { lift: 9.81, vorticity: 0.3 }, { amounts: [{ mode: 'set', amount: 1 }, { mode: 'set', amount: 200 }, null] })
  it('has no divergence left after the pressure, open and closed', async () => {
    for (const open of [true, false])
      await withWorld(shot(rising({ open: Array(6).fill(open) })), (w) => {
        for (let f = 0; f < 12; f++) {
          w.step()
          expect(gasOf(w).leftOver).toBeLessThan(1e-3)
        }
        expect(Math.max(...gasOf(w).grid('v'))).toBeGreaterThan(0.3)
      })
  })
  it('keeps its mass within 1 % while nothing takes from it', async () => {
    await withWorld(shot(rising(), { gases: [{ ...rising(), size: [4, 8, 4], low: [-2, -1, -2] }] }), (w) => {
      framesOn(w, 6)
      const before = sum(gasOf(w).grid('density'))
      framesOn(w, 24)
      expect(sum(gasOf(w).grid('density')) / before).toBeCloseTo(1, 2)
    })
  })
  it('is the same on three threads, and from a saved state', async () => {
    const p = shot(rising())
    const one = frameMark(await lasting(p, 14))
    expect(frameMark(await lasting(p, 14, 3))).toBe(one)
    await withWorld(p, (w) => {
      framesOn(w, 7)
      const state = w.save()
      framesOn(w, 5)
      w.restore(state)
      expect(frameMark(framesOn(w, 7))).toBe(one)
    })
  })
  it('rests where it is heavier below than above, and nothing moves', async () => {
    const p = shot(gasPlan({ open: Array(6).fill(false) }, { lift: 9.81 }, { amounts: [null, null, null] }))
    const f = await lasting(p, 3)
    expect(partsOf(f.parts, 'volume')[0].tiles).toBe(0)
  })
})
