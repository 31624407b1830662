import { describe, expect, it } from 'vitest'
import { type ContactPlan, compose, hash3, MEET_COLUMNS, type MeetParams, type PlanSystem, planeMesh, unit } from '..'
import { bounce, column, framesOn, gravity, still } from '../testing/plans'
import { allIn, away, chance, length, runFrom, speedIn, type V } from '../testing/start'

const meeting = (p: Partial<MeetParams>, contacts: ContactPlan[] = []): Partial<PlanSystem> => ({
  extraColumns: MEET_COLUMNS,
  contacts,
  meet: { seed: 3, params: () => ({ radius: 0.05, radiusVary: 0, restitution: 0, friction: 0, rounds: 6, ...p }) },
})
const P: ['px', 'py', 'pz'] = ['px', 'py', 'pz']
const VV: ['vx', 'vy', 'vz'] = ['vx', 'vy', 'vz']
const difference = (a: V, b: V): V => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]

describe('an oblique blow', () => {
  // Half a diameter beside the middle: the line through both middles is 30° off the way.
  const normal: V = [-Math.sqrt(0.75), 0.5, 0]
  const start = [{ p: [-0.5, 0.05, 0] as V, v: [2, 0, 0] as V }, { p: [0, 0, 0] as V }]
  it.each([
    [1, 1],
    [1, 0.5],
    [8, 1],
    [8, 0.5],
    [16, 0],
  ])('%i substeps, restitution %f: parts as fast as it says, and keeps what goes along', async (substeps, restitution) => {
    await runFrom(
      start,
      meeting({ restitution }),
      (w) => {
        framesOn(w, 24)
        const v = difference(speedIn(w, 0), speedIn(w, 1))
        const parting = v[0] * normal[0] + v[1] * normal[1]
        expect(parting).toBeCloseTo(restitution * 2 * Math.sqrt(0.75), 3)
        expect(v[0] * normal[1] - v[1] * normal[0]).toBeCloseTo(1, 3)
      },
      { substeps },
    )
  })
  it('balls of different sizes keep their momentum, gravity apart, and friction takes only energy', async () => {
    await runFrom(
      start,
      { ...meeting({ restitution: 0.8, radiusVary: 0.02, friction: 0.2 }), forces: [gravity()] },
      (w) => {
        const seeds = column(w.capture(), 'seed')
        // The radius that each has by its seed, as the kernel draws it; mass goes by the volume.
        const mass = Array.from(seeds, (seed) => (0.05 + 0.02 * (unit(hash3(3, seed, 32)) * 2 - 1)) ** 3)
        expect(mass[0]).not.toBeCloseTo(mass[1], 6)
        framesOn(w, 24)
        const v = allIn(w, VV)
        const momentum = [0, 1, 2].map((a) => v.reduce((s, x, i) => s + mass[i] * (x[a] + (a === 1 ? 9.81 : 0)), 0) / mass[0])
        ;[2, 0, 0].forEach((wanted, a) => expect(momentum[a]).toBeCloseTo(wanted, 3))
        const energy = v.reduce((s, x, i) => s + mass[i] * (x[0] ** 2 + (x[1] + 9.81) ** 2 + x[2] ** 2), 0) / mass[0]
        expect(energy).toBeLessThan(4)
        expect(energy).toBeGreaterThan(1)
      },
      { substeps: 2 },
    )
  })
})
it.each([2, 8])('a gas of hard balls keeps its energy: 99 in 100 after a second, %i substeps', async (substeps) => {
  const start: { p: V; v: V }[] = []
  for (let i = 0; i < 216; i++) {
    const p: V = [i % 6, Math.floor(i / 6) % 6, Math.floor(i / 36)].map((k) => k * 0.25 - 0.6) as V
    start.push({ p, v: [1, 2, 3].map((c) => chance(i, c, -2, 2)) as V })
  }
  await runFrom(
    start,
    meeting({ restitution: 1, radius: 0.08 }),
    (w) => {
      const energy = () => allIn(w, VV).reduce((s, v) => s + length(v) ** 2, 0)
      const before = energy()
      let blows = 0
      for (let f = 0; f < 24; f++) blows += framesOn(w, 1).stats.system.contacts
      expect(blows).toBeGreaterThan(200)
      expect(energy() / before).toBeGreaterThan(0.99)
      expect(energy() / before).toBeLessThan(1.0001)
    },
    { substeps },
  )
})
describe('small grains at rest', () => {
  const slope = (mesh: boolean) => ({
    ...(mesh ? still(planeMesh(4)) : still(null, true)),
    matrix: (_t: number, out: Float64Array) => compose([0, 0, 0], [0, 0, -20], [1, 1, 1], out),
  })
  it.each([
    [4, false],
    [16, false],
    [16, true],
  ])('of 1.5 mm on a slope read no speed and do not move, %i substeps, on a mesh: %s', async (substeps, mesh) => {
    const start = Array.from({ length: 60 }, (_, i) => ({
      p: [chance(i, 1, -0.01, 0.01), 0.006 + i * 0.0009, chance(i, 3, -0.01, 0.01)] as V,
    }))
    await runFrom(
      start,
      { ...meeting({ radius: 0.0015, friction: 0.8, rounds: 8 }, [bounce(0, 0.8)]), forces: [gravity()] },
      (w) => {
        framesOn(w, 36)
        const before = allIn(w, P)
        for (let f = 0; f < 12; f++) {
          framesOn(w, 1)
          expect(Math.max(...allIn(w, VV).map(length))).toBeLessThan(0.01)
        }
        expect(Math.max(...allIn(w, P).map((p, i) => away(p, before[i])))).toBeLessThan(1e-4)
      },
      { substeps },
      [slope(mesh)],
    )
  })
})
