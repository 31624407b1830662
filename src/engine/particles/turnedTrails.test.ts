import { describe, expect, it } from 'vitest'
import {
  encodeSpin,
  type Frame,
  type Plan,
  partsOf,
  pointColumn,
  type StripsPart,
  stripOffsets,
  stripPoints,
  stripTints,
  TURN_COLUMNS,
} from '..'
import { framesOn, marksOf, plan, points, type SystemOptions, system, withWorld } from '../testing/plans'

type V3 = [number, number, number]
/** Ten that fly on at 2 m/s, turn about an axis across their way at so many radians a second, and leave trails of half a second. */
const made = (speed: number, o: SystemOptions = {}, turned = true): Plan =>
  plan([
    system({
      ...{ burst: 10, extraColumns: TURN_COLUMNS, birth: { direction: [1, 0, 0], speed: 2 } },
      forces: [
        {
          id: 'spin',
          encode: (w) => encodeSpin(w, { speed, vary: 0, axis: [0, 0, 1], halvingS: Number.POSITIVE_INFINITY, heads: null, flat: 0 }, 5),
        },
      ],
      trails: [
        {
          ...{ id: 'trail', name: 'Trail', seed: 9, share: 1, reachVary: 0, turned },
          params: () => ({ seconds: 0.5, metres: null, tolerance: 0.001, fade: 0.4 }),
        },
      ],
      ...o,
    }),
  ])
const strips = (f: Frame): StripsPart => partsOf(f.parts, 'strips')[0]
const normalsOf = (part: StripsPart, k: number) => {
  const offsets = stripOffsets(part)
  const [x, nx, ny, nz] = (['px', 'nx', 'ny', 'nz'] as const).map((n) => stripPoints(part, n))
  return Array.from({ length: offsets[k + 1] - offsets[k] }, (_, j) => {
    const i = offsets[k] + j
    return { x: x[i], n: [nx[i], ny[i], nz[i]] as V3 }
  })
}
/** The own Y of each particle of a frame. */
const facings = (f: Frame): V3[] => {
  const part = points(f)
  const [x, y, z, w] = (['qx', 'qy', 'qz', 'qw'] as const).map((c) => pointColumn(part, c))
  return Array.from(x, (_, i) => [2 * (x[i] * y[i] - w[i] * z[i]), 1 - 2 * (x[i] ** 2 + z[i] ** 2), 2 * (y[i] * z[i] + w[i] * x[i])])
}
const round = (n: V3, angle: number): V3 => [
  n[0] * Math.cos(angle) - n[1] * Math.sin(angle),
  n[0] * Math.sin(angle) + n[1] * Math.cos(angle),
  n[2],
]
const apart = (a: V3, b: V3) => Math.hypot(...a.map((v, i) => v - b[i]))

describe('points that keep how their particle lay', () => {
  it('have it as it was at their moments, at the tip as it is', () =>
    withWorld(made(7), (w) => {
      const f = framesOn(w, 24)
      const [part, now] = [strips(f), facings(f)]
      const x = pointColumn(points(f), 'px')
      for (let k = 0; k < 10; k++) {
        const line = normalsOf(part, k)
        expect(line.length).toBeGreaterThan(20)
        expect(apart(line[line.length - 1].n, now[k])).toBeLessThan(1e-5)
        // At 2 m/s its place says when it was there.
        for (const { x: at, n } of line) expect(apart(n, round(now[k], (-7 * (x[k] - at)) / 2))).toBeLessThan(0.03)
      }
    }))
  it('keep it when their particle is gone, with tints and rings that grow', () =>
    withWorld(made(7, { life: () => [0.8, 0], extraColumns: [...TURN_COLUMNS, 'tint'] }), (w) => {
      const before = strips(framesOn(w, 19))
      const tips = Array.from({ length: 10 }, (_, k) => normalsOf(before, k).at(-1)?.n as V3)
      const after = strips(framesOn(w, 5))
      expect(points(w.capture()).count).toBe(0)
      expect(after.strips).toBe(10)
      expect(stripTints(after)).toHaveLength(10)
      for (let k = 0; k < 10; k++) {
        const line = normalsOf(after, k)
        expect(line.length).toBeGreaterThan(10)
        for (const { n } of line) expect(Math.hypot(...n)).toBeCloseTo(1, 2)
        // It died a few hundredths of a second after the last picture of it.
        expect(apart(line[line.length - 1].n, tips[k])).toBeLessThan(0.4)
      }
    }))
  it('are the same on three threads and from a saved state, and those of particles without a way to lie have none', async () => {
    expect(new Set(await marksOf(made(3), { last: 24, saved: 12 })).size).toBe(1)
    const bare = made(3, { extraColumns: [], forces: [] })
    await withWorld(bare, (w) => expect(strips(framesOn(w, 6)).turned).toBe(undefined))
    await withWorld(made(3, {}, false), (w) => expect(strips(framesOn(w, 6)).turned).toBe(undefined))
  })
})
