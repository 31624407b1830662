import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  type Frame,
  frameMark,
  type LinkParams,
  type LinkPlan,
  type Plan,
  partsOf,
  pointColumn,
  type StripsPart,
  stripColumn,
  stripPoints,
} from '..'
import { framesOn, gravity, plan, point, points, system, withWorld } from '../testing/plans'

const params = (o: Partial<LinkParams> = {}): LinkParams => ({
  distance: 0.3,
  most: 4,
  fadeIn: 0,
  fadeOut: 0,
  stretch: null,
  glitch: null,
  ...o,
})
const link = (p: LinkParams, o: Partial<LinkPlan> = {}): LinkPlan => ({
  ...{ id: 'links', name: 'Links', seed: 5, share: 1, system: -1, frameSeconds: 1 / 24 },
  params: () => p,
  ...o,
})
/** A cloud that spreads from a point, each at a speed of its own. */
const cloud = (links: LinkPlan[], o: { burst?: number; life?: number; seed?: number } = {}) =>
  system({
    burst: o.burst ?? 200,
    seed: o.seed ?? 1,
    birth: { speed: 1, speedVary: 0.9, spreadTurns: 0.5 },
    life: () => [o.life ?? 1e6, 0],
    links,
  })
const strips = (f: Frame): StripsPart => partsOf(f.parts, 'strips')[0]
const pairsOf = (part: StripsPart): string[] => {
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => stripPoints(part, n))
  return Array.from({ length: part.strips }, (_, k) => [k * 2, k * 2 + 1].map((i) => [x[i], y[i], z[i]].join(' ')).join(' – '))
}
/** All pairs, by looking at every other for each: who is among the nearest of both. Their rows. */
function naiveRows(f: Frame, distance: number, most: number): [number, number][] {
  const part = points(f)
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(part, n))
  const fr = Math.fround
  const near = Array.from({ length: part.count }, (_, i) =>
    Array.from({ length: part.count }, (_, j) => j)
      .filter((j) => j !== i)
      .map((j) => {
        const [d, e, g] = [fr(x[j] - x[i]), fr(y[j] - y[i]), fr(z[j] - z[i])]
        return { j, far: fr(fr(fr(d * d) + fr(e * e)) + fr(g * g)) }
      })
      .filter(({ far }) => far <= fr(distance ** 2))
      .sort((a, b) => a.far - b.far || a.j - b.j)
      .slice(0, most)
      .map(({ j }) => j),
  )
  return near.flatMap((list, i) =>
    list
      .filter((j) => j > i && near[j].includes(i))
      .sort((a, b) => a - b)
      .map((j): [number, number] => [i, j]),
  )
}
function naive(f: Frame, distance: number, most: number): string[] {
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(points(f), n))
  return naiveRows(f, distance, most).map((pair) => pair.map((i) => [x[i], y[i], z[i]].join(' ')).join(' – '))
}
const one = (p: Plan): Plan => ({ ...p, substeps: 1 })

describe('links', () => {
  it('are just those that looking at every pair finds (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 2, max: 120 }),
        fc.double({ min: 0.01, max: 2, noNaN: true }),
        fc.integer({ min: 1, max: 16 }),
        fc.integer({ min: 1, max: 1e6 }),
        (burst, distance, most, seed) =>
          withWorld(one(plan([cloud([link(params({ distance, most }))], { burst, seed })])), (w) => {
            const f = framesOn(w, 9)
            expect(pairsOf(strips(f))).toEqual(naive(f, distance, most))
          }),
      ),
      { numRuns: 25 },
    )
  }, 60000)
  // More than are brought together, and than are kept before only the nearest stay.
  it.each([3, 7, 12])('are the same in a crowd, at most %i each', (most) =>
    withWorld(one(plan([cloud([link(params({ distance: 5, most }))], { burst: 1300 })])), (w) => {
      const f = framesOn(w, 6)
      expect(pairsOf(strips(f))).toEqual(naive(f, 5, most))
    }),
  )
  it('are never more than so many of one', () =>
    withWorld(plan([cloud([link(params({ distance: 5, most: 3 }))], { burst: 500 })]), (w) => {
      const part = strips(framesOn(w, 12))
      const degree = new Map<string, number>()
      for (const pair of pairsOf(part)) for (const end of pair.split(' – ')) degree.set(end, (degree.get(end) ?? 0) + 1)
      expect(Math.max(...degree.values())).toBeLessThanOrEqual(3)
      expect(part.strips).toBeGreaterThan(300)
    }))
  it('between two systems join one of each', () => {
    const two = plan([cloud([link(params({ distance: 0.5, most: 2 }), { system: 1 })]), { ...cloud([], { seed: 9 }), id: 'other' }])
    return withWorld(two, (w) => {
      const f = framesOn(w, 12)
      const places = (id: string) => {
        const part = partsOf(f.parts, 'points').find((p) => p.element === id)
        if (!part) throw new Error(id)
        const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(part, n))
        return new Set(Array.from({ length: part.count }, (_, i) => [x[i], y[i], z[i]].join(' ')))
      }
      const [own, other] = [places('system'), places('other')]
      const pairs = pairsOf(strips(f)).map((p) => p.split(' – '))
      expect(pairs.length).toBeGreaterThan(30)
      for (const [a, b] of pairs) expect([own.has(a), other.has(b)]).toEqual([true, true])
    })
  })
})
describe('a link comes and goes', () => {
  it('over its times, never at once', () =>
    withWorld(one(plan([cloud([link(params({ distance: 0.35, fadeIn: 0.25, fadeOut: 0.5 }))])])), (w) => {
      let before = new Map<string, number>()
      let shown = 0
      for (let k = 0; k < 40; k++) {
        const part = strips(framesOn(w, 1))
        const fade = stripColumn(part, 'fade')
        const ids = stripColumn(part, 'id')
        const now = new Map<string, number>()
        // By the first id and how many of its came before: the order of a particle's links is by the other's id.
        for (let i = 0; i < part.strips; i++) now.set(`${ids[i]} ${pairsOf(part)[i].split(' – ').length} ${i}`, fade[i])
        const sum = [...now.values()].reduce((a, b) => a + b, 0)
        const sumBefore = [...before.values()].reduce((a, b) => a + b, 0)
        // All together change by no more than each may.
        expect(Math.abs(sum - sumBefore)).toBeLessThanOrEqual(Math.max(now.size, before.size) * (1 / 24 / 0.25) + 1e-3)
        before = now
        shown = Math.max(shown, sum)
      }
      expect(shown).toBeGreaterThan(50)
    }))
  it('by as much as its frames say, among hundreds of which some die and others are born', () => {
    const [distance, most, grow, fade] = [0.12, 3, 1 / 24 / 0.11, 1 / 24 / 0.23]
    const swarm = system({
      life: () => [0.3, 0.25],
      births: [
        {
          ...{ id: 'b', seed: 4, due: () => [{ count: 130, at: 0.0001, spacing: 0.0003 }] },
          params: () => ({ ...point, speed: 1, speedVary: 0.9, spreadTurns: 0.5 }),
        },
      ],
      links: [link(params({ distance, most, fadeIn: 0.11, fadeOut: 0.23 }))],
    })
    return withWorld(one(plan([swarm])), (w) => {
      let links = new Map<number, number>()
      const pair = (id: number, to: number) => id * 1e6 + to
      let [largest, gone] = [0, 0]
      for (let k = 0; k < 16; k++) {
        const f = framesOn(w, 1)
        const ids = pointColumn(points(f), 'id')
        const found = new Set(naiveRows(f, distance, most).map(([i, j]) => pair(ids[i], ids[j])))
        const now = new Map<number, number>()
        for (const key of [...new Set([...links.keys(), ...found])].sort((a, b) => a - b)) {
          const was = links.get(key)
          const next = found.has(key) ? Math.min(1, (was ?? 0) + grow) : (was ?? 0) - fade
          if (next > 1e-6) now.set(key, next)
        }
        const part = strips(f)
        expect([...stripColumn(part, 'id')]).toEqual([...now.keys()].map((key) => Math.floor(key / 1e6)))
        const [shown, expected] = [stripColumn(part, 'fade'), [...now.values()]]
        expect(Math.max(0, ...expected.map((v, i) => Math.abs(v - shown[i])))).toBeLessThan(1e-5)
        links = now
        largest = Math.max(largest, points(f).count)
        gone += [...now.keys()].filter((key) => !ids.includes(Math.floor(key / 1e6))).length
      }
      // Several runs of links, and some of particles that are no more.
      expect(largest).toBeGreaterThan(800)
      expect(gone).toBeGreaterThan(100)
    })
  })
  it('fades where its end was when that dies', () =>
    withWorld(one(plan([cloud([link(params({ distance: 0.4, fadeOut: 0.25 }))], { life: 0.5 })])), (w) => {
      const alive = strips(framesOn(w, 11)).strips
      const gone = framesOn(w, 3)
      expect(points(gone).count).toBe(0)
      const part = strips(gone)
      expect(part.strips).toBeGreaterThan(alive * 0.5)
      expect(stripPoints(part, 'px').every(Number.isFinite)).toBe(true)
      for (const f of stripColumn(part, 'fade')) expect(f).toBeLessThan(1)
      expect(strips(framesOn(w, 6)).strips).toBe(0)
    }))
  it('holds while it is stretched, up to a share of its length', async () => {
    // Made in the middle of a second, from a cloud that spreads evenly: at its end all are twice as far apart.
    const made = (stretch: number | null) => {
      const p = params({ most: 16, stretch })
      return link(p, { params: (t) => ({ ...p, distance: t < 0.49 ? 0 : 0.2 }) })
    }
    const longest = (stretch: number | null) =>
      withWorld(one(plan([cloud([made(stretch)], { burst: 60 })])), (w) => {
        const part = strips(framesOn(w, 24))
        const metres = [...stripPoints(part, 'metres')]
        return Math.max(0, ...metres)
      })
    expect(await longest(null)).toBeLessThanOrEqual(0.2001)
    const held = await longest(1)
    expect(held).toBeGreaterThan(0.25)
    expect(held).toBeLessThanOrEqual(0.4001)
  })
  it('is left out at a glitch, others at each beat', () =>
    withWorld(plan([cloud([link(params({ distance: 0.5, most: 12, glitch: { share: 0.3, rate: 12 } }))], { burst: 600 })]), (w) => {
      const out = (f: Frame) => {
        const fade = stripColumn(strips(f), 'fade')
        return fade.filter((v) => v === 0).length / fade.length
      }
      const f = framesOn(w, 12)
      expect(strips(f).strips).toBeGreaterThan(800)
      expect(out(f)).toBeGreaterThan(0.25)
      expect(out(f)).toBeLessThan(0.35)
    }))
})
describe('one result', () => {
  const busy = plan([
    system({
      life: () => [0.4, 0.3],
      forces: [gravity()],
      births: [
        {
          id: 'b',
          seed: 4,
          due: () => [{ count: 60, at: 0.0001, spacing: 0.0003 }],
          params: () => ({ ...point, speed: 2, speedVary: 1, spreadTurns: 0.4 }),
        },
      ],
      links: [
        link(params({ distance: 0.15, fadeIn: 0.1, fadeOut: 0.2, stretch: 0.5 })),
        link(params({ distance: 0.1 }), { id: 'few', share: 0.3 }),
      ],
    }),
  ])
  const marks = (threads: number) => withWorld(busy, (w) => Array.from({ length: 14 }, () => frameMark(framesOn(w, 1))), threads)
  it('at 1, 2 and 4 threads, and from any saved state', async () => {
    const whole = await marks(1)
    expect(new Set(whole).size).toBe(14)
    expect(await marks(2)).toEqual(whole)
    expect(await marks(4)).toEqual(whole)
    await withWorld(busy, (w) => {
      const saved = Array.from({ length: 14 }, () => {
        const s = w.save()
        w.step()
        return s
      })
      for (const k of [13, 2, 8]) {
        w.restore(saved[k])
        expect(frameMark(framesOn(w, 1))).toBe(whole[k])
      }
    })
  })
})
