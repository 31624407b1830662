import type { World } from '..'
import type { Gas } from '../gas/gas'
import { sphere } from '../geometry/primitives'
import { identity } from '../math'
import type { FeedParams, GasParams, Plan, PlanGas } from '../plan'
import { plan } from './plans'

export const calm: GasParams = {
  ...{ lift: 0, weight: 0, vorticity: 0, cooling: 0, densityHalf: null, heatHalf: null, dyeHalf: [null, null] },
  ...{ ignition: 300, burnRate: 0, heat: 0, soot: 0, expansion: 0, flameLife: 0.1 },
}
export const feed: FeedParams = {
  ...{ reach: 0, amounts: { density: { mode: 'add', amount: 1 } }, own: 0, outwards: 0, direction: [0, 0, 0], lead: 0 },
  ...{ breakUp: 0, breakSize: 0.1, breakPhase: 0 },
}
/** Two metres of air over a ball of 0.25 m that feeds it. */
export const gasPlan = (o: Partial<PlanGas> = {}, p: Partial<GasParams> = {}, f: Partial<FeedParams> = {}): PlanGas => ({
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
export const ball = (place: readonly number[] = [0, 0, 0], id = 'ball', radius = 0.25) => ({
  ...{ id, mesh: sphere(radius, 24), endless: false },
  matrix: (_t: number, out = identity()) => {
    identity(out)
    ;[out[3], out[7], out[11]] = place
    return out
  },
})
export const shot = (g: PlanGas, o: Partial<Plan> = {}) => plan([], [ball()], { gases: [g], substeps: 1, ...o })
export const gasOf = (w: World) => w.solver('gas') as Gas
