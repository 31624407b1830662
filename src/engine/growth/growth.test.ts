import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import {
  type Frame,
  frameMark,
  identity,
  type Mesh,
  type Plan,
  partsOf,
  planeMesh,
  Run,
  requestStop,
  Stopped,
  type StripsPart,
  stripColumn,
  stripOffsets,
  stripPoints,
} from '..'
import type { GrowthParams } from '../plan'
import { growthParams as params } from '../testing/growths'
import { boxMesh, sphereMesh } from '../testing/meshes'
import { framesOn, marksOf, plan, withWorld } from '../testing/plans'
import type { Grown } from './forest'
import { grow } from './grow'
import { type SurfacePlace, WalkableMesh, Walker } from './walk'

type V3 = [number, number, number]
const far = (a: ArrayLike<number>, b: ArrayLike<number>) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
const placeOf = (surface: WalkableMesh, g: Grown, i: number): V3 =>
  surface.placeOf({ triangle: g.triangles[i], b0: 1 - g.b1[i] - g.b2[i], b1: g.b1[i], b2: g.b2[i] })
const lineOf = (surface: WalkableMesh, g: Grown, k: number): V3[] =>
  Array.from({ length: g.offsets[k + 1] - g.offsets[k] }, (_, i) => placeOf(surface, g, g.offsets[k] + i))

function walk(surface: WalkableMesh, from: SurfacePlace, d: ArrayLike<number>, metres: number) {
  const walker = new Walker(surface)
  walker.start(from, d)
  const on = walker.go(metres)
  return { place: walker.place, direction: [...walker.d], ended: !on }
}
describe('a walk', () => {
  it('is a straight line on a plane, up to its rim', () => {
    const surface = new WalkableMesh(planeMesh(2))
    const from = { triangle: 0, b0: 1 / 3, b1: 1 / 3, b2: 1 / 3 }
    const at = surface.placeOf(from)
    const d = surface.laid(0, [0.3, 0, -0.1])
    const to = walk(surface, from, d, 0.4)
    expect(
      far(
        surface.placeOf(to.place),
        at.map((v, k) => v + d[k] * 0.4),
      ),
    ).toBeLessThan(1e-6)
    expect(walk(surface, from, d, 100).ended).toBe(true)
  })
  it('goes round a box as on its sides laid flat, and comes back', () => {
    const surface = new WalkableMesh(boxMesh([1, 1, 1]))
    const start = { triangle: 0, b0: 0.5, b1: 0.3, b2: 0.2 }
    const n = surface.normal(0)
    // Along a side that runs round: four faces of a metre each.
    const d = surface.laid(0, Math.abs(n[0]) > 0.5 ? [0, 0, 1] : [1, 0, 0])
    const w = walk(surface, start, d, 4)
    expect(w.ended).toBe(false)
    expect(far(surface.placeOf(w.place), surface.placeOf(start))).toBeLessThan(1e-5)
  })
  it('is a great circle on a ball', () => {
    const surface = new WalkableMesh(sphereMesh(1, 96))
    const start = { triangle: 2000, b0: 0.4, b1: 0.3, b2: 0.3 }
    const at = surface.placeOf(start)
    const d = surface.laid(2000, [0.3, 0.8, 0.1])
    const quarter = surface.placeOf(walk(surface, start, d, Math.PI / 2).place)
    expect(far(quarter, d)).toBeLessThan(0.06)
    const round = surface.placeOf(walk(surface, start, d, 2 * Math.PI).place)
    expect(far(round, at)).toBeLessThan(0.12)
  })
  it('never leaves the surface, whatever the way (property)', () => {
    const surface = new WalkableMesh(sphereMesh(0.5, 12))
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: surface.triangles - 1 }),
        fc.double({ min: 0.01, max: 0.98, noNaN: true }),
        fc.double({ min: 0.01, max: 0.98, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 20, noNaN: true }),
        (triangle, u, v, turn, metres) => {
          const [b1, b2] = u + v > 0.99 ? [(u / (u + v)) * 0.99, (v / (u + v)) * 0.99] : [u, v]
          const turner = new Walker(surface)
          turner.start({ triangle, b0: 1, b1: 0, b2: 0 }, surface.laid(triangle, [1, 0.3, 0.2]))
          turner.turn(turn)
          const d = [...turner.d]
          const w = walk(surface, { triangle, b0: 1 - b1 - b2, b1, b2 }, d, metres)
          expect(w.place.b0 + w.place.b1 + w.place.b2).toBeCloseTo(1, 9)
          for (const b of [w.place.b0, w.place.b1, w.place.b2]) expect(b).toBeGreaterThan(-1e-6)
          const [x, y, z] = w.direction
          expect(Math.hypot(x, y, z)).toBeCloseTo(1, 6)
        },
      ),
      { numRuns: 300 },
    )
  })
})
describe('growth', () => {
  const ball = new WalkableMesh(sphereMesh(1, 48))
  it('reaches as far as it should, at its speed', () => {
    const g = grow(ball, params({ lines: 20, reach: 0.8, reachVary: 0.3 }), 5)
    const reaches = Array.from({ length: 20 }, (_, k) => g.metres[g.offsets[k + 1] - 1])
    expect(Math.min(...reaches)).toBeGreaterThan(0.499)
    expect(Math.max(...reaches)).toBeLessThan(1.101)
    expect(Math.max(...reaches) - Math.min(...reaches)).toBeGreaterThan(0.3)
    for (let k = 0; k < 20; k++) {
      const line = lineOf(ball, g, k)
      const length = line.slice(1).reduce((s, p, i) => s + far(p, line[i]), 0)
      expect(length).toBeCloseTo(reaches[k], 2)
      expect(g.times[g.offsets[k + 1] - 1]).toBeCloseTo(reaches[k] / 0.5, 4)
    }
  })
  it('curls by so much on the metre', () => {
    const plane = new WalkableMesh(planeMesh(20))
    const g = grow(plane, params({ lines: 1, reach: 1, curl: 90, near: { place: [0, 0, 0], radius: 0 } }), 3)
    const line = lineOf(plane, g, 0)
    const way = (a: V3, b: V3) => Math.atan2(b[2] - a[2], b[0] - a[0])
    const turn = way(line[line.length - 2], line[line.length - 1]) - way(line[0], line[1])
    const degrees = (((turn * 180) / Math.PI + 540) % 360) - 180
    expect(Math.abs(degrees)).toBeGreaterThan(87)
    expect(Math.abs(degrees)).toBeLessThan(92)
  })
  it('forks reach by a curve along their line, as an ellipse, or all the same', () => {
    const plane = new WalkableMesh(planeMesh(40))
    const forked = (along: GrowthParams['along']) => {
      const one = {
        lines: 1,
        reach: 2,
        generations: 2,
        spacing: 0.1,
        childReach: 0.3,
        meets: 0,
        near: { place: [0, 0, 0] as V3, radius: 0 },
      }
      const g = grow(plane, params({ ...one, along }), 3)
      return Array.from({ length: g.generations.length - 1 }, (_, k) => g.metres[g.offsets[k + 2] - 1] / 0.6)
    }
    const at = (k: number) => (0.1 * (k + 1)) / 2
    const curve = forked([0, 1, 0.5])
    expect(curve).toHaveLength(19)
    curve.forEach((r, k) => expect(r).toBeCloseTo(at(k) < 0.5 ? at(k) * 2 : 1 - (at(k) - 0.5), 1))
    forked('ellipse').forEach((r, k) => expect(r).toBeCloseTo(Math.sqrt(1 - at(k) ** 2), 1))
    for (const r of forked(null)) expect(r).toBeCloseTo(1, 1)
  })
  it('forks at its spacing and angle, to both sides by turns, a share of its length', () => {
    const plane = new WalkableMesh(planeMesh(40))
    const g = grow(
      plane,
      params({ lines: 1, reach: 1, generations: 2, spacing: 0.1, angle: 40, childReach: 0.3, near: { place: [0, 0, 0], radius: 0 } }),
      3,
    )
    const forks = Array.from({ length: g.generations.length - 1 }, (_, k) => k + 1)
    expect(forks.length).toBeGreaterThanOrEqual(9)
    const [base] = [lineOf(plane, g, 0)]
    const ahead = base[base.length - 1].map((v, k) => v - base[0][k])
    const sides = forks.map((k) => {
      const line = lineOf(plane, g, k)
      const d = line[line.length - 1].map((v, a) => v - line[0][a])
      const cos = (d[0] * ahead[0] + d[2] * ahead[2]) / (Math.hypot(d[0], d[2]) * Math.hypot(ahead[0], ahead[2]))
      expect((Math.acos(cos) * 180) / Math.PI).toBeCloseTo(40, 1)
      expect(g.metres[g.offsets[k + 1] - 1]).toBeCloseTo(0.3, 2)
      // It begins when the tip comes by.
      expect(g.times[g.offsets[k]]).toBeCloseTo(far(line[0], base[0]) / 0.5, 2)
      return Math.sign(d[0] * ahead[2] - d[2] * ahead[0])
    })
    for (let k = 1; k < sides.length; k++) expect(sides[k]).toBe(-sides[k - 1])
  })
  it('ends where it meets another line', () => {
    const crowded = (meets: number) => grow(ball, params({ lines: 60, reach: 3, generations: 1, meets }), 7)
    const total = (g: Grown) => Array.from(g.generations, (_, k) => g.metres[g.offsets[k + 1] - 1]).reduce((a, b) => a + b, 0)
    const free = total(crowded(0))
    expect(free).toBeCloseTo(60 * 3, 0)
    expect(total(crowded(1))).toBeLessThan(free * 0.5)
  })
  it('begins by the amounts of a region, and ends at its edge', () => {
    // From nothing below to all above.
    const amounts = Float32Array.from({ length: ball.mesh.positions.length / 3 }, (_, i) => (ball.mesh.positions[i * 3 + 1] + 1) / 2)
    const g = grow(ball, params({ lines: 600, reach: 0.6, wander: 90, generations: 2 }), 5, { amounts, edge: 0.4 })
    // An expectation for each of 130,000 would take longer than the growth.
    expect(Array.from(g.triangles).findIndex((_, i) => !((placeOf(ball, g, i)[1] + 1) / 2 > 0.399))).toBe(-1)
    const first = Array.from({ length: g.generations.length }, (_, k) => k).filter((k) => g.generations[k] === 0)
    expect(first.length).toBe(600)
    // Height over a ball is even by area; by an amount h that rises with it the mean of those that begin over 0.4 is ∫h²/∫h.
    const mean = first.reduce((sum, k) => sum + (placeOf(ball, g, g.offsets[k])[1] + 1) / 2, 0) / first.length
    expect(Math.abs(mean - (1 - 0.4 ** 3) / 3 / ((1 - 0.4 ** 2) / 2))).toBeLessThan(0.03)
    const none = grow(ball, params({ lines: 20 }), 5, { amounts: amounts.map(() => 0), edge: 0.4 })
    expect(none.generations.length).toBe(0)
    const all = grow(ball, params({ lines: 20 }), 5, { amounts: amounts.map(() => 1), edge: 0.4 })
    expect(all.generations.length).toBe(20)
  })
  it('stops with a message before it is too much', () => {
    const g = grow(ball, params({ lines: 400, reach: 20, generations: 6, spacing: 0.02, childReach: 1, forks: 4 }), 7)
    expect(g.stopped).toMatch(/stopped at (500,000 points|200,000 lines), in generation \d of 6.*half as many/)
    expect(g.triangles.length).toBeLessThan(600_000)
  })
})
describe('growth in frames', () => {
  const made = (
    mesh: Mesh,
    o: { progress?: (t: number) => { seconds: number; share: number | null }; shape?: (t: number) => Float32Array } = {},
  ): Plan => ({
    ...plan([], [{ id: 'thing', mesh, endless: false, matrix: (_t, out) => identity(out), shape: o.shape ?? null }]),
    growths: [
      {
        ...{ object: 0, id: 'ivy', name: 'Growth', seed: 4, lift: 0 },
        params: params({ lines: 4, generations: 3, reach: 0.8, spacing: 0.15 }),
        progress: o.progress ?? ((t) => ({ seconds: t, share: null })),
      },
    ],
  })
  const strips = (f: Frame): StripsPart => partsOf(f.parts, 'strips')[0]
  const metresOf = (part: StripsPart) => {
    const [offsets, metres] = [stripOffsets(part), stripPoints(part, 'metres')]
    return Array.from({ length: part.strips }, (_, k) => metres[offsets[k + 1] - 1])
  }
  it('shows what has grown by then, the tip between two points', () =>
    withWorld(made(sphereMesh(1, 24)), (w) => {
      const part = strips(framesOn(w, 12))
      expect([...stripColumn(part, 'phase')].filter((g) => g === 0)).toHaveLength(4)
      // Half a second at half a metre a second.
      for (const [k, m] of metresOf(part).entries()) if (stripColumn(part, 'phase')[k] === 0) expect(m).toBeCloseTo(0.25, 3)
      const along = stripPoints(part, 'along')
      expect(along[stripOffsets(part)[1] - 1]).toBe(0)
      expect(along[0]).toBeCloseTo(0.25 / 0.8, 2)
    }))
  it('follows an amount up and back, the same at the same amount', async () => {
    const share = (t: number) => Math.min(t, 1 - t)
    await withWorld(made(sphereMesh(1, 24), { progress: (t) => ({ seconds: 0, share: share(t) }) }), (w) => {
      const at = (frame: number) => {
        while (w.frame < frame) w.step()
        return w.capture()
      }
      const up = at(8)
      const top = at(12)
      const down = at(16)
      expect(strips(top).points).toBeGreaterThan(strips(up).points)
      expect([...stripPoints(strips(down), 'px')]).toEqual([...stripPoints(strips(up), 'px')])
    })
  })
  it('rides along with a mesh that changes shape', () => {
    const mesh = sphereMesh(1, 24)
    // Twice as wide along x.
    const wide = mesh.positions.map((v, i) => (i % 3 === 0 ? v * 2 : v))
    return withWorld(made(mesh, { shape: (t) => (t > 0 ? wide : mesh.positions) }), (w) => {
      const part = strips(framesOn(w, 24))
      const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => stripPoints(part, n))
      for (let i = 0; i < part.points; i++) {
        const r = Math.hypot(x[i] / 2, y[i], z[i])
        expect(r).toBeLessThan(1.0001)
        expect(r).toBeGreaterThan(0.985)
      }
    })
  })
  it('says its limit from its first step on, though nothing of it is to be seen', () => {
    const hidden = made(sphereMesh(1, 24), { progress: () => ({ seconds: 0, share: 0 }) })
    const [g] = hidden.growths ?? []
    const much = params({ lines: 400, reach: 20, generations: 6, spacing: 0.02, childReach: 1, forks: 4 })
    return withWorld({ ...hidden, growths: [{ ...g, params: much }] }, (w) => {
      const frame = framesOn(w, 2)
      expect(strips(frame).strips).toBe(0)
      expect(w.notices.map((n) => n.message)).toEqual([expect.stringMatching(/^Growth: it stopped at/)])
    })
  })
  it('is stopped in the middle of a step that grows much, and grows the same afterwards', async () => {
    const p = made(sphereMesh(1, 24))
    const much = { ...p, growths: [{ ...(p.growths ?? [])[0], seed: 99 }] }
    const host = await nodeKernels()
    const run = new Run(host, much, { historyBytes: 1 << 26, worldBytes: 1 << 28, now: () => 0 })
    requestStop(host.memory, true)
    expect(() => run.towards(4)).toThrow(Stopped)
    while (run.towards(4)) void 0
    const again = frameMark(run.history.get(4)?.frame as Frame)
    run.dispose()
    expect(await withWorld(much, (w) => frameMark(framesOn(w, 4)))).toBe(again)
  })
  it('is the same on any number of threads and from any state', async () => {
    const p = made(sphereMesh(1, 24))
    const marks = await withWorld(p, (w) => Array.from({ length: 6 }, () => frameMark(framesOn(w, 4))))
    expect(new Set(marks).size).toBe(6)
    expect(await marksOf(p, { last: 24, saved: 8 })).toEqual(Array(3).fill(marks[5]))
  })
})
