import { describe, expect, it } from 'vitest'
import {
  type BirthParams,
  frameMark,
  type GrowthParams,
  identity,
  type Mesh,
  type Plan,
  partsOf,
  planeMesh,
  stripOffsets,
  stripPoints,
} from '..'
import { growthParams } from '../testing/growths'
import { sphereMesh } from '../testing/meshes'
import { column, framesOn, plan, point, system, withWorld } from '../testing/plans'

const RATE = 24
/** So many births a frame, evenly in time, on what grows over a mesh by itself. */
const made = (
  mesh: Mesh,
  birth: Partial<BirthParams>,
  o: { grows?: Partial<GrowthParams>; each?: number; shape?: (t: number) => Float32Array; grown?: boolean } = {},
): Plan => {
  const each = o.each ?? 8
  const spacing = 1 / RATE / 2 / each
  return {
    ...plan(
      [
        system({
          births: [
            {
              id: 'birth',
              seed: 77,
              due: () => [{ count: each, at: spacing / 2, spacing }],
              params: () => ({ ...point, source: 0, along: 'normal', ...birth }),
            },
          ],
        }),
      ],
      [{ id: 'thing', mesh, endless: false, matrix: (_t, out) => identity(out), shape: o.shape ?? null }],
    ),
    growths: [
      {
        ...{ object: 0, id: 'ivy', name: 'Growth', seed: 4, lift: 0, params: growthParams({ lines: 1, reach: 0.4, ...o.grows }) },
        progress: (t) => (o.grown ? { seconds: 0, share: 1 } : { seconds: t, share: null }),
      },
    ],
  }
}
const places = (names: readonly ('px' | 'py' | 'pz')[], f: Parameters<typeof column>[0]) => names.map((n) => [...column(f, n)])

describe('births on what grows', () => {
  it('at the tip are where it was at the moment of each, and there are none when all has grown', () =>
    withWorld(made(planeMesh(4), { on: 'tips' }), (w) => {
      const f = framesOn(w, 12)
      const [x, , z] = places(['px', 'py', 'pz'], f)
      const ages = column(f, 'age')
      const strip = partsOf(f.parts, 'strips')[0]
      const [sx, sz] = (['px', 'pz'] as const).map((n) => stripPoints(strip, n))
      expect(x.length).toBe(12 * 2 * 8)
      // A straight line at half a metre a second: as far from its beginning as it had come.
      x.forEach((px, i) => {
        const then = 12 / RATE - ages[i]
        expect(Math.hypot(px - sx[0], z[i] - sz[0])).toBeCloseTo(0.5 * then, 3)
      })
      const later = framesOn(w, 24)
      const born = Math.max(...[...column(later, 'age')].map((a) => 36 / RATE - a))
      expect(born).toBeCloseTo(0.8, 1)
      // In the air over the plane by the gap of births.
      for (const y of column(later, 'py')) expect(y).toBeCloseTo(2e-4, 5)
    }))
  it('along the lines are even by length, over all of them', () =>
    withWorld(
      made(sphereMesh(1, 24), { on: 'lines' }, { each: 200, grown: true, grows: { lines: 7, reachVary: 0.25, generations: 2 } }),
      (w) => {
        const f = framesOn(w, 6)
        const [x, y, z] = places(['px', 'py', 'pz'], f)
        const strip = partsOf(f.parts, 'strips')[0]
        const offsets = stripOffsets(strip)
        const [sx, sy, sz, metres] = (['px', 'py', 'pz', 'metres'] as const).map((n) => stripPoints(strip, n))
        const lengths = Array.from({ length: strip.strips }, (_, k) => metres[offsets[k + 1] - 1])
        const all = lengths.reduce((a, b) => a + b, 0)
        const counts = lengths.map(() => 0)
        x.forEach((_, i) => {
          let [best, on] = [9, -1]
          for (let k = 0; k < strip.strips; k++)
            for (let p = offsets[k]; p < offsets[k + 1]; p++) {
              const d = Math.hypot(sx[p] - x[i], sy[p] - y[i], sz[p] - z[i])
              if (d < best) [best, on] = [d, k]
            }
          // Half a piece of line at most, and the gap of births.
          expect(best).toBeLessThan(0.0055)
          counts[on]++
        })
        counts.forEach((n, k) => {
          const share = lengths[k] / all
          expect(Math.abs(n - share * x.length)).toBeLessThan(5 * Math.sqrt(x.length * share) + 3)
        })
      },
    ))
  it('ride along with a mesh that changes shape', () => {
    const mesh = sphereMesh(1, 24)
    const wide = mesh.positions.map((v, i) => (i % 3 === 0 ? v * 2 : v))
    return withWorld(made(mesh, { on: 'lines' }, { grown: true, shape: (t) => (t > 0 ? wide : mesh.positions) }), (w) => {
      framesOn(w, 2)
      const before = w.columnsOf('system')?.count as number
      const f = framesOn(w, 4)
      const [x, y, z] = places(['px', 'py', 'pz'], f)
      for (let i = before; i < x.length; i++) expect(Math.hypot(x[i] / 2, y[i], z[i])).toBeCloseTo(1, 1)
      expect(x.length).toBeGreaterThan(before)
    })
  })
  it('are the same on three threads and from a saved state, and nothing where nothing grows', async () => {
    const p = made(sphereMesh(1, 24), { on: 'tips', speed: 1, spreadTurns: 0.1 }, { grows: { lines: 5, generations: 3 } })
    const whole = await withWorld(p, (w) => frameMark(framesOn(w, 14)))
    expect(await withWorld(p, (w) => frameMark(framesOn(w, 14)), 3)).toBe(whole)
    await withWorld(p, (w) => {
      framesOn(w, 9)
      const s = w.save()
      framesOn(w, 3)
      w.restore(s)
      expect(frameMark(framesOn(w, 5))).toBe(whole)
    })
    await withWorld({ ...p, growths: [] }, (w) => expect(column(framesOn(w, 4), 'px')).toHaveLength(0))
  })
})
