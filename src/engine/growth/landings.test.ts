import { describe, expect, it } from 'vitest'
import {
  type BirthParams,
  type Frame,
  frameMark,
  type GrowthParams,
  identity,
  type Matrix,
  type Mesh,
  type Plan,
  type PlanGrowth,
  partsOf,
  planeMesh,
  type StripsPart,
  stripOffsets,
  stripPoints,
} from '..'
import { growthParams } from '../testing/growths'
import { sphereMesh } from '../testing/meshes'
import { bounce, column, framesOn, marksOf, plan, type SystemOptions, system, withWorld } from '../testing/plans'

type V3 = [number, number, number]
const high = (y: number) => (_t: number, out: Matrix) => {
  identity(out)
  out[7] = y
  return out
}
/** Particles leave a plate of a metre at a height of one, downwards at 2 m/s, and go through what is below; where they come near, lines begin. */
const made = (
  mesh: Mesh,
  o: {
    birth?: Partial<BirthParams>
    system?: SystemOptions
    grows?: Partial<GrowthParams>
    from?: Partial<NonNullable<PlanGrowth['from']>>
    matrix?: (t: number, out: Matrix) => Matrix
    shape?: (t: number) => Float32Array
    growth?: Partial<PlanGrowth>
  } = {},
): Plan => ({
  ...plan(
    [system({ burst: 12, ...o.system, birth: { source: 1, on: 'faces', direction: [0, -1, 0], speed: 2, ...o.birth } })],
    [
      { id: 'thing', mesh, endless: false, matrix: o.matrix ?? high(0), shape: o.shape ?? null },
      { id: 'plate', mesh: planeMesh(1), endless: false, matrix: high(1) },
    ],
  ),
  growths: [
    {
      ...{ object: 0, id: 'frost', name: 'Growth', seed: 4, lift: 0, params: growthParams({ lines: 50, reach: 0.3, ...o.grows }) },
      from: { system: 0, within: 0.01, ahead: false, ...o.from },
      progress: (t) => ({ seconds: t, share: null }),
      ...o.growth,
    },
  ],
})
const strips = (f: Frame): StripsPart => partsOf(f.parts, 'strips')[0]
/** First points of all lines, and how long these are. */
const linesOf = (part: StripsPart) => {
  const offsets = stripOffsets(part)
  const [x, y, z, metres] = (['px', 'py', 'pz', 'metres'] as const).map((n) => stripPoints(part, n))
  return Array.from({ length: part.strips }, (_, k) => ({
    first: [x[offsets[k]], y[offsets[k]], z[offsets[k]]] as V3,
    last: [x[offsets[k + 1] - 1], y[offsets[k + 1] - 1], z[offsets[k + 1] - 1]] as V3,
    metres: metres[offsets[k + 1] - 1],
  }))
}
const reaches = (f: Frame) => linesOf(strips(f)).map((l) => l.metres)
const near = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, k) => v - b[k]))

describe('growth from particles', () => {
  it('begins a line below each, at the moment at which it comes so near', () =>
    withWorld(made(planeMesh(4)), (w) => {
      // A metre at 2 m/s, less the hundredth, less the hair that births stand off.
      expect(framesOn(w, 11).parts.some((p) => p.kind === 'strips' && p.strips > 0)).toBe(false)
      const f = framesOn(w, 7)
      const lines = linesOf(strips(f))
      expect(lines).toHaveLength(12)
      const [x, z] = [column(f, 'px'), column(f, 'pz')]
      const seconds = 18 / 24 - 0.99 / 2
      for (let i = 0; i < 12; i++) {
        const below = lines.filter((l) => near(l.first, [x[i], 0, z[i]]) < 1e-4)
        expect(below).toHaveLength(1)
        expect(below[0].metres).toBeCloseTo(0.5 * seconds, 3)
        expect(near(below[0].last, below[0].first)).toBeCloseTo(0.5 * seconds, 3)
      }
    }))
  it('misses nobody who is fast, or dies or turns back at the surface', () =>
    withWorld(
      made(planeMesh(4), {
        birth: { speed: 20 },
        system: { contacts: [{ ...bounce(0.5), params: () => ({ ...bounce(0.5).params(0), mode: 'die' }) }] },
      }),
      (w) => {
        const f = framesOn(w, 2)
        expect(column(f, 'px')).toHaveLength(0)
        expect(linesOf(strips(f))).toHaveLength(12)
      },
    ))
  it('has no more lines than it may, and each particle begins one, also when it comes back', async () => {
    await withWorld(made(planeMesh(4), { grows: { lines: 5 } }), (w) => expect(linesOf(strips(framesOn(w, 20)))).toHaveLength(5))
    const hops = { contacts: [bounce(1)], forces: [] }
    await withWorld(made(planeMesh(4), { system: { ...hops, birth: { on: 'point', source: 1 } } }), (w) =>
      expect(linesOf(strips(framesOn(w, 40)))).toHaveLength(12),
    )
  })
  it('sets out as they flew', () =>
    withWorld(made(planeMesh(8), { birth: { direction: [0.8, -0.6, 0] }, from: { ahead: true } }), (w) => {
      const lines = linesOf(strips(framesOn(w, 40)))
      expect(lines).toHaveLength(12)
      for (const { first, last, metres } of lines) {
        expect(last[0] - first[0]).toBeCloseTo(metres, 3)
        expect(last[2] - first[2]).toBeCloseTo(0, 3)
      }
    }))
  it('begins where the surface is then, and rides along', () => {
    const mesh = sphereMesh(0.5, 32)
    const wide = (t: number) => mesh.positions.map((v, i) => (i % 3 === 1 ? v * (1 + t) : v))
    // Twice as far from the middle in one second, along y: at 2 m/s from 1 m down, 1 − 2 t = 0.5 (1 + t) under the middle.
    return withWorld(made(mesh, { shape: wide, system: { burst: 1 }, birth: { on: 'point' } }), (w) => {
      const t = 0.5 / 2.5
      const f = framesOn(w, 18)
      const [line] = linesOf(strips(f))
      // At the top of what is by then 1.75 times as high.
      expect(line.first[1]).toBeCloseTo(0.5 * 1.75, 2)
      expect(line.metres).toBeCloseTo(0.5 * (18 / 24 - t), 2)
    })
  })
  it('begins where a system has its particles that is moved as one, and later where its time is slow', async () => {
    const aside = (t: number, out: Matrix) => {
      identity(out)
      out[3] = 0.3 + t
      return out
    }
    await withWorld(made(planeMesh(8), { system: { space: aside } }), (w) => {
      const f = framesOn(w, 18)
      const [x, z] = [column(f, 'px'), column(f, 'pz')]
      const lines = linesOf(strips(f))
      expect(lines).toHaveLength(12)
      // In its own space they fell straight down, and it had gone on by as much when they landed.
      for (let i = 0; i < 12; i++) expect(lines.some((l) => near(l.first, [x[i] + 0.3 + 0.99 / 2, 0, z[i]]) < 1e-3)).toBe(true)
    })
    const slow = made(planeMesh(4), { system: { timeScale: () => 0.5 } })
    await withWorld(slow, (w) => {
      expect(partsOf(framesOn(w, 23).parts, 'strips').every((p) => p.strips === 0)).toBe(true)
      expect(reaches(framesOn(w, 7))).toEqual(Array(12).fill(expect.closeTo(0.5 * (30 / 24 - 0.99), 2)))
    })
  })
  it('begins only where the region is, and reaches by it', () => {
    const mesh = planeMesh(4)
    const half = Float32Array.from({ length: mesh.positions.length / 3 }, () => 0.5)
    const region = (amount: Float32Array, reach: number) => ({ growth: { region: { amounts: () => amount, edge: 0.3, reach } } })
    return Promise.all([
      withWorld(made(mesh, region(half, 1)), (w) => {
        expect(reaches(framesOn(w, 60))).toEqual(Array(12).fill(expect.closeTo(0.15, 4)))
      }),
      withWorld(made(mesh, region(half, 0.5)), (w) => {
        expect(reaches(framesOn(w, 60))).toEqual(Array(12).fill(expect.closeTo(0.225, 4)))
      }),
      withWorld(
        made(
          mesh,
          region(
            half.map(() => 0.2),
            1,
          ),
        ),
        (w) => expect(partsOf(framesOn(w, 60).parts, 'strips').every((p) => p.strips === 0)).toBe(true),
      ),
    ])
  })
  it('by an amount shows so much of those that have begun', () =>
    withWorld(made(planeMesh(4), { growth: { progress: () => ({ seconds: 0, share: 0.5 }) } }), (w) => {
      expect(partsOf(framesOn(w, 11).parts, 'strips').every((p) => p.strips === 0)).toBe(true)
      expect(reaches(framesOn(w, 4))).toEqual(Array(12).fill(expect.closeTo(0.15, 4)))
    }))
  it('is the same on any number of threads and from any state, and what comes later changes nothing of what is there', async () => {
    const rain: SystemOptions = {
      births: [
        {
          ...{ id: 'birth', seed: 77, due: () => [{ count: 3, at: 0, spacing: 0 }] },
          params: () => ({
            ...{ source: 1, part: '', on: 'faces', along: 'direction', direction: [0, -1, 0], spreadTurns: 0.1 },
            ...{ speed: 4, speedVary: 1, inherit: 0 },
          }),
        },
      ],
    }
    const p = made(sphereMesh(0.5, 24), { system: rain, grows: { lines: 4000, generations: 3, meets: 1, wander: 60, reach: 0.2 } })
    const marks = await withWorld(p, (w) => Array.from({ length: 5 }, () => frameMark(framesOn(w, 6))))
    expect(new Set(marks).size).toBe(5)
    expect(await marksOf(p, { last: 30, saved: 12 })).toEqual(Array(3).fill(marks[4]))
    await withWorld(p, (w) => {
      const [a, b] = [linesOf(strips(framesOn(w, 14))), linesOf(strips(framesOn(w, 10)))]
      expect(a.length).toBeGreaterThan(5)
      expect(b.length).toBeGreaterThan(a.length)
      for (const l of a) expect(b.some((m) => near(l.first, m.first) < 1e-6 && m.metres >= l.metres - 1e-6)).toBe(true)
    })
  })
})
