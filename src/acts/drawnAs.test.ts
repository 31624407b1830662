import { describe, expect, it } from 'vitest'
import { CLOUD_BALL, identity, type Matrix, type PointsPart, partsOf, pointColumn } from '../engine'
import type { Shot } from '../shot'
import {
  drawnByKernels,
  drawnPlaces,
  drawOf,
  drawsOf,
  INSTANCE_FLOATS,
  overruledBy,
  partLooks,
  reliefsOf,
  solidInstances,
  touchedFrom,
  tuftBalls,
} from '.'
import { act, after, quiet } from './testing/quiet'
import { thing } from './testing/things'

const FADING = {
  id: 'fading',
  name: 'Fading',
  colour: { stops: [{ at: 0, colour: [0.5, 0.25, 1] as [number, number, number] }] },
  size: { points: [{ at: 0, v: 1 }, { at: 1, v: 0.5 }] }, // biome-ignore format: one line
  opacity: { points: [{ at: 0, v: 1 }, { at: 1, v: 0 }] }, // biome-ignore format: one line
}
/** Particles that fly apart, drawn so. */
const flying = (look: ReturnType<typeof act>[]): Shot =>
  quiet((s) => {
    s.shared.looks = [FADING]
    s.systems[0].life = { value: 1, vary: 0.4 }
    s.systems[0].birth = [act('burst', { count: 400, at: 0, source: null, every: null, speed: 2, spread: 180 })]
    s.systems[0].whole.look = [act('overLife', { look: 'fading', size: { value: 0.2, vary: 0.1 } }), ...look]
  })
async function part(s: Shot): Promise<PointsPart> {
  const [p] = partsOf((await after(s, 6)).parts, 'points')
  expect(p.count).toBe(400)
  return p
}
/** Twice as large, turned a quarter about Z, and moved. */
const turned: Matrix = Float64Array.from([0, -2, 0, 10, 2, 0, 0, 20, 0, 0, 2, 30])
const column = (d: Float32Array, n: number, k: number) => [0, 4, 8].map((r) => d[n * INSTANCE_FLOATS + r + k])
const length = (v: readonly number[]) => Math.hypot(...v)

describe('solids', () => {
  const instances = (s: Shot, p: PointsPart, bodies: { weight: number; longest: number }[], share = 1, m = turned) => {
    const draws = drawsOf(s, s.systems[0], 0.25)
    const { solid } = draws[0]
    if (!solid) throw new Error('no solid')
    return solidInstances(p, { draws, blends: [0], phases: [0], solid, bodies, matrices: [m], share })
  }
  it('are one body after the other where that is asked for, in the order of births', async () => {
    const s = flying([act('solid', { body: 'object', picks: 'turn' })])
    const p = await part(s)
    const three = [1, 5, 100].map((weight) => ({ weight, longest: 1 }))
    const made = instances(s, p, three)
    expect(made.map((m) => m.count)).toEqual([134, 133, 133])
    const ids = pointColumn(p, 'id')
    made.forEach((m, k) => expect(m.of.slice(0, m.count).every((i) => ids[i] % 3 === k)).toBe(true))
  })
  it('stand where particles are, as large as they, and shrink where these would fade', async () => {
    const s = flying([act('solid', { lies: 'upright' })])
    const p = await part(s)
    const [{ count, data }] = instances(s, p, [{ weight: 1, longest: 4 }])
    expect(count).toBe(400)
    const look = partLooks(p, drawsOf(s, s.systems[0], 0.25), [0], turned)
    for (let n = 0; n < count; n += 37) {
      const [x, y, z] = (['px', 'py', 'pz'] as const).map((c) => pointColumn(p, c)[n])
      expect(column(data, n, 3)).toEqual([10 - 2 * y, 20 + 2 * x, 30 + 2 * z].map((v) => expect.closeTo(v, 4)))
      const { size, opacity, colour } = look(n)
      expect(opacity).toBeLessThan(0.9)
      // Half of it twice as large, over the longest side.
      for (const k of [0, 1, 2]) expect(length(column(data, n, k))).toBeCloseTo((2 * size * opacity) / 4, 5)
      expect([...data.subarray(n * INSTANCE_FLOATS + 12, n * INSTANCE_FLOATS + 15)]).toEqual(colour.map((c) => expect.closeTo(c, 6)))
    }
  })
  it('lead with their own Y, longer by the way of so many seconds', async () => {
    const s = flying([act('solid', { lies: 'motion', stretch: 0.5 })])
    const p = await part(s)
    const [{ data }] = instances(s, p, [{ weight: 1, longest: 1 }], 1, identity())
    for (let n = 0; n < 400; n += 13) {
      const v = (['vx', 'vy', 'vz'] as const).map((c) => pointColumn(p, c)[n])
      const y = column(data, n, 1)
      y.forEach((c, k) => expect(c / length(y)).toBeCloseTo(v[k] / length(v), 4))
      expect(length(y) - length(column(data, n, 0))).toBeCloseTo(0.5 * length(v), 4)
    }
  })
  it('lie every which way without a spin, each the same from frame to frame, and differ in their bodies by weights', async () => {
    const s = flying([act('solid', { body: 'object', object: 'one', second: 'two', weight: 3, weight2: 1 })])
    s.objects = [thing('one'), thing('two')]
    expect(drawOf(s, s.systems[0], 0).solid?.objects).toEqual([
      { object: 'one', weight: 3 },
      { object: 'two', weight: 1 },
    ])
    const p = await part(s)
    const two = [
      { weight: 3, longest: 1 },
      { weight: 1, longest: 1 },
    ]
    const [a, b] = instances(s, p, two)
    expect(a.count + b.count).toBe(400)
    // Within five standard deviations of a binomial.
    expect(Math.abs(b.count - 100)).toBeLessThan(5 * Math.sqrt(400 * 0.25 * 0.75))
    expect(instances(s, p, two)[1].data).toEqual(b.data)
    // No way is preferred: the mean of their axes is about nothing.
    for (const k of [0, 1, 2]) {
      const mean = [0, 0, 0]
      for (let n = 0; n < a.count; n++) column(a.data, n, k).forEach((x, c) => (mean[c] += x / length(column(a.data, n, k)) / a.count))
      expect(length(mean)).toBeLessThan(0.25)
    }
    const half = instances(s, p, two, 0.5)
    expect(half[0].count + half[1].count).toBeGreaterThan(150)
    expect(half[0].count + half[1].count).toBeLessThan(250)
  })
})
describe('a relief', () => {
  const places = (p: PointsPart, s: Shot) => {
    const at = drawnPlaces(p, reliefsOf(drawsOf(s, s.systems[0], 0.25)))
    return Array.from({ length: p.count }, (_, i) => [at.x[i], at.y[i], at.z[i]])
  }
  const simulated = (p: PointsPart) => {
    const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(p, n))
    return Array.from({ length: p.count }, (_, i) => [x[i], y[i], z[i]])
  }
  const radius = ([x, , z]: number[]) => Math.hypot(x, z)
  it('of nothing leaves particles where they are; a lift pushes them away from the axis or the middle, or along one', async () => {
    const p = await part(flying([act('dot')]))
    const was = simulated(p)
    const drawn = (o: Record<string, unknown>) => places(p, flying([act('relief', { amount: 0, ...o })]))
    expect(drawn({})).toEqual(was)
    drawn({ along: 'axis', lift: 0.25 }).forEach((q, i) => {
      expect(radius(q) - radius(was[i])).toBeCloseTo(0.25, 5)
      expect(q[1]).toBe(was[i][1])
    })
    drawn({ along: 'middle', lift: 0.25 }).forEach((q, i) => expect(Math.hypot(...q) - Math.hypot(...was[i])).toBeCloseTo(0.25, 5))
    drawn({ along: 'z', lift: -0.5 }).forEach((q, i) => expect(q).toEqual([was[i][0], was[i][1], expect.closeTo(was[i][2] - 0.5, 5)]))
    // Half of it half-way up.
    const height = { over: 'height', from: -0.5, to: 0.5 }
    drawn({ along: 'x', lift: 1, ...height }).forEach((q, i) =>
      expect(q[0] - was[i][0]).toBeCloseTo(Math.min(1, Math.max(0, 0.5 - was[i][1])), 3),
    )
  })
  it('goes no farther than its noise, both ways, and is renewed in time only when it is asked to', async () => {
    const p = await part(flying([act('dot')]))
    const was = simulated(p)
    const by = (o: Record<string, unknown>) =>
      places(p, flying([act('relief', { along: 'y', amount: 0.3, size: 0.2, ...o })])).map((q, i) => q[1] - was[i][1])
    const one = by({})
    expect(Math.max(...one)).toBeGreaterThan(0.06)
    expect(Math.min(...one)).toBeLessThan(-0.06)
    expect(Math.max(...one.map(Math.abs))).toBeLessThan(0.3 * 1.75)
    expect(by({})).toEqual(one)
    expect(by({ seed: 99 })).not.toEqual(one)
    expect(by({ renewal: 1.7 })).not.toEqual(one)
    // The same noise, twice as far.
    by({ amount: 0.6 }).forEach((d, i) => expect(d).toBeCloseTo(2 * one[i], 5))
  })
  it('twists about the axis by height, and is one of the picture alone', async () => {
    const p = await part(flying([act('dot')]))
    const was = simulated(p)
    const s = flying([act('relief', { amount: 0, twist: 90 })])
    places(p, s).forEach((q, i) => {
      const [x, y, z] = was[i]
      const a = (Math.PI / 2) * y
      expect(q).toEqual([x * Math.cos(a) + z * Math.sin(a), y, z * Math.cos(a) - x * Math.sin(a)].map((v) => expect.closeTo(v, 4)))
    })
    expect(touchedFrom(flying([act('dot')]), s)).toBeNull()
  })
})
describe('tufts', () => {
  it('dim as balls of their size and opacity, for each copy; quickly or with everything that changes a look', async () => {
    const s = flying([act('tuft', { thickness: 3 })])
    const p = await part(s)
    const plain = tuftBalls(p, drawsOf(s, s.systems[0], 0.25), [0], [identity(), turned])
    expect(plain.count).toBe(800)
    const { brightness } = drawOf(s, s.systems[0], 0)
    expect(plain.colour).toEqual(FADING.colour.stops[0].colour.map((c) => expect.closeTo(c * brightness, 4)))
    const look = partLooks(p, drawsOf(s, s.systems[0], 0.25), [0])
    for (let n = 0; n < 400; n += 41) {
      const { size, opacity } = look(n)
      const at = (k: number) => [...plain.balls.subarray(k * CLOUD_BALL, (k + 1) * CLOUD_BALL)]
      const [x, y, z] = (['px', 'py', 'pz'] as const).map((c) => pointColumn(p, c)[n])
      // Opacity and size come from a table of 257 values here.
      expect(at(n)).toEqual([x, y, z, expect.closeTo(size / 2, 3), expect.closeTo(3 * opacity, 1)])
      expect(at(400 + n).slice(0, 4)).toEqual([10 - 2 * y, 20 + 2 * x, 30 + 2 * z, size].map((v) => expect.closeTo(v, 3)))
    }
    s.systems[0].whole.look.push(act('mapValue', { of: 'size', by: 'age', joins: 'multiply', less: 2, more: 2 }))
    const mapped = tuftBalls(p, drawsOf(s, s.systems[0], 0.25), [0], [identity()])
    for (let n = 0; n < 400; n += 41) expect(mapped.balls[n * CLOUD_BALL + 3]).toBeCloseTo(2 * plain.balls[n * CLOUD_BALL + 3], 3)
  })
  it('cover unless a card says otherwise; a look is never one of the simulation; only they and gases need kernels', () => {
    const s = flying([act('tuft')])
    expect(drawOf(s, s.systems[0], 0)).toMatchObject({ inside: 'normal', onto: 'normal' })
    const light = flying([act('tuft'), act('blend', { inside: 'add', onto: 'screen' })])
    expect(drawOf(light, light.systems[0], 0)).toMatchObject({ inside: 'add', onto: 'screen' })
    const cards = [act('dot', { id: 'dot' }), act('mapValue', { id: 'map' }), act('blend', { id: 'blend' }), act('tuft', { id: 'tuft' })]
    expect(cards.map((c) => overruledBy(cards, c.id)?.id)).toEqual(['tuft', undefined, undefined, undefined])
    expect(overruledBy([cards[0], { ...cards[3], muted: true }], 'dot')).toBeUndefined()
    expect(touchedFrom(flying([act('dot')]), s)).toBeNull()
    expect(touchedFrom(flying([act('dot')]), flying([act('solid')]))).toBeNull()
    expect([drawnByKernels(s), drawnByKernels(flying([act('dot')]))]).toEqual([true, false])
  })
})
