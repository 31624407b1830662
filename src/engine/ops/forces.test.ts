import { describe, expect, it } from 'vitest'
import type { OpWriter, Plan, PlanSystem, World } from '..'
import {
  encodeDrag,
  encodeEndLimits,
  encodeGravity,
  encodeLimitChance,
  encodeLimitRange,
  encodeLimitShape,
  encodePath,
  encodePoint,
  encodeSegment,
  encodeSpeedClamp,
  encodeSquareDrag,
  encodeVortex,
  encodeWind,
  identity,
} from '..'
import { column, framesOn, gravity, plan, system, withWorld } from '../testing/plans'
import { placeIn as at, runFrom, speedIn as speed, type V } from '../testing/start'

const force = (encode: (w: OpWriter, t: number) => void) => ({ id: 'force', encode: (w: OpWriter, at: { t0: number }) => encode(w, at.t0) })
const EVERYWHERE = { reach: Number.POSITIVE_INFINITY, falloff: 'even' } as const
const vortex = {
  centre: [0, 0, 0],
  axis: [0, 1, 0],
  ...EVERYWHERE,
  carry: true,
  around: 0,
  towards: 0,
  along: 0,
  responseS: 0,
  held: null,
} as const
const point = { centre: [0, 0, 0], strength: 1, ...EVERYWHERE, square: false, core: 0, front: null } as const

/** Runs a system whose particles begin at the given places and speeds, in a shot without objects. */
const run = <T>(start: { p: V; v?: V }[], o: Partial<PlanSystem>, inspect: (w: World) => T, p: Partial<Plan> = {}) =>
  runFrom(start, o, inspect, p)

describe('round an axis', () => {
  it('carried particles keep their distance, and come round in 2πr/v, at any number of steps', async () => {
    for (const substeps of [1, 4, 8]) {
      const r = 0.5,
        v = 2
      // 38 frames and a bit are one turn; after ten of them the error of the period shows.
      await run(
        [{ p: [r, 0.3, 0] }],
        { forces: [force((w) => encodeVortex(w, { ...vortex, around: v }))] },
        (w) => {
          let turned = 0
          let last = at(w)
          for (let f = 0; f < 240; f++) {
            w.step()
            const now = at(w)
            expect(Math.hypot(now[0], now[2])).toBeCloseTo(r, 4)
            turned += Math.atan2(last[2] * now[0] - last[0] * now[2], last[0] * now[0] + last[2] * now[2])
            last = now
          }
          const period = ((240 / 24) * (2 * Math.PI)) / turned
          // Each step's angle is 4·atan of what should be its quarter: short by its square over 48.
          expect(period / ((2 * Math.PI * r) / v)).toBeCloseTo(1, substeps === 1 ? 2 : 3)
          expect(last[1]).toBeCloseTo(0.3, 5)
        },
        { substeps },
      )
    }
  })
  it('an orbit draws particles to its radius from either side and holds them there', async () => {
    const orbit = force((w) => encodeVortex(w, { ...vortex, around: 1.5, responseS: 0.2, held: 0.8 }))
    await run([{ p: [0.1, 0, 0] }, { p: [0, 1, 3] }], { forces: [orbit] }, (w) => {
      framesOn(w, 96)
      for (const i of [0, 1]) {
        const [x, , z] = at(w, i)
        expect(Math.hypot(x, z)).toBeCloseTo(0.8, 1)
        expect(Math.hypot(...speed(w, i))).toBeCloseTo(1.5, 1)
      }
    })
  })
  it('pushes along, inwards and upwards by its numbers, and nothing past its reach', async () => {
    const push = force((w) => encodeVortex(w, { ...vortex, carry: false, around: 3, towards: 5, along: 7, reach: 2, falloff: 'even' }))
    await run(
      [{ p: [1, 0, 0] }, { p: [2.5, 0, 0] }],
      { forces: [push] },
      (w) => {
        w.step()
        const v = speed(w)
        // Up, across and out are a right-handed system: at +X the push round Y goes to −Z.
        expect(v.map((x) => x * 24)).toEqual([expect.closeTo(-5, 3), expect.closeTo(7, 3), expect.closeTo(-3, 3)])
        expect(speed(w, 1)).toEqual([0, 0, 0])
      },
      { substeps: 1 },
    )
  })
})

describe('towards a point', () => {
  it('by the square law: twenty turns of an ellipse come back to where they began', async () => {
    // Strength 1 at one metre: at distance 1 with 0.8 of the circle's speed the great axis is 1/(2 − 0.64).
    const a = 1 / (2 - 0.64)
    const period = 2 * Math.PI * Math.sqrt(a ** 3)
    const substeps = 64
    const frames = Math.round(period * 24 * 20)
    await run(
      [{ p: [1, 0, 0], v: [0, 0, 0.8] }],
      { forces: [force((w) => encodePoint(w, { ...point, square: true }))] },
      (w) => {
        let far = 0
        let near = 9
        for (let f = 0; f < frames; f++) {
          w.step()
          const r = Math.hypot(...at(w))
          far = Math.max(far, r)
          near = Math.min(near, r)
        }
        const [x, y, z] = at(w)
        const [u, v, q] = speed(w)
        const r = Math.hypot(x, y, z)
        // The energy and the turning of the ellipse after twenty turns, and both its ends.
        expect((u * u + v * v + q * q) / 2 - 1 / r).toBeCloseTo(-1 / (2 * a), 2)
        expect(x * q - z * u).toBeCloseTo(0.8, 3)
        expect(far).toBeCloseTo(1, 2)
        expect(near).toBeCloseTo(2 * a - 1, 2)
      },
      { substeps, last: 1e6 },
    )
  })
  it('has no curl: going round a square in its field needs no work', async () => {
    for (const falloff of ['linear', 'smooth', 'steep'] as const) {
      const n = 200
      const corner: V[] = [
        [0.2, 0.1, 0.3],
        [0.9, 0.1, 0.3],
        [0.9, 0.7, 0.3],
        [0.2, 0.7, 0.3],
      ]
      const places: V[] = []
      const ways: V[] = []
      for (let s = 0; s < 4; s++) {
        const [p, q] = [corner[s], corner[(s + 1) % 4]]
        for (let k = 0; k < n; k++) {
          places.push([0, 1, 2].map((i) => p[i] + ((q[i] - p[i]) * (k + 0.5)) / n) as V)
          ways.push([0, 1, 2].map((i) => (q[i] - p[i]) / n) as V)
        }
      }
      await run(
        places.map((p) => ({ p })),
        { forces: [force((w) => encodePoint(w, { ...point, strength: 24, reach: 2, falloff }))] },
        (w) => {
          w.step()
          const c = w.capture()
          const work = places.reduce(
            (sum, _, i) => sum + column(c, 'vx')[i] * ways[i][0] + column(c, 'vy')[i] * ways[i][1] + column(c, 'vz')[i] * ways[i][2],
            0,
          )
          expect(Math.abs(work), falloff).toBeLessThan(1e-4)
        },
        { substeps: 1 },
      )
    }
  })
  it('is as strong as it says in its middle, and nothing beyond its reach', async () => {
    for (const [falloff, half] of [
      ['even', 1],
      ['linear', 0.5],
      ['smooth', 0.5],
      ['steep', 0.25],
    ] as const) {
      const pull = force((w) => encodePoint(w, { ...point, strength: 24, reach: 1, falloff }))
      await run(
        [{ p: [1e-4, 0, 0] }, { p: [0.5, 0, 0] }, { p: [1.001, 0, 0] }],
        { forces: [pull] },
        (w) => {
          w.step()
          expect(speed(w, 0)[0], falloff).toBeCloseTo(-1, 2)
          expect(speed(w, 1)[0], falloff).toBeCloseTo(-half, 4)
          expect(speed(w, 2)).toEqual([0, 0, 0])
        },
        { substeps: 1 },
      )
    }
  })
  it('a front pushes when it comes by, in the order of the distance, and then no more', async () => {
    const shock = force((w, t) => encodePoint(w, { ...point, strength: -50, front: { radius: 2 * t, half: 0.1 } }))
    await run(
      [{ p: [0.5, 0, 0] }, { p: [0, 1.5, 0] }],
      { forces: [shock] },
      (w) => {
        // The run of the places took a frame: 1/24 s have gone.
        framesOn(w, 3)
        expect(speed(w, 0)).toEqual([0, 0, 0])
        framesOn(w, 5)
        const pushed = speed(w, 0)[0]
        // 50 m/s² for 0.1 s at the half of a smooth bump's top, somewhat longer as it is pushed along.
        expect(pushed).toBeGreaterThan(2)
        expect(speed(w, 1)).toEqual([0, 0, 0])
        framesOn(w, 18)
        expect(speed(w, 1)[1]).toBeGreaterThan(2)
        const before = speed(w, 1)[1]
        framesOn(w, 24)
        expect(speed(w, 1)[1]).toBe(before)
      },
      { substeps: 4 },
    )
  })
})

describe('towards a segment', () => {
  const segment = { from: [-1, 0, 0], to: [1, 0, 0], strength: 2, ...EVERYWHERE } as const
  it('an even pull along it is a constant acceleration across it, and beyond its ends one towards the end', async () => {
    const start: V[] = [
      [-0.7, 1, 0],
      [0.3, 0, -2],
      [1.6, 0.8, 0],
      [-1, -1.5, 0],
    ]
    const seconds = 0.5
    await run(
      start.map((p) => ({ p })),
      { forces: [force((w) => encodeSegment(w, segment))] },
      (w) => {
        for (let f = 0; f < 24 * seconds; f++) w.step()
        start.forEach(([x, y, z], i) => {
          const near = Math.max(-1, Math.min(1, x))
          const d = Math.hypot(near - x, y, z)
          const way = (2 * seconds * seconds) / 2
          const [px, py, pz] = at(w, i)
          expect(px).toBeCloseTo(x + ((near - x) / d) * way, 4)
          expect(py).toBeCloseTo(y - (y / d) * way, 4)
          expect(pz).toBeCloseTo(z - (z / d) * way, 4)
        })
      },
      { substeps: 4 },
    )
  })
  it('with both ends in one place it is the force of a point', async () => {
    const start = [{ p: [0.4, 0.3, -0.2] as V }, { p: [-0.1, 0.6, 0.1] as V }]
    const shape = { strength: 3, reach: 1, falloff: 'smooth' } as const
    const after = (encode: (w: OpWriter) => void) =>
      run(start, { forces: [force(encode)] }, (w) => {
        w.step()
        return start.flatMap((_, i) => speed(w, i))
      })
    const asPoint = await after((w) => encodePoint(w, { ...point, ...shape }))
    const asSegment = await after((w) => encodeSegment(w, { from: [0, 0, 0], to: [0, 0, 0], ...shape }))
    expect(asPoint.some((v) => Math.abs(v) > 0.01)).toBe(true)
    asSegment.forEach((v, i) => expect(v).toBeCloseTo(asPoint[i], 6))
  })
  it('nothing is felt beyond its reach, and repelling is attracting the other way', async () => {
    const start: V[] = [
      [0, 0.5, 0],
      [0, 1.01, 0],
      [2.01, 0, 0],
    ]
    const after = (strength: number) =>
      run(
        start.map((p) => ({ p })),
        { forces: [force((w) => encodeSegment(w, { ...segment, strength, reach: 1, falloff: 'linear' }))] },
        (w) => {
          w.step()
          return start.map((_, i) => speed(w, i))
        },
        { substeps: 1 },
      )
    const [pulled, pushed] = [await after(2), await after(-2)]
    // Half of the strength at half of the reach, for a frame.
    expect(pulled[0][1]).toBeCloseTo(-1 / 24, 6)
    expect(pushed[0][1]).toBeCloseTo(1 / 24, 6)
    expect([...pulled[1], ...pulled[2]]).toEqual([0, 0, 0, 0, 0, 0])
  })
})

describe('wind, drag and bounds of speed', () => {
  const wind = {
    direction: [1, 0, 0],
    speed: 4,
    gust: 0,
    stray: 0,
    eddy: 1,
    octaves: 2,
    phase: 0,
    travelled: [0, 0, 0],
    responseS: 0.5,
  } as const
  it('a steady wind takes particles along as 1 − exp(−t/τ), whatever the steps', async () => {
    await run(
      [{ p: [0, 0, 0] }],
      { forces: [force((w) => encodeWind(w, wind, 1))] },
      (w) => {
        for (let n = 1; n <= 48; n++) {
          w.step()
          expect(speed(w)[0]).toBeCloseTo(4 * (1 - Math.exp(-n / 24 / 0.5)), 4)
        }
      },
      { substeps: 4 },
    )
  })
  it('gusts change the speed along it, straying the speed across it', async () => {
    const cloud = Array.from({ length: 2000 }, (_, i) => ({ p: [((i * 37) % 101) / 5, ((i * 53) % 97) / 5, ((i * 71) % 89) / 5] as V }))
    const spread = async (gust: number, stray: number) =>
      run(
        cloud,
        { forces: [force((w) => encodeWind(w, { ...wind, gust, stray, responseS: 0 }, 5))] },
        (w) => {
          w.step()
          const c = w.capture()
          const sd = (k: 'vx' | 'vy' | 'vz') => {
            const l = [...column(c, k)]
            const mean = l.reduce((a, b) => a + b, 0) / l.length
            return [mean, Math.sqrt(l.reduce((s, x) => s + (x - mean) ** 2, 0) / l.length)]
          }
          return [sd('vx'), sd('vy'), sd('vz')]
        },
        { substeps: 1 },
      )
    const gusty = await spread(2, 0)
    expect(gusty[0][0]).toBeCloseTo(4, 1)
    expect(gusty[0][1]).toBeGreaterThan(0.2)
    expect(gusty[1][1]).toBeLessThan(1e-5)
    const astray = await spread(0, 2)
    expect(astray[0][1]).toBeLessThan(1e-5)
    expect(astray[1][1]).toBeGreaterThan(0.2)
    expect(astray[2][1]).toBeGreaterThan(0.2)
  })
  it('gusts travel with the wind: a field that has travelled is the field moved on', async () => {
    const places: V[] = Array.from({ length: 50 }, (_, i) => [((i * 37) % 101) / 25, ((i * 53) % 97) / 25, ((i * 71) % 89) / 25])
    const field = (list: V[], x: number) =>
      run(
        list.map((p) => ({ p })),
        { forces: [force((w) => encodeWind(w, { ...wind, gust: 2, stray: 1, responseS: 0, travelled: [x, 0, 0] }, 5))] },
        (w) => {
          w.step()
          return list.map((_, i) => speed(w, i))
        },
        { substeps: 1 },
      )
    const [here, there] = [
      await field(places, 0),
      await field(
        places.map(([x, y, z]): V => [x + 0.75, y, z]),
        0.75,
      ),
    ]
    here.forEach((v, i) => v.forEach((x, a) => expect(x).toBeCloseTo(there[i][a], 4)))
  })
  it('terminal speed under drag by the square is √(g/c)', async () => {
    await run(
      [{ p: [0, 0, 0] }],
      { forces: [gravity(-9.81), force((w) => encodeSquareDrag(w, 0.4))] },
      (w) => {
        framesOn(w, 24 * 6)
        expect(-speed(w)[1] / Math.sqrt(9.81 / 0.4)).toBeCloseTo(1, 2)
      },
      { substeps: 16, last: 1e4 },
    )
  })
  it('heavy particles are slowed and taken along less, gravity is the same for all', async () => {
    const forces = [gravity(-9.81), force((w) => encodeDrag(w, 0.5))]
    const fall = (kg: number) =>
      run(
        [{ p: [0, 0, 0] }],
        { forces, mass: () => [kg, 0] },
        (w) => {
          framesOn(w, 24 * 30)
          return -speed(w)[1]
        },
        { substeps: 8, last: 1e4 },
      )
    const [light, heavy] = [await fall(1), await fall(3)]
    expect(heavy / light).toBeCloseTo(3, 1)
    const free = await run([{ p: [0, 0, 0] }], { forces: [gravity(-10)], mass: () => [50, 0] }, (w) => {
      framesOn(w, 24)
      return speed(w)[1]
    })
    expect(free).toBeCloseTo(-10, 3)
  })
  it('speeds stay between their bounds and keep their direction; what stands still stays', async () => {
    await run(
      [{ p: [0, 0, 0], v: [30, 40, 0] }, { p: [0, 0, 0], v: [0.03, 0, 0.04] }, { p: [0, 0, 0] }],
      { forces: [force((w) => encodeSpeedClamp(w, 1, 10))] },
      (w) => {
        w.step()
        expect(speed(w, 0)).toEqual([expect.closeTo(6, 4), expect.closeTo(8, 4), 0])
        expect(speed(w, 1)).toEqual([expect.closeTo(0.6, 4), 0, expect.closeTo(0.8, 4)])
        expect(speed(w, 2)).toEqual([0, 0, 0])
      },
    )
  })
})

describe('along a path', () => {
  // A quarter of a circle in pieces.
  const arc = Float32Array.from(
    Array.from({ length: 65 }, (_, i) => [Math.cos((i / 64) * Math.PI * 0.5) * 2, 0.5, Math.sin((i / 64) * Math.PI * 0.5) * 2]).flat(),
  )
  it('particles come onto it and go along it at its speed', async () => {
    await run(
      [{ p: [2.2, 0.5, 0.1] }, { p: [1.6, 0.8, 0.4] }],
      { forces: [force((w) => encodePath(w, { points: arc, speed: 1, ...EVERYWHERE, responseS: 0.02, gatherS: 0.1 }))] },
      (w) => {
        framesOn(w, 36)
        for (const i of [0, 1]) {
          const [x, y, z] = at(w, i)
          expect(Math.hypot(x, z)).toBeCloseTo(2, 1)
          expect(y).toBeCloseTo(0.5, 2)
          const v = speed(w, i)
          expect(Math.hypot(...v)).toBeCloseTo(1, 1)
          // Counter-clockwise from above: along the tangent.
          expect((v[0] * -z + v[2] * x) / 2).toBeCloseTo(1, 1)
        }
      },
      { substeps: 4 },
    )
  })
})

describe('limits', () => {
  const fall = (limit: (w: OpWriter) => void) =>
    force((w) => {
      limit(w)
      encodeGravity(w, [0, -24, 0])
      encodeEndLimits(w)
    })
  const BALL = { shape: 'ball', half: [1, 0, 0], soft: 0, falloff: 'linear', outside: false, into: identity() } as const
  it('a force acts inside a shape alone, softly from its border inwards, or everywhere else', async () => {
    const places: { p: V }[] = [{ p: [0.1, 0, 0] }, { p: [0.75, 0, 0] }, { p: [0.99, 0, 0] }, { p: [1.01, 0, 0] }]
    const felt = (limit: (w: OpWriter) => void) =>
      run(
        places,
        { forces: [fall(limit)] },
        (w) => {
          w.step()
          return places.map((_, i) => -speed(w, i)[1])
        },
        { substeps: 1 },
      )
    expect(await felt((w) => encodeLimitShape(w, BALL))).toEqual([1, 1, 1, 0].map((x) => expect.closeTo(x, 4)))
    expect(await felt((w) => encodeLimitShape(w, { ...BALL, soft: 0.5 }))).toEqual([1, 0.5, 0.02, 0].map((x) => expect.closeTo(x, 4)))
    expect(await felt((w) => encodeLimitShape(w, { ...BALL, outside: true }))).toEqual([0, 0, 0, 1].map((x) => expect.closeTo(x, 4)))
    expect(await felt((w) => encodeLimitShape(w, { ...BALL, shape: 'box', half: [0.8, 1, 1] }))).toEqual(
      [1, 1, 0, 0].map((x) => expect.closeTo(x, 4)),
    )
    // Above a plane that is turned: its own y is the shot's x.
    expect(
      await felt((w) => encodeLimitShape(w, { ...BALL, shape: 'above', into: Float64Array.from([0, 1, 0, 0, 1, 0, 0, -0.5, 0, 0, 1, 0]) })),
    ).toEqual([0, 1, 1, 1].map((x) => expect.closeTo(x, 4)))
    // Two limits are both.
    expect(
      await felt((w) => {
        encodeLimitShape(w, { ...BALL, soft: 0.5 })
        encodeLimitShape(w, { ...BALL, shape: 'above', into: Float64Array.from([0, 1, 0, 0, 1, 0, 0, -0.5, 0, 0, 1, 0]) })
      }),
    ).toEqual([0, 0.5, 0.02, 0].map((x) => expect.closeTo(x, 4)))
  })
  it('end with their force: the one behind it acts on all', async () => {
    const both = force((w) => {
      encodeLimitShape(w, { ...BALL, outside: true })
      encodeGravity(w, [0, -24, 0])
      encodeEndLimits(w)
      encodeGravity(w, [24, 0, 0])
    })
    await run(
      [{ p: [0.5, 0, 0] }],
      { forces: [both] },
      (w) => {
        w.step()
        expect(speed(w)).toEqual([expect.closeTo(1, 4), 0, 0])
      },
      { substeps: 1 },
    )
  })
  it('by age: a force sets in and fades over its soft edge', async () => {
    const aged = fall((w) => encodeLimitRange(w, { of: 'age', from: 0.5, to: 1, soft: 0.25, outside: false }))
    await withWorld(plan([system({ forces: [aged] })], [], { substeps: 8 }), (w) => {
      framesOn(w, 12)
      expect(speed(w)[1]).toBe(0)
      framesOn(w, 36)
      // Up over a quarter second, down over a quarter: the whole is a quarter second of it.
      expect(-speed(w)[1]).toBeCloseTo(24 * 0.25, 1)
    })
    const early = fall((w) => encodeLimitRange(w, { of: 'life', from: 0, to: 0.5, soft: 0, outside: false }))
    await withWorld(plan([system({ life: () => [2, 0], forces: [early] })], [], { substeps: 4 }), (w) => {
      framesOn(w, 40)
      expect(-speed(w)[1]).toBeCloseTo(24, 0)
    })
  })
  it('by speed, and by chance: the same part of them for ever, and the rest with the other side', async () => {
    await run(
      [
        { p: [0, 0, 0], v: [1, 0, 0] },
        { p: [0, 0, 0], v: [5, 0, 0] },
      ],
      { forces: [fall((w) => encodeLimitRange(w, { of: 'speed', from: 2, to: Number.POSITIVE_INFINITY, soft: 0, outside: false }))] },
      (w) => {
        w.step()
        expect(speed(w, 0)[1]).toBe(0)
        expect(-speed(w, 1)[1]).toBeCloseTo(1, 3)
      },
      { substeps: 1 },
    )
    const part = (outside: boolean) =>
      withWorld(plan([system({ burst: 4000, forces: [fall((w) => encodeLimitChance(w, 0.3, outside, 9))] })]), (w) =>
        [...column(framesOn(w, 10), 'vy')].map((v) => v < 0),
      )
    const [one, rest] = [await part(false), await part(true)]
    expect(one.filter(Boolean).length / 4000).toBeCloseTo(0.3, 1)
    one.forEach((x, i) => expect(rest[i]).toBe(!x))
  })
})

describe('time of a system', () => {
  it('at half its pace everything takes twice as long; held, it stays; births come by the time of the shot', async () => {
    const fall = { forces: [gravity(-10)], life: () => [1, 0] as const }
    await withWorld(plan([system({ ...fall, timeScale: () => 0.5 })], [], { substeps: 4 }), (w) => {
      const c = framesOn(w, 24)
      expect(column(c, 'age')[0]).toBeCloseTo(0.5, 4)
      expect(column(c, 'vy')[0]).toBeCloseTo(-5, 3)
      framesOn(w, 23)
      expect(w.capture().stats.system.alive).toBe(1)
      framesOn(w, 2)
      expect(w.capture().stats.system.alive).toBe(0)
    })
    await withWorld(plan([system({ ...fall, timeScale: (t) => (t < 0.5 ? 1 : 0) })], [], { substeps: 4 }), (w) => {
      framesOn(w, 12)
      const held = at(w)
      framesOn(w, 24)
      expect(at(w)).toEqual(held)
      expect(w.capture().stats.system.alive).toBe(1)
    })
  })
})
