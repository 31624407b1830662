import { describe, expect, it } from 'vitest'
import { type BirthParams, compose, identity, latticeSites, type Matrix, multiply, type PlanObject, stretched, stretchOf } from '..'
import { boxMesh } from '../testing/meshes'
import { column, framesOn, plan, point, still, system, withWorld } from '../testing/plans'

const born = (object: PlanObject, burst: number, birth: Partial<BirthParams>, substeps = 1) =>
  withWorld(plan([system({ burst, birth: { ...point, source: 0, ...birth } })], [object], { substeps }), (w) => {
    const f = framesOn(w, 1)
    const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => column(f, n))
    return Array.from(x, (v, i) => [v, y[i], z[i]] as [number, number, number])
  })
const placed = (m: Matrix): PlanObject => ({ ...still(boxMesh([1, 1, 1])), matrix: (_t, out) => multiply(m, identity(), out) })
const within = (got: number, wanted: number) => expect(Math.abs(got - wanted), `${got} of ${wanted}`).toBeLessThan(5 * Math.sqrt(wanted))

describe('births on what is scaled unevenly', () => {
  const cases: [string, Matrix][] = [
    ['by its own scale', compose([0, 0, 0], [0, 0, 0], [1, 5, 1])],
    ['by that of a parent', multiply(compose([0, 0, 0], [0, 0, 0], [1, 5, 1]), compose([0, 0, 0], [0, 90, 0], [1, 1, 1]))],
    ['and turned', multiply(compose([0, 0, 0], [0, 0, 0], [1, 5, 1]), compose([0, 0, 0], [0, 0, 0], [2, 2, 2]))],
  ]
  it.each(cases)('are even by the area in the shot, %s', async (_name, m) => {
    const all = await born(placed(m), 22000, { on: 'faces' })
    const half = Math.max(...all.map((p) => Math.abs(p[1])))
    // Sides of 1 × 5, four of them, and top and bottom of 1 × 1.
    within(all.filter((p) => Math.abs(p[1]) > half - 1e-3).length, 2000)
  })
  it('are even by the length of edges in the shot', async () => {
    const all = await born(placed(compose([0, 0, 0], [0, 0, 0], [1, 5, 1])), 20000, { on: 'edges' })
    // Eight edges of 1, four of 5; diagonals of two squares and of four sides.
    const whole = 8 + 20 + 2 * Math.SQRT2 + 4 * Math.sqrt(26)
    const upright = all.filter(
      (p) => Math.abs(Math.abs(p[0]) - 0.5) < 2e-3 && Math.abs(Math.abs(p[2]) - 0.5) < 2e-3 && Math.abs(p[1]) < 2.49,
    )
    within(upright.length, (20000 * 20) / whole)
  })
  it('a stretch is that of lengths, whatever the rotation', () => {
    const m = multiply(compose([3, 1, 2], [20, 130, -40], [1, 1, 1]), compose([0, 0, 0], [10, 20, 30], [0.5, 3, 1]))
    const s = stretchOf(m)
    const long = (v: number[]) => Math.hypot(...[0, 4, 8].map((r) => m[r] * v[0] + m[r + 1] * v[1] + m[r + 2] * v[2]))
    const unit = long([1, 0, 0]) / stretched(s, 1, 0, 0)
    for (const v of [
      [0, 1, 0],
      [0, 0, 1],
      [1, -2, 0.5],
    ])
      expect((stretched(s, v[0], v[1], v[2]) * unit) / long(v)).toBeCloseTo(1, 3)
    expect(stretchOf(compose([1, 2, 3], [10, 20, 30], [4, 4, 4]))).toBeNull()
  })
})
it('births of a turning source lie on its circle, not on the chord of a substep', async () => {
  // A quarter of a turn within one frame.
  const arm: PlanObject = {
    ...still(boxMesh([1, 1, 1])),
    matrix: (t, out) => multiply(compose([0, 0, 0], [0, 90 * 24 * t, 0], [1, 1, 1]), compose([0, 0, 0], [0, 0, 0], [1, 1, 1]), out),
  }
  const all = await withWorld(
    plan(
      [
        system({
          births: [
            {
              id: 'birth',
              seed: 7,
              due: (t0) => (t0 === 0 ? [{ count: 64, at: 0, spacing: 1 / 24 / 64 }] : []),
              params: () => ({ ...point, source: 0, on: 'vertices', along: 'normal', speed: 0 }),
            },
          ],
        }),
      ],
      [arm],
      { substeps: 1 },
    ),
    (w) => {
      const f = framesOn(w, 1)
      return Array.from(column(f, 'px'), (x, i) => Math.hypot(x, column(f, 'pz')[i]))
    },
  )
  for (const r of all) expect(Math.abs(r - Math.SQRT1_2)).toBeLessThan(5e-4)
})
it('a lattice has as many points on one side as on the other, and all rows that fit', () => {
  for (const spacing of [0.1, 0.05, 1 / 3]) {
    const inside = (x: number, y: number, z: number) => Math.max(Math.abs(x), Math.abs(y), Math.abs(z)) < 0.5
    const found = latticeSites({ min: [-0.5, -0.5, -0.5], max: [0.5, 0.5, 0.5] }, Math.fround(spacing), inside)
    const rows = Math.round(1 / spacing) + 1
    expect(found?.positions.length).toBe(rows ** 3 * 3)
    const sum = [0, 0, 0]
    found?.positions.forEach((v, i) => {
      sum[i % 3] += v
    })
    for (const s of sum) expect(Math.abs(s)).toBeLessThan(1e-3)
  }
})
