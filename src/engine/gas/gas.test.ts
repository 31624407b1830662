import { describe, expect, it } from 'vitest'
import {
  encodeEndLimits,
  encodeGasCarry,
  encodeGravity,
  encodeLimitGas,
  type Frame,
  frameMark,
  identity,
  type PointsPart,
  partOf,
  partsOf,
  pointColumn,
  volumeTile,
} from '..'
import type { FeedParams, GasParams, Plan, PlanGas } from '../plan'
import { ball, feed, gasOf, gasPlan, shot } from '../testing/gases'
import { framesOn, marksOf, plan, system, withWorld } from '../testing/plans'

const sum = (a: Float32Array) => a.reduce((s, x) => s + x, 0)
/** Of what moves it: middles of cells along y from the window's low corner, and the velocity there. */
const fastest = (a: Float32Array) => a.reduce((m, x) => Math.max(m, Math.abs(x)), 0)
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
describe('tiles', () => {
  it('are found in a window of any length: a second ball 600 tiles away is kept as the first is', async () => {
    const two = [0, 1].map((object) => ({ ...gasPlan().feeds[0], id: `feed ${object}`, from: { object, skin: false } }))
    const far = 600 / 2
    const kept = async (feeds: typeof two) => {
      const g = gasPlan({ feeds, size: [far + 2, 2, 2] })
      const part = await withWorld(plan([], [ball(), ball([far, 0, 0], 'far')], { gases: [g], substeps: 1 }), (w) => {
        framesOn(w, 2)
        return partOf(w.capture().parts, 'volume', 'gas')
      })
      if (!part) throw new Error('no gas')
      return [...new Uint32Array(part.data, 0, part.tiles)].map((t) => t & 1023)
    }
    const [one, both] = [await kept([two[0]]), await kept(two)]
    expect(one.length).toBeGreaterThan(7)
    expect(both).toHaveLength(2 * one.length)
    expect(Math.max(...both)).toBe(Math.max(...one) + 600)
  })
})
describe('a region', () => {
  it('feeds by its amounts, where the nearest place of the surface is', async () => {
    const whole = ball()
    const upper = Float32Array.from({ length: whole.mesh.positions.length / 3 }, (_, v) => (whole.mesh.positions[v * 3 + 1] > 0.01 ? 1 : 0))
    const fed = gasPlan({}, {}, { reach: 0.07 })
    const g = { ...fed, feeds: [{ ...fed.feeds[0], from: { object: 0, skin: true, region: 'top' } }] }
    await withWorld(plan([], [{ ...whole, regions: new Map([['top', () => upper]]) }], { gases: [g], substeps: 1 }), (w) => {
      framesOn(w, 4)
      const { first, count } = gasOf(w).window ?? { first: [0, 0, 0], count: [1, 1, 1] }
      const d = gasOf(w).grid('density')
      const at = (x: number, y: number, z: number) => {
        const [i, j, k] = [x, y, z].map((v, a) => Math.floor((v + 1) * 16) - first[a])
        return d[i + count[0] * (j + count[1] * k)]
      }
      expect(at(0.02, 0.24, 0.02)).toBeGreaterThan(0.05)
      expect(at(0.02, -0.24, 0.02)).toBe(0)
    })
  })
})
describe('flow', () => {
  const rising = (o: Partial<PlanGas> = {}) =>
    gasPlan(
      o,
      { lift: 9.81, vorticity: 0.3 },
      { amounts: { density: { mode: 'set', amount: 1 }, temperature: { mode: 'set', amount: 200 } } },
    )
  it('takes a few cycles for it, with every side open too, and whatever its sides are', async () => {
    for (const open of [true, false])
      await withWorld(shot(rising({ open: Array(6).fill(open), size: [2.5, 2.5, 1.5] })), (w) => {
        const odd = new Set<number>()
        for (let f = 0; f < 24; f++) {
          w.step()
          const gas = gasOf(w)
          for (const n of gas.window?.count ?? []) odd.add((n / 16) % 2)
          expect(gas.cycles).toBeLessThanOrEqual(4)
          expect(gas.leftOver).toBeLessThan(1e-3)
        }
        expect([...odd]).toContain(1)
      })
  })
  it('takes a few cycles among what is solid, which ends between the cells of every coarser grid', async () => {
    // A wall beside it and a stone over it, neither on a line of cells.
    const solids = [ball([-0.93, 0, 0], 'wall', 0.81), ball([0.21, 0.55, 0.07], 'stone', 0.17)]
    const g = rising({ open: Array(6).fill(true), size: [2.5, 2.5, 1.5], solids: [1, 2] })
    await withWorld(plan([], [ball([0, 0, 0]), ...solids], { gases: [g], substeps: 1 }), (w) => {
      for (let f = 0; f < 24; f++) {
        w.step()
        expect(gasOf(w).cycles).toBeLessThanOrEqual(4)
        expect(gasOf(w).leftOver).toBeLessThan(1e-3)
      }
      expect(Math.max(...gasOf(w).grid('v'))).toBeGreaterThan(0.3)
    })
  })
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
  it('keeps its mass within 1 % over a hundred steps while nothing takes from it', async () => {
    // One step a frame; far enough from the sides.
    const g = rising({ voxel: 1 / 8, size: [6, 12, 6], low: [-3, -1, -3], steps: 1 })
    await withWorld(shot(g), (w) => {
      framesOn(w, 7)
      const before = sum(gasOf(w).grid('density'))
      framesOn(w, 100)
      expect(Math.abs(sum(gasOf(w).grid('density')) / before - 1)).toBeLessThan(0.01)
    })
  })
  it('fades faster where it is thin, by its factor, and as it says where it is dense', async () => {
    // Two sources apart, one thin: nothing moves.
    const amount = (much: number) => ({ amounts: { density: { mode: 'set', amount: much } } as FeedParams['amounts'] })
    const half = 0.5
    const left = async (much: number, thin?: GasParams['thin']) =>
      withWorld(shot(gasPlan({}, { densityHalf: half, ...(thin ? { thin } : {}) }, amount(much))), (w) => {
        framesOn(w, 6)
        const before = fastest(gasOf(w).grid('density'))
        framesOn(w, 6)
        return fastest(gasOf(w).grid('density')) / before
      })
    const evenly = 2 ** (-0.25 / half)
    expect(await left(1)).toBeCloseTo(evenly, 3)
    expect(await left(1, { times: 5, below: 0.3 })).toBeCloseTo(evenly, 3)
    // Nearly nothing: five times as fast.
    expect(await left(0.05, { times: 5, below: 50 })).toBeCloseTo(evenly ** 5, 2)
    expect(await left(0.15, { times: 5, below: 0.3 })).toBeLessThan(evenly ** 3)
  })
  it('takes as many steps as it says when they are fixed', async () => {
    const still = { lift: 0 }
    for (const [fixedSteps, steps] of [
      [false, 1],
      [true, 5],
    ] as const)
      await withWorld(shot(gasPlan({ steps: 5, fixedSteps }, still)), (w) => {
        // What is fed by the step at a rate is the same in all; each step fades alone.
        framesOn(w, 2)
        expect(gasOf(w).stepped).toBe(steps)
      })
  })
  it('goes along with what its bounds ride on, and leaves behind what they leave', async () => {
    // A metre a second along x, past a ball that stands at the middle.
    const riding = rising({ shift: (t) => [t, 0, 0], open: [true, false, true, true, true, true] })
    await withWorld(shot(riding), (w) => {
      const lowOf = (frames: number) => partsOf(framesOn(w, frames).parts, 'volume')[0].low[0]
      expect(lowOf(1)).toBe(-1)
      // By whole tiles of half a metre: 0.54 s later.
      expect(lowOf(12)).toBe(-0.5)
      const state = w.save()
      const there = frameMark(framesOn(w, 8))
      w.restore(state)
      expect(frameMark(framesOn(w, 8))).toBe(there)
      const part = partsOf(w.capture().parts, 'volume')[0]
      for (let t = 0; t < part.tiles; t++) expect(volumeTile(part, t).every((x) => x >= 0 && x < 4)).toBe(true)
      // Two metres on there is nothing of it.
      expect(partsOf(framesOn(w, 48).parts, 'volume')[0].tiles).toBe(0)
    })
  })
  it('is the same on three threads, and from a saved state', async () => {
    const [one, three, resumed] = await marksOf(shot(rising()))
    expect(three).toBe(one)
    expect(resumed).toBe(one)
  })
  it('rests where it is heavier below than above, and nothing moves', async () => {
    const p = shot(gasPlan({ open: Array(6).fill(false) }, { lift: 9.81 }, { amounts: {} }))
    const f = await lasting(p, 3)
    expect(partsOf(f.parts, 'volume')[0].tiles).toBe(0)
  })
})
describe('sources of particles', () => {
  const fed = (o: Partial<PlanGas>, f: Partial<FeedParams>) =>
    gasPlan({
      feeds: [{ id: 'feed', name: 'Feed', seed: 5, from: { system: 0 }, active: () => 1, params: () => ({ ...feed, reach: 0.15, ...f }) }],
      ...o,
    })
  const flying = (speed: number, n = 1) => system({ burst: n, birth: { direction: [1, 0, 0], speed } })
  it('put in what they say, within 1 %: at rest, fast, smaller than a voxel, and born within a substep', async () => {
    const there = async (speed: number, reach: number, at: number) => {
      const s = flying(speed)
      const births = s.births.map((b) => ({ ...b, due: (t0: number) => (t0 === 0 ? [{ count: 1, at, spacing: 0 }] : []) }))
      const g = fed({ low: [-1, -1, -1], size: [6, 2, 2] }, { reach })
      return withWorld(plan([{ ...s, births }], [], { gases: [g], substeps: 1 }), (w) => {
        framesOn(w, 12)
        return sum(gasOf(w).grid('density')) / 16 ** 3
      })
    }
    // ∫ (1 − d²/r²)² over the ball, one of it a second.
    for (const [speed, reach, at] of [
      [0, 0.15, 0],
      [6, 0.15, 0],
      [0, 0.02, 0],
      [2, 0.15, 1 / 48],
    ])
      expect((await there(speed, reach, at)) / (0.95744 * reach ** 3 * (0.5 - at))).toBeCloseTo(1, 2)
  })
  it('feed along all of their way, in however many steps of the gas', async () => {
    // 2 m in a substep; what moves the gas makes it take several steps.
    const g = fed({ low: [-1, -1, -1], size: [6, 2, 2] }, { own: 1, lead: 50 })
    await withWorld(plan([flying(24)], [], { gases: [g], substeps: 1, rate: { num: 12, den: 1 } }), (w) => {
      framesOn(w, 2)
      const { first, count } = gasOf(w).window ?? { first: [0, 0, 0], count: [1, 1, 1] }
      const along = new Float32Array(96)
      gasOf(w)
        .grid('density')
        .forEach((x, o) => (along[first[0] + (o % count[0])] += x))
      // From its birth at 16 cells on to 80: nowhere less than a third of the mean.
      const way = along.slice(20, 76)
      expect(Math.min(...way)).toBeGreaterThan(sum(way) / way.length / 3)
    })
  })
  it('lie where their own space is', async () => {
    const space = (_t: number, out = identity()) => {
      identity(out)
      out[3] = 0.5
      return out
    }
    const g = fed({ feeds: [{ ...fed({}, {}).feeds[0], from: { system: 0, out: space } }] }, {})
    await withWorld(plan([{ ...flying(0), space }], [], { gases: [g], substeps: 1 }), (w) => {
      framesOn(w, 3)
      const { first, count } = gasOf(w).window ?? { first: [0, 0, 0], count: [1, 1, 1] }
      let [mass, at] = [0, 0]
      gasOf(w)
        .grid('density')
        .forEach((x, o) => {
          mass += x
          at += x * (first[0] + (o % count[0]) + 0.5)
        })
      // Born in the middle of their space, half a metre to the right.
      expect(at / mass / 16 - 1).toBeCloseTo(0.5, 2)
    })
  })
  it('lead the gas along with their own velocity', async () => {
    await withWorld(plan([flying(2)], [], { gases: [fed({}, { own: 1, lead: 50 })], substeps: 1 }), (w) => {
      framesOn(w, 6)
      expect(Math.max(...gasOf(w).grid('u'))).toBeGreaterThan(0.5)
    })
  })
})
describe('what a gas does to others', () => {
  it('carries particles with its velocity, and tells limits what it holds', async () => {
    const carried = system({
      burst: 1,
      birth: { speed: 0 },
      forces: [{ id: 'carry', encode: (w) => encodeGasCarry(w, { gas: 0, responseS: 0, out: identity(), into: identity() }) }],
    })
    const held = system({
      burst: 1,
      birth: { speed: 0 },
      forces: [
        {
          id: 'pull',
          encode(w) {
            encodeLimitGas(w, { gas: 0, grid: 0, from: 0, to: 0.1, outside: false, out: identity() })
            encodeGravity(w, [0, -10, 0])
            encodeEndLimits(w)
          },
        },
      ],
    })
    const g = gasPlan(
      { open: Array(6).fill(true) },
      {},
      { amounts: { density: { mode: 'set', amount: 1 } }, direction: [0.5, 0, 0], lead: 100 },
    )
    const far = { ...held, id: 'far', births: held.births.map((b) => ({ ...b, params: () => ({ ...b.params(0), source: 1 }) })) }
    const outside = ball([0, 5, 0], 'outside')
    await withWorld(
      plan([{ ...carried, id: 'carried' }, { ...held, id: 'held' }, far], [ball(), outside], { gases: [g], substeps: 1 }),
      (w) => {
        const f = framesOn(w, 5)
        const velocity = (id: string, c: 'vx' | 'vy') => pointColumn(partOf(f.parts, 'points', id) as PointsPart, c)[0]
        expect(velocity('carried', 'vx')).toBeGreaterThan(0.3)
        expect(velocity('held', 'vy')).toBeLessThan(-1)
        expect(velocity('far', 'vy')).toBe(0)
      },
    )
  })
})
