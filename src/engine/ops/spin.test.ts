import { describe, expect, it } from 'vitest'
import { encodeSpin, frameMark, type PlanSystem, pointColumn, rotationOf, TURN_COLUMNS, type World } from '..'
import { framesOn, gravity, plan, points, system, withWorld } from '../testing/plans'
import type { V } from '../testing/start'

type Spin = Parameters<typeof encodeSpin>[1]
const free: Spin = { speed: 0, vary: 0, axis: null, halvingS: Number.POSITIVE_INFINITY, heads: null, flat: 0 }
const turning = (p: Partial<Spin>, o: Parameters<typeof system>[0] = {}): PlanSystem =>
  system({
    burst: 200,
    extraColumns: TURN_COLUMNS,
    ...o,
    forces: [...(o.forces ?? []), { id: 'spin', encode: (w) => encodeSpin(w, { ...free, ...p }, 5) }],
  })
/** Rows of each particle's rotation. */
const rotations = (w: World): V[][] => {
  const part = points(w.capture())
  const [x, y, z, q] = (['qx', 'qy', 'qz', 'qw'] as const).map((c) => pointColumn(part, c))
  return [...x].map((_, i) => rotationOf([x[i], y[i], z[i], q[i]]) as V[])
}
const axis = (r: V[], k: number): V => [r[0][k], r[1][k], r[2][k]]
const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]

describe('particles that are turned', () => {
  it('lie in any way, evenly, of unit length, and stay so without a spin', async () => {
    await withWorld(plan([turning({}, { burst: 4000 })]), (w) => {
      framesOn(w, 1)
      const first = rotations(w)
      for (const k of [0, 1, 2]) {
        const mean = first.reduce((s, r) => s.map((v, a) => v + axis(r, k)[a] / first.length), [0, 0, 0])
        for (const v of mean) expect(Math.abs(v)).toBeLessThan(0.04)
        expect(first.reduce((s, r) => s + axis(r, k)[1] ** 2, 0) / first.length).toBeCloseTo(1 / 3, 1)
      }
      for (const r of first.slice(0, 100)) expect(dot(axis(r, 0), axis(r, 0))).toBeCloseTo(1, 5)
      framesOn(w, 24)
      rotations(w)
        .slice(0, 100)
        .forEach((r, i) => expect(dot(axis(r, 0), axis(first[i], 0))).toBeCloseTo(1, 5))
    })
  })
  it('rotate about one axis as fast as their spin, and half as fast after the halving time', async () => {
    const turned = async (p: Partial<Spin>, frames: number) =>
      withWorld(plan([turning({ axis: [0, 0, 1], ...p })], [], { substeps: 8 }), (w) => {
        framesOn(w, 1)
        const a = rotations(w)[0]
        framesOn(w, frames)
        const b = rotations(w)[0]
        // How far what lay across the axis has come round.
        const flat = (r: V[]) => [axis(r, 0)[0], axis(r, 0)[1]]
        const [p0, q] = [flat(a), flat(b)]
        return Math.atan2(p0[0] * q[1] - p0[1] * q[0], p0[0] * q[0] + p0[1] * q[1])
      })
    expect(await turned({ speed: 2 }, 24)).toBeCloseTo(2, 2)
    expect(await turned({ speed: -1 }, 24)).toBeCloseTo(-1, 2)
    // The whole angle of a spin that halves in 1 s: what is left after 1/24 s, times (1 − 1/2) / ln 2.
    expect(await turned({ speed: 2, halvingS: 1 }, 24)).toBeCloseTo((2 * 2 ** (-1 / 24) * 0.5) / Math.LN2, 1)
  })
  it('differ by their ± and by their own axes', async () => {
    await withWorld(plan([turning({ speed: 3, vary: 1 })], [], { substeps: 4 }), (w) => {
      framesOn(w, 1)
      const a = rotations(w)
      framesOn(w, 4)
      const angles = rotations(w).map(
        (r, i) =>
          Math.acos(
            Math.min(1, (dot(axis(r, 0), axis(a[i], 0)) + dot(axis(r, 1), axis(a[i], 1)) + dot(axis(r, 2), axis(a[i], 2)) - 1) / 2),
          ) * 6,
      )
      expect(Math.min(...angles)).toBeGreaterThan(1.95)
      expect(Math.max(...angles)).toBeLessThan(4.05)
      expect(Math.max(...angles) - Math.min(...angles)).toBeGreaterThan(1.8)
    })
  })
  it('head where they fly, at once or within a response, also from right against it', async () => {
    for (const [response, minimum] of [
      [0, 0.9999],
      [0.2, 0.9],
    ]) {
      await withWorld(plan([turning({ heads: response }, { birth: { direction: [0.6, 0.8, 0], speed: 3 } })]), (w) => {
        framesOn(w, 16)
        for (const r of rotations(w)) expect(dot(axis(r, 0), [0.6, 0.8, 0])).toBeGreaterThan(minimum)
      })
    }
  })
  it('flat ones are held back across their flat side alone: they glide', async () => {
    await withWorld(plan([turning({ flat: 1e5 }, { forces: [gravity(-10)] })], [], { substeps: 8 }), (w) => {
      const f = framesOn(w, 24)
      const part = points(f)
      const [vx, vy, vz] = (['vx', 'vy', 'vz'] as const).map((c) => pointColumn(part, c))
      rotations(w).forEach((r, i) => {
        const n = axis(r, 1)
        // What is left of gravity along the plane of the flake.
        const along = [10 * n[1] * n[0], -10 + 10 * n[1] * n[1], 10 * n[1] * n[2]]
        expect(Math.hypot(vx[i] - along[0], vy[i] - along[1], vz[i] - along[2])).toBeLessThan(0.1)
      })
    })
  })
  it('are the same on three threads, and after going on from a saved state; others have no such columns', async () => {
    const s = turning(
      { speed: 3, vary: 2, halvingS: 2, flat: 3 },
      {
        forces: [gravity()],
        life: () => [0.5, 0.3],
        births: [
          {
            id: 'b',
            seed: 3,
            due: () => [{ count: 300, at: 0.001, spacing: 0.00002 }],
            params: () => ({
              source: -1,
              part: '',
              on: 'point',
              along: 'direction',
              direction: [0, 1, 0],
              spreadTurns: 0.3,
              speed: 2,
              speedVary: 1,
              inherit: 0,
            }),
          },
        ],
      },
    )
    const marks = (w: World) => Array.from({ length: 16 }, () => frameMark(framesOn(w, 1)))
    const one = await withWorld(plan([s]), marks)
    expect(await withWorld(plan([s]), marks, 3)).toEqual(one)
    await withWorld(plan([s]), (w) => {
      framesOn(w, 9)
      const saved = w.save()
      framesOn(w, 3)
      w.restore(saved)
      w.step()
      expect(frameMark(w.capture())).toBe(one[9])
    })
    await withWorld(plan([system()]), (w) => expect(() => pointColumn(points(framesOn(w, 1)), 'qx')).toThrow('have no qx'))
  })
})
