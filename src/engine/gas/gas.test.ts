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
import { framesOn, plan, system, withWorld } from '../testing/plans'

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
    const amount = (much: number) => ({ amounts: [{ mode: 'set', amount: much }, null, null] as FeedParams['amounts'] })
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
describe('what gas does by itself', () => {
  const puff = (o: Partial<PlanGas>, p: Partial<GasParams>, f: Partial<FeedParams>) =>
    gasPlan(o, p, { amounts: [{ mode: 'set', amount: 1 }, null, null], ...f })
  it('stays at rest where it is heated evenly over the whole width, hotter above', async () => {
    // Layers as wide as the closed box: the pressure carries them.
    const layer = { ...ball([0, 0.5, 0], 'ball', 4), endless: true }
    const g = puff({ open: Array(6).fill(false) }, { lift: 9.81 }, { amounts: [null, { mode: 'set', amount: 200 }, null] })
    await withWorld(plan([], [layer], { gases: [g], substeps: 1 }), (w) => {
      framesOn(w, 12)
      expect(fastest(gasOf(w).grid('temperature'))).toBeGreaterThan(150)
      for (const c of ['u', 'v', 'w'] as const) expect(fastest(gasOf(w).grid(c))).toBeLessThan(0.02)
    })
  })
  it('travels on as a ring, and hardly slower', async () => {
    // A disc of air that is blown upwards rolls up.
    const mouth = { ...ball([0, -1, 0], 'ball', 0.2) }
    const g = puff({ voxel: 1 / 20, low: [-1, -1.6, -1], size: [2, 4, 2] }, {}, { direction: [0, 3, 0], lead: 60 })
    await withWorld(
      plan([], [mouth], { gases: [{ ...g, feeds: [{ ...g.feeds[0], active: (t: number) => (t < 0.1 ? 1 : 0) }] }], substeps: 1 }),
      (w) => {
        const middle = () => {
          const gas = gasOf(w)
          const d = gas.grid('density')
          const [nx, ny] = gas.window?.count ?? [1, 1]
          let [mass, at] = [0, 0]
          d.forEach((x, o) => {
            mass += x
            at += x * (Math.floor(o / nx) % ny)
          })
          return (at / mass + (gas.window?.first[1] ?? 0)) / 20
        }
        framesOn(w, 8)
        const a = middle()
        framesOn(w, 8)
        const b = middle()
        framesOn(w, 8)
        const c = middle()
        expect(b - a).toBeGreaterThan(0.12)
        expect((c - b) / (b - a)).toBeGreaterThan(0.6)
      },
    )
  })
  it('goes around what is solid, and takes nothing into it', async () => {
    const stone = ball([0, 0.3, 0], 'stone', 0.3)
    const g = puff({ solids: [1] }, { lift: 9.81 }, { amounts: [{ mode: 'set', amount: 1 }, { mode: 'set', amount: 200 }, null] })
    await withWorld(
      plan([], [ball([0, -0.6, 0]), stone], { gases: [{ ...g, feeds: [{ ...g.feeds[0], active: () => 1 }] }], substeps: 1 }),
      (w) => {
        framesOn(w, 44)
        const gas = gasOf(w)
        const d = gas.grid('density')
        const { first, count } = gas.window ?? { first: [0, 0, 0], count: [1, 1, 1] }
        const at = (x: number, y: number, z: number) => {
          const [i, j, k] = [x, y, z].map((v, a) => Math.floor((v + 1) * 16) - first[a])
          return d[i + count[0] * (j + count[1] * k)]
        }
        expect(gas.leftOver).toBeLessThan(1e-3)
        expect(at(0.02, 0.3, 0.02)).toBe(0)
        // Past it, all around.
        const above = Math.floor((0.4 + 1) * 16) - first[1]
        expect(Math.max(...d.filter((_, o) => Math.floor(o / count[0]) % count[1] >= above))).toBeGreaterThan(0.1)
      },
    )
  })
  it('is much the same on voxels half as large', async () => {
    const height = (voxel: number) =>
      withWorld(
        shot(
          puff(
            { voxel, low: [-1, -1, -1], size: [2, 3, 2], steps: 16 },
            { lift: 9.81 },
            { amounts: [{ mode: 'set', amount: 1 }, { mode: 'set', amount: 100 }, null] },
          ),
        ),
        (w) => {
          framesOn(w, 14)
          const gas = gasOf(w)
          const [nx, ny] = gas.window?.count ?? [1, 1]
          let [mass, at] = [0, 0]
          gas.grid('density').forEach((x, o) => {
            mass += x
            at += x * (Math.floor(o / nx) % ny)
          })
          return (at / mass + (gas.window?.first[1] ?? 0) + 0.5) * voxel
        },
      )
    const [coarse, middle, fine] = [await height(1 / 10), await height(1 / 16), await height(1 / 24)]
    expect(Math.abs(fine - middle)).toBeLessThan(Math.abs(fine - coarse) + 0.01)
    expect(Math.abs(fine - middle)).toBeLessThan(0.08)
  })
  it('rises as a thermal does: its middle goes by the square root of time from a virtual origin (Morton, Taylor and Turner 1956)', async () => {
    const hot = puff(
      { voxel: 1 / 10, low: [-2, -0.6, -2], size: [4, 6, 4], steps: 8 },
      { lift: 9.81 },
      { amounts: [{ mode: 'set', amount: 1 }, { mode: 'set', amount: 60 }, null] },
    )
    await withWorld(shot({ ...hot, feeds: [{ ...hot.feeds[0], active: (t) => (t < 0.05 ? 1 : 0) }] }), (w) => {
      const middle = () => {
        const gas = gasOf(w)
        const [nx, ny] = gas.window?.count ?? [1, 1]
        let [heat, at] = [0, 0]
        gas.grid('temperature').forEach((x, o) => {
          heat += x
          at += x * (Math.floor(o / nx) % ny)
        })
        return (at / heat + (gas.window?.first[1] ?? 0) + 0.5) / 10 - 0.6
      }
      // From two seconds on, when it has rolled up.
      framesOn(w, 48)
      const z = [middle()]
      for (let k = 0; k < 5; k++) {
        framesOn(w, 12)
        z.push(middle())
      }
      const t = z.map((_, k) => 2 + 0.5 * k)
      // The origin by the first and the last; what lies between must be where the law has it.
      const grows = Math.sqrt(t[5] / t[0])
      const origin = (z[5] - grows * z[0]) / (grows - 1)
      expect(origin).toBeGreaterThan(0.3)
      expect(origin).toBeLessThan(3)
      z.forEach((x, k) => expect((x + origin) / ((z[0] + origin) * Math.sqrt(t[k] / t[0]))).toBeCloseTo(1, 1.7))
      // It slows down.
      expect(z[5] - z[4]).toBeLessThan(0.9 * (z[1] - z[0]))
    })
  })
  it('is the same gas elsewhere, and turned', async () => {
    const of = (place: [number, number, number], low: [number, number, number]) => {
      const g = puff({ low }, { lift: 9.81, vorticity: 0.3 }, { amounts: [{ mode: 'set', amount: 1 }, { mode: 'set', amount: 200 }, null] })
      return withWorld(plan([], [ball(place)], { gases: [g], substeps: 1 }), (w) => {
        framesOn(w, 10)
        const gas = gasOf(w)
        return { d: gas.grid('density'), first: gas.window?.first ?? [0, 0, 0], count: gas.window?.count ?? [1, 1, 1] }
      })
    }
    const here = await of([0.25, 0, 0.125], [-1, -1, -1])
    const there = await of([0.25 + 16, -8, 0.125], [15, -9, -1])
    expect(there.first).toEqual(here.first)
    const off = (a: Float32Array, b: (o: number) => number) => a.reduce((t, x, o) => t + Math.abs(x - b(o)), 0) / sum(a)
    expect(off(there.d, (o) => here.d[o])).toBeLessThan(1e-3)
    // A quarter turn about Y: x goes to z, z to −x.
    const turned = await of([-0.125, 0, 0.25], [-1, -1, -1])
    const value = (g: typeof here, x: number, y: number, z: number) => {
      const [i, j, k] = [x, y, z].map((v, a) => v - g.first[a])
      return i < 0 || j < 0 || k < 0 || i >= g.count[0] || j >= g.count[1] || k >= g.count[2]
        ? 0
        : g.d[i + g.count[0] * (j + g.count[1] * k)]
    }
    const [nx, ny] = here.count
    const same = off(here.d, (o) => {
      const [x, y, z] = [o % nx, Math.floor(o / nx) % ny, Math.floor(o / nx / ny)].map((v, a) => v + here.first[a])
      return value(turned, 31 - z, y, x)
    })
    expect(same).toBeLessThan(0.01)
  })
  it('burns its fuel to heat, soot and room', async () => {
    const g = puff(
      { burns: true, low: [-2, -2, -2], size: [4, 4, 4] },
      { ignition: 100, burnRate: 4, heat: 800, soot: 0.5, expansion: 1, flameLife: 0.1 },
      { amounts: [null, { mode: 'set', amount: 300 }, { mode: 'set', amount: 1 }] },
    )
    await withWorld(shot(g), (w) => {
      framesOn(w, 4)
      expect(fastest(gasOf(w).grid('flame'))).toBeGreaterThan(0.9)
      framesOn(w, 10)
      // All of it is gone a quarter of a second after the last came in.
      expect(fastest(gasOf(w).grid('fuel'))).toBeLessThan(0.05)
      expect(fastest(gasOf(w).grid('temperature'))).toBeGreaterThan(600)
      expect(sum(gasOf(w).grid('density'))).toBeGreaterThan(50)
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
      { amounts: [{ mode: 'set', amount: 1 }, null, null], direction: [0.5, 0, 0], lead: 100 },
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
