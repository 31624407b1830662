import { describe, expect, it } from 'vitest'
import {
  encodeDrag,
  type Frame,
  frameMark,
  type Plan,
  partsOf,
  type StripsPart,
  stripColumn,
  stripOffsets,
  stripPoints,
  type TrailParams,
  type TrailPlan,
} from '..'
import { bounce, column, framesOn, gravity, plan, point, still, system, withWorld } from '../testing/plans'

const byTime = (seconds: number, o: Partial<TrailParams> = {}): TrailParams => ({ seconds, metres: null, tolerance: 0.001, fade: 1, ...o })
const trail = (params: TrailParams, o: Partial<TrailPlan> = {}): TrailPlan => ({
  ...{ id: 'trail', name: 'Trail', seed: 9, share: 1, reachVary: 0 },
  params: () => params,
  ...o,
})
const strips = (f: Frame): StripsPart => partsOf(f.parts, 'strips')[0]
type Point = [number, number, number]
/** The points of one strip, from its end to its head, with how far along each is. */
function strip(part: StripsPart, k: number): { points: Point[]; along: number[]; metres: number[] } {
  const offsets = stripOffsets(part)
  const [x, y, z, along, metres] = (['px', 'py', 'pz', 'along', 'metres'] as const).map((n) => stripPoints(part, n))
  const at = Array.from({ length: offsets[k + 1] - offsets[k] }, (_, i) => offsets[k] + i)
  return { points: at.map((i) => [x[i], y[i], z[i]]), along: at.map((i) => along[i]), metres: at.map((i) => metres[i]) }
}
const distance = (a: Point, b: Point) => Math.hypot(...a.map((v, i) => v - b[i]))
const length = (p: Point[]) => p.slice(1).reduce((sum, q, i) => sum + distance(q, p[i]), 0)
function fromSegment(p: Point, a: Point, b: Point): number {
  const ab = b.map((v, i) => v - a[i])
  const t = Math.min(1, Math.max(0, ab.reduce((s, v, i) => s + v * (p[i] - a[i]), 0) / (ab.reduce((s, v) => s + v * v, 0) || 1)))
  return distance(p, a.map((v, i) => v + t * ab[i]) as Point)
}
const fromStrip = (p: Point, points: Point[]) => Math.min(...points.slice(1).map((q, i) => fromSegment(p, points[i], q)))

/** Thrown sideways and up from the origin, under gravity alone. */
const g = -9.81
const arc = (t: number): Point => [3 * t, 4 * t + (g / 2) * t * t, 0]
const thrown = (t: TrailPlan[], o: Partial<Plan> = {}) =>
  plan([system({ forces: [gravity(g)], birth: { direction: [0.6, 0.8, 0], speed: 5 }, trails: t })], [], o)
/** Its arc length, by many chords. */
const arcLength = (from: number, to: number) => length(Array.from({ length: 20001 }, (_, i) => arc(from + ((to - from) * i) / 20000)))

describe('the trail of one that is thrown', () => {
  for (const substeps of [1, 2, 16])
    it(`keeps to its arc within the tolerance, at ${substeps} substeps`, () =>
      withWorld(thrown([trail(byTime(10))], { substeps }), (w) => {
        const { points } = strip(strips(framesOn(w, 24)), 0)
        expect(distance(points[0], [0, 0, 0])).toBeLessThan(1e-5)
        expect(distance(points[points.length - 1], arc(1))).toBeLessThan(1e-4)
        let worst = 0
        for (let k = 0; k <= 2000; k++) worst = Math.max(worst, fromStrip(arc(k / 2000), points))
        expect(worst).toBeLessThan(0.00105)
        // Not more points than that needs: of a parabola, chords of a fixed error are √(8e / g) s long.
        expect(points.length).toBeLessThan(3 * Math.sqrt(9.81 / (8 * 0.001)) + 20)
        expect(length(points)).toBeGreaterThan(arcLength(0, 1) * 0.9995)
      }))
  it('reaches back for its time, cut within a piece', () =>
    withWorld(thrown([trail(byTime(0.37))]), (w) => {
      const { points, along } = strip(strips(framesOn(w, 24)), 0)
      expect(distance(points[0], arc(1 - 0.37))).toBeLessThan(0.0011)
      expect(along[0]).toBeCloseTo(1, 5)
      expect(along[along.length - 1]).toBe(0)
      for (let i = 1; i < along.length; i++) expect(along[i]).toBeLessThan(along[i - 1])
      expect(length(points)).toBeCloseTo(arcLength(0.63, 1), 2)
    }))
  it('or along its way, to the millimetre', () =>
    withWorld(thrown([trail({ seconds: null, metres: 1.25, tolerance: 0.001, fade: 1 })]), (w) => {
      const { points, along, metres } = strip(strips(framesOn(w, 24)), 0)
      expect(length(points)).toBeCloseTo(1.25, 4)
      expect(along[0]).toBeCloseTo(1, 4)
      // Metres count from where it began, whatever has been given up.
      expect(metres[metres.length - 1]).toBeCloseTo(arcLength(0, 1), 2)
      expect(metres[metres.length - 1] - metres[0]).toBeCloseTo(1.25, 4)
    }))
  it('begins where and when it was emitted within a substep', async () => {
    const p = thrown([trail(byTime(10))])
    p.systems[0].births = [
      {
        id: 'late',
        seed: 1,
        due: (t0) => (t0 === 0 ? [{ count: 1, at: 0.013, spacing: 0 }] : []),
        params: () => ({ ...point, direction: [0.6, 0.8, 0], speed: 5 }),
      },
    ]
    await withWorld(p, (w) => {
      const { points, along } = strip(strips(framesOn(w, 12)), 0)
      expect(distance(points[0], [0, 0, 0])).toBeLessThan(1e-5)
      expect(along[0]).toBeCloseTo((0.5 - 0.013) / 10, 4)
    })
  })
})
describe('a corner', () => {
  it('lies where it met the ground, between two substeps', () => {
    const p = plan(
      [
        system({
          forces: [],
          contacts: [bounce(1)],
          birth: { direction: [0.6, -0.8, 0], speed: 5 },
          extraColumns: ['tx', 'ty', 'tz', 'touchedAge', 'touched', 'touchSpeed'],
          trails: [trail(byTime(10))],
        }),
      ],
      [{ ...still(null, true), matrix: (_t, out) => Object.assign(out, [1, 0, 0, 0, 0, 1, 0, -1, 0, 0, 1, 0]) }],
      { substeps: 1 },
    )
    return withWorld(p, (w) => {
      const { points } = strip(strips(framesOn(w, 12)), 0)
      // Down at 4 m/s from the origin to −1 m: 0.75 m on the way.
      expect(fromStrip([0.75, -1, 0], points)).toBeLessThan(0.001)
      expect(Math.min(...points.map((q) => distance(q, [0.75, -1, 0])))).toBeLessThan(0.001)
    })
  })
})
describe('one whose particle is gone', () => {
  const short = (params: TrailParams) => {
    const p = thrown([trail(params)])
    p.systems[0].life = () => [0.5, 0]
    return p
  }
  it('ends where it died and grows shorter with its time', () =>
    withWorld(short(byTime(0.4, { fade: 5 })), (w) => {
      const at = (frames: number) => {
        const part = strips(framesOn(w, frames))
        return part.strips && part.points ? strip(part, 0) : null
      }
      expect(at(11)?.points.length).toBeGreaterThan(2)
      const just = at(2)
      expect(just && distance(just.points[just.points.length - 1], arc(0.5))).toBeLessThan(1e-3)
      const later = at(4)
      expect(later && length(later.points)).toBeCloseTo(arcLength(17 / 24 - 0.4, 0.5), 2)
      expect(later?.along[later.along.length - 1]).toBeCloseTo((17 / 24 - 0.5) / 0.4, 2)
      expect(at(6)).toBeNull()
    }))
  it('fades over its own time, and is given up', () =>
    withWorld(short({ seconds: null, metres: 2, tolerance: 0.001, fade: 0.25 }), (w) => {
      const part = strips(framesOn(w, 15))
      expect(part.strips).toBe(1)
      expect(stripColumn(part, 'fade')[0]).toBeCloseTo(1 - (15 / 24 - 0.5) / 0.25, 1)
      expect(stripColumn(part, 'age')[0]).toBeCloseTo(0.5, 1)
      expect(strips(framesOn(w, 6)).strips).toBe(0)
    }))
})
describe('which particles leave one', () => {
  const many = (t: Partial<TrailPlan>) =>
    plan([system({ burst: 4000, forces: [gravity()], birth: { speed: 2, spreadTurns: 0.5 }, phases: 2, trails: [trail(byTime(1), t)] })])
  it('a share of them, by their seeds', () =>
    withWorld(many({ share: 0.25 }), (w) => {
      const { strips: n } = strips(framesOn(w, 2))
      expect(n).toBeGreaterThan(4000 * 0.25 - 4 * Math.sqrt(4000 * 0.25 * 0.75))
      expect(n).toBeLessThan(4000 * 0.25 + 4 * Math.sqrt(4000 * 0.25 * 0.75))
    }))
  it('those in a phase', async () => {
    await withWorld(many({ phases: 1 }), (w) => expect(strips(framesOn(w, 2)).strips).toBe(4000))
    await withWorld(many({ phases: 2 }), (w) => expect(strips(framesOn(w, 2)).strips).toBe(0))
  })
})
it('each reaches back by its own ±', () =>
  withWorld(
    plan([system({ burst: 500, birth: { speed: 3, spreadTurns: 0.5 }, trails: [trail(byTime(0.5), { reachVary: 0.4 })] })]),
    (w) => {
      const part = strips(framesOn(w, 24))
      const lengths = Array.from({ length: 500 }, (_, k) => length(strip(part, k).points) / 1.5)
      expect(Math.min(...lengths)).toBeGreaterThan(0.599)
      expect(Math.max(...lengths)).toBeLessThan(1.401)
      expect(lengths.reduce((a, b) => a + b) / 500).toBeCloseTo(1, 1)
      expect(Math.max(...lengths) - Math.min(...lengths)).toBeGreaterThan(0.75)
    },
  ))
describe('points that drift', () => {
  const smoke = (carried: number, halvingS: number) =>
    thrown([trail(byTime(10), { drift: { inherit: 0.5, carried, spacing: 1e9, encode: (w) => encodeDrag(w, halvingS) } })])
  it('set out with a share of the velocity and slow down', () =>
    withWorld(smoke(0, 0.2), (w) => {
      const { points } = strip(strips(framesOn(w, 24)), 0)
      // The first point set out with half of 3 and 4 m/s; drag alone: v · halving / ln 2 · (1 − 2^(−t / halving)).
      const way = (0.2 / Math.LN2) * (1 - 2 ** -5)
      expect(points[0][0]).toBeCloseTo(1.5 * way, 3)
      expect(points[0][1]).toBeCloseTo(2 * way, 3)
    }))
  it('feel a share of the forces of their system', () =>
    withWorld(smoke(0.25, 1e9), (w) => {
      const { points } = strip(strips(framesOn(w, 24)), 0)
      expect(points[0][0]).toBeCloseTo(1.5, 3)
      expect(points[0][1]).toBeCloseTo(2 + (g / 2) * 0.25, 3)
    }))
})
it('drifts on by the forces of its system when all of its particles are gone', () => {
  const p = thrown([trail(byTime(10, { fade: 10 }), { drift: { inherit: 0, carried: 1, spacing: 1e9, encode: () => {} } })])
  p.systems[0].life = () => [0.5, 0]
  return withWorld(p, (w) => {
    const end = (frames: number) => {
      const { points } = strip(strips(framesOn(w, frames)), 0)
      return points[points.length - 1][1]
    }
    const at = end(12)
    // From rest where it died, for half a second; within a substep of it.
    const fallen = end(12) - at
    expect(fallen).toBeLessThan((g / 2) * 0.46 ** 2)
    expect(fallen).toBeGreaterThan((g / 2) * 0.54 ** 2)
  })
})
describe('one result', () => {
  const busy = plan(
    [
      system({
        life: () => [0.4, 0.3],
        forces: [gravity()],
        contacts: [bounce(0.5)],
        extraColumns: ['tx', 'ty', 'tz', 'touchedAge', 'touched', 'touchSpeed'],
        births: [
          {
            id: 'b',
            seed: 4,
            due: () => [{ count: 300, at: 0.0001, spacing: 0.00003 }],
            params: () => ({ ...point, speed: 4, speedVary: 2, spreadTurns: 0.3 }),
          },
        ],
        trails: [
          trail(byTime(0.3)),
          trail(byTime(0.2), {
            id: 'smoke',
            share: 0.5,
            drift: { inherit: 0.2, carried: 0.5, spacing: 0.1, encode: (w) => encodeDrag(w, 0.3) },
          }),
        ],
      }),
    ],
    [still(null, true)],
  )
  const marks = (threads: number) => withWorld(busy, (w) => Array.from({ length: 16 }, () => frameMark(framesOn(w, 1))), threads)
  it('at 1, 2 and 4 threads, and the particles are those without trails', async () => {
    const one = await marks(1)
    expect(new Set(one).size).toBe(16)
    expect(await marks(2)).toEqual(one)
    expect(await marks(4)).toEqual(one)
    const without = { ...busy, systems: busy.systems.map((s) => ({ ...s, trails: [] })) }
    const last = (p: Plan) => withWorld(p, (w) => [...column(framesOn(w, 16), 'px')])
    expect(await last(without)).toEqual(await last(busy))
  })
  it('whether each frame is looked at or the last alone', async () => {
    const whole = await marks(1)
    for (const n of [5, 10, 16]) expect(await withWorld(busy, (w) => frameMark(framesOn(w, n)))).toBe(whole[n - 1])
  })
  it('from any saved state', async () => {
    const whole = await marks(1)
    await withWorld(busy, (w) => {
      const saved = Array.from({ length: 16 }, () => {
        const s = w.save()
        w.step()
        return s
      })
      for (const k of [15, 3, 9, 0, 12]) {
        w.restore(saved[k])
        expect(frameMark(framesOn(w, 1))).toBe(whole[k])
      }
    })
  })
})
describe('memory', () => {
  it('grows with a trail, whose points stay as they are, and its metres those between them', () =>
    withWorld(thrown([trail(byTime(10, { tolerance: 1e-6 }))], { substeps: 7 }), (w) => {
      let before: Point[] = []
      for (let f = 0; f < 24; f++) {
        const { points, metres } = strip(strips(framesOn(w, 1)), 0)
        // All but the tip, which went on.
        expect(points.slice(0, Math.max(0, before.length - 1))).toEqual(before.slice(0, -1))
        for (let k = 1; k < points.length; k++) expect(metres[k] - metres[k - 1]).toBeCloseTo(distance(points[k], points[k - 1]), 5)
        before = points
      }
      // Rings begin with 16 points.
      expect(before.length).toBeGreaterThan(128)
    }))
  it('is given back, and says when there is no more', async () => {
    const greedy = plan([system({ burst: 30_000, birth: { speed: 1, spreadTurns: 0.5 }, trails: [trail(byTime(1))] })])
    await withWorld(
      greedy,
      (w) => {
        const f = framesOn(w, 3)
        expect(f.notices.map((n) => n.message).join()).toMatch(/Trail: no room for .* further particles leave none: a coarser detail/)
        // The particles go on.
        expect(f.stats.system.alive).toBe(30_000)
        expect(f.stats.system.trails?.strips).toBe(0)
        w.dispose()
        expect(w.usedBytes).toBe(0)
      },
      1,
      12 << 20,
    )
  })
  it('cuts the longest trails at the most points of a ring', () =>
    withWorld(plan([system({ forces: [gravity(-4000)], trails: [trail(byTime(1000, { tolerance: 0 }))] })], [], { substeps: 64 }), (w) => {
      const f = framesOn(w, 24)
      expect(f.notices.some((n) => /cut short/.test(n.message))).toBe(true)
      expect(strips(f).points).toBeLessThanOrEqual(4097)
    }))
})
