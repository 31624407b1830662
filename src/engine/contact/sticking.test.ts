import { describe, expect, it } from 'vitest'
import {
  type BirthPlan,
  type ContactParams,
  type ContactPlan,
  compose,
  evenSphere,
  type ForcePlan,
  hashOf,
  type Matrix,
  MEET_COLUMNS,
  type Mesh,
  type PlanObject,
  particleStateOf,
  STICK_COLUMNS,
  TOUCH_COLUMNS,
} from '..'
import { boxMesh } from '../testing/meshes'
import { column, framesOn, gravity, plan, point, still, system, withWorld } from '../testing/plans'
import { allIn, away, chance, length, placeIn, runFrom, speedIn, type V } from '../testing/start'

const answer = (p: Partial<ContactParams>, colliders = [0]): ContactPlan => ({
  id: 'answer',
  seed: 5,
  colliders,
  params: () => ({ mode: 'bounce', restitution: 0.5, restitutionVary: 0, friction: 0, frictionVary: 0, letGo: 1e30, passes: 0, ...p }),
})
const moved = (mesh: Mesh | null, pose: (t: number) => { place?: V; rotate?: V }, more: Partial<PlanObject> = {}): PlanObject => ({
  id: 'object',
  mesh,
  endless: false,
  matrix: (t, out: Matrix) => compose(pose(t).place ?? [0, 0, 0], pose(t).rotate ?? [0, 0, 0], [1, 1, 1], out),
  ...more,
})
const P: ['px', 'py', 'pz'] = ['px', 'py', 'pz']

describe('what sticks', () => {
  const thrown = Array.from({ length: 40 }, (_, i) => ({
    p: [chance(i, 1, -0.4, 0.4), 0.8, chance(i, 2, -0.4, 0.4)] as V,
    v: [0, -6, 0] as V,
  }))
  it('rides along on an object that goes, turns and changes shape, at the place where it met it', async () => {
    const mesh = boxMesh([1, 1, 1])
    const shape = (t: number) => mesh.positions.map((x, i) => (i % 3 === 0 ? x * (1 + 0.3 * Math.sin(4 * t)) : x))
    const object = moved(mesh, (t) => ({ place: [0.5 * t, 0, 0], rotate: [0, 90 * t, 0] }), { shape })
    await runFrom(
      thrown,
      { contacts: [answer({ mode: 'stick' })], extraColumns: STICK_COLUMNS, forces: [gravity()] },
      (w) => {
        framesOn(w, 8)
        const own = () =>
          allIn(w, P).map(([x, y, z]): V => {
            const t = w.frame / 24
            const a = (-90 * t * Math.PI) / 180
            const dx = x - 0.5 * t
            return [(dx * Math.cos(a) + z * Math.sin(a)) / (1 + 0.3 * Math.sin(4 * t)), y, -dx * Math.sin(a) + z * Math.cos(a)]
          })
        const before = own()
        for (const p of before) expect(p[1]).toBeCloseTo(0.5, 2)
        framesOn(w, 60)
        own().forEach((p, i) => expect(away(p, before[i])).toBeLessThan(0.01))
      },
      { substeps: 4 },
      [object],
    )
  })
  it('lets go where something pulls harder than the strength', async () => {
    // A plate that is jerked up and stopped: those under a strength of 5 m/s² come off in gravity, those above 12 do not.
    for (const [letGo, stays] of [
      [5, false],
      [12, true],
    ] as const) {
      await runFrom(
        [{ p: [0, -0.3, 0], v: [0, 3, 0] }],
        { contacts: [answer({ mode: 'stick', letGo })], extraColumns: STICK_COLUMNS, forces: [gravity()] },
        (w) => {
          framesOn(w, 24)
          if (stays) expect(placeIn(w)[1]).toBeCloseTo(-0.05, 2)
          else expect(placeIn(w)[1]).toBeLessThan(-1)
        },
        { substeps: 4 },
        [still(boxMesh([1, 0.1, 1]))],
      )
    }
  })
  it('sticks to an endless plane too, and goes on where its object is no collider any more', async () => {
    await runFrom(
      thrown,
      { contacts: [answer({ mode: 'stick' })], extraColumns: STICK_COLUMNS, forces: [gravity()] },
      (w) => {
        framesOn(w, 12)
        const before = allIn(w, P)
        framesOn(w, 12)
        allIn(w, P).forEach((p, i) => expect(away(p, before[i])).toBeLessThan(1e-4))
        const state = w.save()
        w.load({ ...w.plan, systems: [{ ...w.plan.systems[0], contacts: [] }] })
        w.restore(state)
        framesOn(w, 12)
        expect(placeIn(w)[1]).toBeLessThan(-0.5)
      },
      { substeps: 4 },
      [still(null, true)],
    )
  })
})
describe('newborns', () => {
  it('know nothing of those whose room they take: where others stuck and died they fall freely', async () => {
    // Drops that stick and die together; then births in mid air, far from everything, in the room of the dead.
    const birth = (id: string, from: number, to: number, y: number): BirthPlan => ({
      id,
      seed: 9,
      due: (t0) => (t0 >= from && t0 < to ? [{ count: 20, at: 0, spacing: 0 }] : []),
      params: () => ({ ...point, source: 1, direction: [0, -1, 0], speed: y, anyway: 0.3 }),
    })
    const rain = system({
      life: () => [0.9, 0],
      births: [birth('early', 0, 0.2, 8), birth('late', 1.4, 4, 0)],
      contacts: [answer({ mode: 'stick' })],
      extraColumns: [...STICK_COLUMNS, ...TOUCH_COLUMNS],
      forces: [gravity()],
    })
    await withWorld(
      plan(
        [rain],
        [still(null, true), { ...still(null), id: 'nozzle', matrix: (_t, out) => compose([0, 1.5, 0], [0, 0, 0], [1, 1, 1], out) }],
        { substeps: 2 },
      ),
      (w) => {
        let young = 0
        for (let f = 0; f < 72; f++) {
          const c = framesOn(w, 1)
          const age = column(c, 'age'),
            y = column(c, 'py'),
            v = column(c, 'vy')
          age.forEach((a, i) => {
            if (w.frame < 34 || a > 0.3) return
            young++
            // Still in the air: as fast as gravity has made it.
            expect(y[i]).toBeGreaterThan(0.5)
            expect(v[i]).toBeLessThan(-9.81 * a + 0.35)
          })
        }
        expect(young).toBeGreaterThan(2000)
      },
    )
  })
})
describe('other answers', () => {
  const rain = Array.from({ length: 400 }, (_, i) => ({
    p: [chance(i, 1, -0.4, 0.4), 0.5, chance(i, 2, -0.4, 0.4)] as V,
    v: [0, -4, 0] as V,
  }))
  it('a share passes, each keeps to it, and the others are stopped', async () => {
    await runFrom(
      rain,
      { contacts: [answer({ restitution: 0, passes: 0.3 })] },
      (w) => {
        framesOn(w, 24)
        const through = allIn(w, P).filter((p) => p[1] < -1).length
        expect(Math.abs(through / 400 - 0.3)).toBeLessThan(0.06)
        expect(allIn(w, P).filter((p) => Math.abs(p[1]) < 0.01).length).toBe(400 - through)
      },
      {},
      [still(null, true)],
    )
  })
  it('of several cards for an object the last counts: an exception lets all pass', async () => {
    await runFrom(
      rain,
      { contacts: [answer({}), answer({ mode: 'pass' })] },
      (w) => {
        framesOn(w, 24)
        expect(allIn(w, P).every((p) => p[1] < -1)).toBe(true)
        expect(w.capture().stats.system.contacts).toBe(0)
      },
      {},
      [still(null, true)],
    )
  })
  it('a thick plane, box and ball stop particles that far off, at 500 m/s too, and while they move towards them', async () => {
    const thickness = () => 0.1
    const shot: { object: PlanObject; reach: (p: V) => number }[] = [
      { object: { ...still(null, true), thickness }, reach: (p) => p[1] },
      { object: { ...still(boxMesh([2, 0.2, 2])), thickness }, reach: (p) => p[1] - 0.1 },
      { object: { ...still(evenSphere(0.5, 12)), thickness }, reach: (p) => length(p) - 0.5 },
    ]
    for (const { object, reach } of shot) {
      for (const speed of [1, 40, 500]) {
        const start = Array.from({ length: 60 }, (_, i) => ({
          p: [chance(i, 1, -0.15, 0.15), 1, chance(i, 2, -0.15, 0.15)] as V,
          v: [0, -speed, 0] as V,
        }))
        await runFrom(
          start,
          { contacts: [answer({ restitution: 0 })] },
          (w) => {
            framesOn(w, 30)
            for (const p of allIn(w, P)) expect(reach(p)).toBeGreaterThan(0.094)
          },
          { substeps: 1 },
          [object],
        )
      }
    }
  })
  it('from both sides: what begins inside a closed body stays inside', async () => {
    const start = Array.from({ length: 60 }, (_, i) => ({
      p: [0, 0, 0] as V,
      v: [chance(i, 1, -9, 9), chance(i, 2, -9, 9), chance(i, 3, -9, 9)] as V,
    }))
    for (const sides of ['front', 'both'] as const) {
      await runFrom(
        start,
        { contacts: [answer({ restitution: 1 })] },
        (w) => {
          framesOn(w, 30)
          const inside = allIn(w, P).filter((p) => p.every((x) => Math.abs(x) < 0.501)).length
          expect(inside).toBe(sides === 'both' ? 60 : 0)
        },
        {},
        [{ ...still(boxMesh([1, 1, 1])), sides }],
      )
    }
  })
  it('contacts are written down: where, when, with what and how fast, and counted for each object', async () => {
    await runFrom(
      [{ p: [0.2, 1, 0], v: [0, -2, 0] }],
      { contacts: [answer({ restitution: 0.5 })], extraColumns: TOUCH_COLUMNS },
      (w) => {
        let counted = 0
        for (let k = 0; k < 24; k++) {
          w.step()
          counted += w.capture().stats.system.with.object ?? 0
        }
        const words = particleStateOf(w.save(), 'system').words
        const f = new Float32Array(words.buffer)
        const columns = 17
        expect([...f.subarray(columns, columns + 3)].map((x) => Number(x.toFixed(3)))).toEqual([0.2, 0, 0])
        // Born in the first of two substeps of the first frame, then half a second of flight.
        expect(f[columns + 3]).toBeCloseTo(0.5 + 1 / 24, 3)
        expect(words[columns + 4]).toBe(hashOf('object'))
        expect(f[columns + 5]).toBeCloseTo(2, 4)
        expect(counted).toBe(1)
        expect(speedIn(w)[1]).toBeCloseTo(1, 4)
      },
      {},
      [still(null, true)],
    )
  })
  it('a ball between two plates that close is held, not thrown through either', async () => {
    const plate = (id: string, y: (t: number) => number): PlanObject => ({
      ...moved(boxMesh([4, 0.1, 4]), (t) => ({ place: [0, y(t), 0] })),
      id,
    })
    const squeeze: ForcePlan[] = [gravity()]
    const start = Array.from({ length: 30 }, (_, i) => ({ p: [chance(i, 1, -1, 1), 0.2, chance(i, 2, -1, 1)] as V }))
    await runFrom(
      start,
      {
        forces: squeeze,
        contacts: [answer({ restitution: 0, friction: 0.4 }, [0, 1])],
        extraColumns: MEET_COLUMNS,
        meet: { seed: 1, params: () => ({ radius: 0.05, radiusVary: 0, restitution: 0, friction: 0.2, rounds: 4 }) },
      },
      (w) => {
        framesOn(w, 60)
        // The gap is smaller than the balls by now: their middles stay between the plates' faces.
        const gap = 0.4 - 0.31
        for (const p of allIn(w, P)) {
          expect(p[1]).toBeGreaterThan(-0.01)
          expect(p[1]).toBeLessThan(gap + 0.02)
          expect(p.every(Number.isFinite)).toBe(true)
        }
      },
      { substeps: 4 },
      [plate('low', () => -0.05), plate('high', (t) => 0.45 - Math.min(0.31, t * 0.31))],
    )
  })
})
