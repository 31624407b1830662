import { describe, expect, it } from 'vitest'
import { type ContactPlan, cone, frameMark, MEET_COLUMNS, type MeetParams, type PlanSystem, type World } from '..'
import { bounce, framesOn, gravity, still } from '../testing/plans'
import { allIn, away, chance, length, placeIn, runFrom, speedIn, type V } from '../testing/start'

const meeting = (p: Partial<MeetParams> = {}, contacts: ContactPlan[] = []): Partial<PlanSystem> => ({
  extraColumns: MEET_COLUMNS,
  contacts,
  meet: { seed: 3, params: () => ({ radius: 0.05, radiusVary: 0, restitution: 0, friction: 0, rounds: 6, ...p }) },
})
const P: ['px', 'py', 'pz'] = ['px', 'py', 'pz']
const VV: ['vx', 'vy', 'vz'] = ['vx', 'vy', 'vz']
const momentum = (w: World) => [0, 1, 2].map((a) => allIn(w, VV).reduce((s, v) => s + v[a], 0))
/** How far the nearest two are apart, in diameters. */
const closest = (p: V[], radius: number) => {
  let minimum = Number.POSITIVE_INFINITY
  const sorted = p.map((q) => q).sort((a, b) => a[0] - b[0])
  sorted.forEach((q, i) => {
    for (let j = i + 1; j < sorted.length && sorted[j][0] - q[0] < 2 * radius; j++) minimum = Math.min(minimum, away(q, sorted[j]))
  })
  return minimum / (2 * radius)
}

describe('two balls', () => {
  it.each([0, 0.5, 1])('head on they give back their share %f of the speed, and no momentum is lost', async (restitution) => {
    await runFrom(
      [
        { p: [-0.3, 0, 0], v: [1, 0, 0] },
        { p: [0.3, 0, 0], v: [-1, 0, 0] },
      ],
      meeting({ restitution }),
      (w) => {
        framesOn(w, 24)
        expect(speedIn(w, 0)[0]).toBeCloseTo(-restitution, 2)
        expect(speedIn(w, 1)[0]).toBeCloseTo(restitution, 2)
        expect(away(placeIn(w, 0), placeIn(w, 1))).toBeGreaterThan(0.0999)
      },
      { substeps: 4 },
    )
  })
  it('a moving one hands all it has to one at rest, as equal masses do', async () => {
    await runFrom(
      [{ p: [-0.3, 0, 0], v: [1, 0, 0] }, { p: [0, 0, 0] }],
      meeting({ restitution: 1 }),
      (w) => {
        framesOn(w, 24)
        expect(speedIn(w, 0)[0]).toBeCloseTo(0, 2)
        expect(speedIn(w, 1)[0]).toBeCloseTo(1, 2)
      },
      { substeps: 8 },
    )
  })
  it('two at one place go apart without flying off', async () => {
    await runFrom(
      [{ p: [0, 0, 0] }, { p: [0, 0, 0] }],
      meeting(),
      (w) => {
        framesOn(w, 24)
        expect(away(placeIn(w, 0), placeIn(w, 1))).toBeGreaterThan(0.098)
        expect(length(speedIn(w))).toBeLessThan(0.05)
      },
      { substeps: 2 },
    )
  })
})
describe('many balls', () => {
  const cloud = Array.from({ length: 400 }, (_, i) => ({
    p: [chance(i, 1, -0.4, 0.4), chance(i, 2, -0.4, 0.4), chance(i, 3, -0.4, 0.4)] as V,
    v: [chance(i, 4, -1, 1), chance(i, 5, -1, 1), chance(i, 6, -1, 1)] as V,
  }))
  it('momentum stays, whatever they do to each other', async () => {
    await runFrom(
      cloud,
      meeting({ restitution: 0.7, friction: 0.3 }),
      (w) => {
        const before = momentum(w)
        framesOn(w, 48)
        momentum(w).forEach((m, a) => expect(Math.abs(m - before[a])).toBeLessThan(0.02))
      },
      { substeps: 2 },
    )
  })
  it('energy never grows', async () => {
    await runFrom(
      cloud,
      meeting({ restitution: 1 }),
      (w) => {
        const energy = () => allIn(w, VV).reduce((s, v) => s + v[0] ** 2 + v[1] ** 2 + v[2] ** 2, 0)
        let last = energy()
        for (let k = 0; k < 24; k++) {
          w.step()
          // The first frames push apart what began overlapping, which makes nobody faster.
          expect(energy()).toBeLessThan(last * 1.02)
          last = energy()
        }
      },
      { substeps: 2 },
    )
  })
  it('a tower stands and does not sink in', async () => {
    const tower = Array.from({ length: 8 }, (_, i) => ({ p: [0, 0.05 + i * 0.1, 0] as V }))
    await runFrom(
      tower,
      { ...meeting({ rounds: 24 }, [bounce(0, 0.5)]), forces: [gravity()] },
      (w) => {
        framesOn(w, 72)
        const p = allIn(w, P)
        expect(p[7][1]).toBeGreaterThan(0.69)
        expect(p[7][1]).toBeLessThan(0.76)
        for (const v of allIn(w, VV)) expect(length(v)).toBeLessThan(0.02)
      },
      { substeps: 8 },
      [still(null, true)],
    )
  })
  it('the same bits on one thread and three', async () => {
    const many = Array.from({ length: 3000 }, (_, i) => ({
      p: [chance(i, 1, -0.5, 0.5), chance(i, 2, 0.05, 2), chance(i, 3, -0.5, 0.5)] as V,
    }))
    const mark = (threads: number) =>
      runFrom(
        many,
        { ...meeting({ radius: 0.03, radiusVary: 0.01, restitution: 0.3, friction: 0.3 }, [bounce(0.2, 0.3)]), forces: [gravity()] },
        (w) => frameMark(framesOn(w, 10)),
        { substeps: 2 },
        [still(null, true)],
        threads,
      )
    expect(await mark(3)).toBe(await mark(1))
  })
})
describe('heaps', () => {
  it('balls poured on a floor come to rest in a heap as steep as their friction makes it, without rubbing they spread', async () => {
    const n = 500,
      radius = 0.03
    const start = Array.from({ length: n }, (_, i) => ({ p: [chance(i, 1, -0.2, 0.2), 0.1 + i * 0.003, chance(i, 3, -0.2, 0.2)] as V }))
    const heap = (friction: number) =>
      runFrom(
        start,
        { ...meeting({ radius, friction, rounds: 8 }, [bounce(0, friction)]), forces: [gravity()] },
        (w) => {
          framesOn(w, 150)
          const p = allIn(w, P)
          const v = allIn(w, VV)
            .map(length)
            .sort((a, b) => a - b)
          const wide = p.map((q) => Math.hypot(q[0], q[2])).sort((a, b) => a - b)[Math.floor(n * 0.9)]
          const high = p.map((q) => q[1]).sort((a, b) => b - a)[5]
          // Nine tenths of a cone lie within four fifths of its rim.
          expect(Math.min(...p.map((q) => q[1]))).toBeGreaterThan(radius * 0.99)
          return { slope: (Math.atan2(high, wide / 0.8) * 180) / Math.PI, v: v[Math.floor(n * 0.95)] }
        },
        { substeps: 4 },
        [still(null, true)],
      )
    const [rough, smooth] = [await heap(0.6), await heap(0)]
    expect(rough.slope).toBeGreaterThan(18)
    expect(rough.slope).toBeLessThan(50)
    expect(smooth.slope).toBeLessThan(rough.slope / 2)
    expect(rough.v).toBeLessThan(0.05)
  })
  it('fill a bowl and rest in it, none outside and none far inside another', async () => {
    // An open cone, standing on its tip.
    const radius = 0.05,
      n = 200
    const whole = cone(0.9, 0, 1.2, 24)
    const side = { ...whole, indices: whole.indices.slice(0, whole.parts[0].triangleCount * 3), parts: [] }
    const bowl = {
      ...still(side),
      sides: 'both' as const,
      matrix: (_t: number, out: Float64Array) => {
        out.set([1, 0, 0, 0, 0, -1, 0, 0.6, 0, 0, 1, 0])
        return out
      },
    }
    const start = Array.from({ length: n }, (_, i) => ({ p: [chance(i, 1, -0.4, 0.4), 0.4 + i * 0.004, chance(i, 3, -0.4, 0.4)] as V }))
    await runFrom(
      start,
      { ...meeting({ radius, friction: 0.2, rounds: 12 }, [bounce(0, 0.2)]), forces: [gravity()] },
      (w) => {
        framesOn(w, 160)
        const p = allIn(w, P)
        expect(Math.min(...p.map((q) => q[1]))).toBeGreaterThan(-0.6)
        expect(Math.max(...p.map((q) => Math.hypot(q[0], q[2])))).toBeLessThan(0.9)
        expect(closest(p, radius)).toBeGreaterThan(0.85)
        const v = allIn(w, VV)
          .map(length)
          .sort((a, b) => a - b)
        expect(v[Math.floor(n * 0.95)]).toBeLessThan(0.05)
      },
      { substeps: 4 },
      [bowl],
    )
  })
  it('2,400 fill a bowl and come to rest', async () => {
    const radius = 0.0232,
      n = 2400
    const whole = cone(0.9, 0, 1.2, 24)
    const side = { ...whole, indices: whole.indices.slice(0, whole.parts[0].triangleCount * 3), parts: [] }
    const bowl = {
      ...still(side),
      sides: 'both' as const,
      matrix: (_t: number, out: Float64Array) => {
        out.set([1, 0, 0, 0, 0, -1, 0, 0.6, 0, 0, 1, 0])
        return out
      },
    }
    // Let go a little apart, over the whole bowl and above it.
    const start: { p: V }[] = []
    for (let k = 0; start.length < n; k++) {
      const y = -0.45 + k * 0.054,
        wide = Math.min(0.62, (y + 0.6) * 0.75 - 0.06)
      for (let x = -wide; x <= wide && start.length < n; x += 0.054)
        for (let z = -wide; z <= wide && start.length < n; z += 0.054)
          if (x * x + z * z < wide * wide)
            start.push({ p: [x + chance(start.length, 1, -0.003, 0.003), y, z + chance(start.length, 2, -0.003, 0.003)] })
    }
    await runFrom(
      start,
      { ...meeting({ radius, friction: 0.3, rounds: 8 }, [bounce(0, 0.3)]), forces: [gravity()] },
      (w) => {
        framesOn(w, 36)
        const before = allIn(w, P)
        framesOn(w, 4)
        const p = allIn(w, P)
        expect(p.length).toBe(n)
        // All are in the bowl, as high as so many need, and none is far inside another.
        for (const q of p) expect(Math.hypot(q[0], q[2])).toBeLessThan(((q[1] + 0.6) / 1.2) * 0.9 + 1e-3)
        expect(Math.max(...p.map((q) => q[1]))).toBeGreaterThan(0.1)
        expect(closest(p, radius)).toBeGreaterThan(0.7)
        const at = (list: number[], share: number) => list.sort((x, y) => x - y)[Math.floor(n * share)]
        expect(at(allIn(w, VV).map(length), 0.5)).toBe(0)
        expect(at(allIn(w, VV).map(length), 0.95)).toBeLessThan(0.07)
        expect(
          at(
            p.map((q, i) => away(q, before[i])),
            0.95,
          ),
        ).toBeLessThan(radius / 2)
      },
      { substeps: 4 },
      [bowl],
      2,
    )
    // 20,000 of half the size do as well, and take three times as long.
  }, 120000)
})
