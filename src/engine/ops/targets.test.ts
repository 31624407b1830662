import { describe, expect, it } from 'vitest'
import {
  compose,
  encodeChase,
  encodeCrawl,
  encodeEndLimits,
  encodeFlock,
  encodeGravity,
  encodeLimitNear,
  encodeSpeedClamp,
  encodeStay,
  encodeSurface,
  evenSphere,
  type ForcePlan,
  frameMark,
  HOLD_COLUMNS,
  type Matrix,
  type Mesh,
  type OpWriter,
  type PlanObject,
  type StepTime,
} from '..'
import { boxMesh } from '../testing/meshes'
import { framesOn, still } from '../testing/plans'
import { allIn, away, chance, length, placeIn, runFrom, speedIn, type V } from '../testing/start'

const force = (encode: (w: OpWriter, at: StepTime) => void): ForcePlan => ({ id: 'force', encode })
const moved = (mesh: Mesh | null, place: (t: number) => V, rotate: (t: number) => V = () => [0, 0, 0]): PlanObject => ({
  id: 'object',
  mesh,
  endless: false,
  matrix: (t, out: Matrix) => compose(place(t), rotate(t), [1, 1, 1], out),
})
const chase = { speed: 2, arrive: 0.4, responseS: 0.05, maxAcceleration: 1e12, reach: Number.POSITIVE_INFINITY }
const at24 = { rate: { num: 24, den: 1 }, substeps: 4 }

describe('chase', () => {
  it('arrives at a point without overshoot, from any distance and with little acceleration', async () => {
    for (const maxAcceleration of [1e12, 3])
      for (const far of [0.2, 3]) {
        await runFrom(
          [{ p: [far, 0, 0] }],
          {
            forces: [force((w, at) => encodeChase(w, { object: 0, pick: 'middle' }, { ...chase, maxAcceleration, dt: at.dt }, 1))],
            extraColumns: HOLD_COLUMNS,
          },
          (w) => {
            let minimum = far
            for (let k = 0; k < 240; k++) {
              w.step()
              minimum = Math.min(minimum, placeIn(w)[0])
            }
            expect(minimum).toBeGreaterThan(-0.002)
            expect(placeIn(w)[0]).toBeLessThan(0.01)
            expect(length(speedIn(w))).toBeLessThan(0.02)
          },
          at24,
          [still(evenSphere(0.2, 4))],
        )
      }
  })
  it('flies at its speed until it slows down, and never changes it by more than it may', async () => {
    await runFrom(
      [{ p: [50, 0, 0] }],
      { forces: [force((w, at) => encodeChase(w, { object: 0, pick: 'middle' }, { ...chase, maxAcceleration: 4, dt: at.dt }, 1))] },
      (w) => {
        let before: V = [0, 0, 0]
        for (let k = 0; k < 48; k++) {
          w.step()
          const v = speedIn(w)
          expect(away(v, before)).toBeLessThanOrEqual((4 / 24) * 1.001)
          before = v
        }
        expect(before[0]).toBeCloseTo(-2, 2)
      },
      at24,
      [still(evenSphere(0.2, 4))],
    )
  })
  it('a place of its own is kept while the object goes and turns: it ends there with the place’s own speed', async () => {
    const n = 40
    const object = moved(
      boxMesh([1, 1, 1]),
      (t) => [t * 0.5, 0, 0],
      (t) => [0, 40 * t, 0],
    )
    await runFrom(
      Array.from({ length: n }, (_, i) => ({ p: [chance(i, 1, -2, 2), chance(i, 2, -2, 2), chance(i, 3, -2, 2)] as V })),
      {
        forces: [force((w, at) => encodeChase(w, { object: 0, pick: 'kept' }, { ...chase, responseS: 0.02, speed: 4, dt: at.dt }, 9))],
        extraColumns: HOLD_COLUMNS,
      },
      (w) => {
        framesOn(w, 96)
        // In the object's own space they stand still, on its surface, at different places.
        const own = () =>
          allIn(w, ['px', 'py', 'pz']).map(([x, y, z]): V => {
            const t = w.frame / 24
            const a = (-40 * t * Math.PI) / 180
            const dx = x - t * 0.5
            return [dx * Math.cos(a) + z * Math.sin(a), y, -dx * Math.sin(a) + z * Math.cos(a)]
          })
        const one = own()
        framesOn(w, 24)
        own().forEach((p, i) => expect(away(p, one[i])).toBeLessThan(0.02))
        for (const p of one) expect(Math.abs(Math.max(...p.map(Math.abs)) - 0.5)).toBeLessThan(0.03)
        expect(new Set(one.map((p) => p.map((x) => x.toFixed(2)).join())).size).toBeGreaterThan(n * 0.8)
      },
      at24,
      [object],
    )
  })
  it('in turn: each flies to its corner', async () => {
    await runFrom(
      Array.from({ length: 16 }, () => ({ p: [0, 0, 0] as V })),
      { forces: [force((w, at) => encodeChase(w, { object: 0, pick: 'inTurn' }, { ...chase, dt: at.dt }, 9))] },
      (w) => {
        framesOn(w, 120)
        const p = allIn(w, ['px', 'py', 'pz'])
        for (const q of p) for (const x of q) expect(Math.abs(Math.abs(x) - 0.5)).toBeLessThan(0.01)
        for (let i = 0; i < 8; i++) expect(away(p[i], p[i + 8])).toBeLessThan(0.01)
        expect(new Set(p.map((q) => q.map(Math.sign).join())).size).toBe(8)
      },
      at24,
      [still(boxMesh([1, 1, 1]))],
    )
  })
  it('what is not there is not chased, and nothing happens to anybody', async () => {
    await runFrom(
      [{ p: [1, 2, 3] }],
      {
        forces: [
          force((w, at) => encodeChase(w, { object: 5, pick: 'nearest' }, { ...chase, dt: at.dt }, 1)),
          force((w, at) => encodeStay(w, { object: 5, spring: 10, friction: 1, dt: at.dt })),
        ],
        extraColumns: HOLD_COLUMNS,
      },
      (w) => {
        framesOn(w, 10)
        expect(placeIn(w)).toEqual([1, 2, 3])
      },
    )
  })
})
describe('what has no surface', () => {
  it.each([null, { ...boxMesh([1, 1, 1]), indices: new Uint32Array(0) }])(
    'is not held, crawled over or attracted to; its middle can be chased',
    async (mesh) => {
      const none = (w: OpWriter, at: StepTime) => {
        encodeStay(w, { object: 0, spring: 10, friction: 1, dt: at.dt })
        encodeCrawl(w, { object: 0, height: 0.1, responseS: 0.1, speed: 1, reach: Number.POSITIVE_INFINITY, dt: at.dt })
        encodeSurface(w, { object: 0, strength: 5, reach: Number.POSITIVE_INFINITY, falloff: 'even', dt: at.dt })
        for (const pick of ['nearest', 'kept', 'inTurn'] as const) encodeChase(w, { object: 0, pick }, { ...chase, dt: at.dt }, 1)
      }
      await runFrom(
        [{ p: [1, 0, 0] }],
        { forces: [force(none)], extraColumns: HOLD_COLUMNS },
        (w) => {
          framesOn(w, 5)
          expect(placeIn(w)).toEqual([1, 0, 0])
        },
        {},
        [still(mesh)],
      )
      await runFrom(
        [{ p: [1, 0, 0] }],
        { forces: [force((w, at) => encodeChase(w, { object: 0, pick: 'middle' }, { ...chase, dt: at.dt }, 1))] },
        (w) => {
          framesOn(w, 72)
          expect(placeIn(w)[0]).toBeCloseTo(0, 1)
        },
        {},
        [still(mesh)],
      )
    },
  )
})
describe('stay', () => {
  it('is a damped spring: place over time as the closed form, nearer with more substeps', async () => {
    // Held at the top of a plate, pulled off sideways by nothing but its own speed.
    const [turn, damping] = [2 * Math.PI, 0.1]
    const exact = (t: number) => {
      const wd = turn * Math.sqrt(1 - damping * damping)
      return (Math.exp(-damping * turn * t) * Math.sin(wd * t)) / wd
    }
    const errors: number[] = []
    for (const substeps of [4, 16, 64]) {
      await runFrom(
        [{ p: [0.2, 0, 0.1], v: [0, 1, 0] }],
        {
          forces: [force((w, at) => encodeStay(w, { object: 0, spring: turn * turn, friction: 2 * turn * damping, dt: at.dt }))],
          extraColumns: HOLD_COLUMNS,
        },
        (w) => {
          let worst = 0
          for (let k = 1; k <= 48; k++) {
            w.step()
            worst = Math.max(worst, Math.abs(placeIn(w)[1] - exact(k / 24)))
          }
          errors.push(worst)
        },
        { substeps },
        [still(boxMesh([2, 0, 2]))],
      )
    }
    expect(errors[2]).toBeLessThan(0.005)
    expect(errors[0] / errors[1]).toBeGreaterThan(3)
    expect(errors[1] / errors[2]).toBeGreaterThan(3)
  })
  it('keeps each particle at its place on a skin that goes, turns and bends', async () => {
    const mesh = evenSphere(0.5, 6)
    const shape = (t: number) => mesh.positions.map((x, i) => (i % 3 === 1 ? x * (1 + 0.4 * Math.sin(3 * t)) : x))
    const object: PlanObject = {
      ...moved(
        mesh,
        (t) => [0.3 * t, 0, 0],
        (t) => [0, 60 * t, 0],
      ),
      shape,
    }
    const start = Array.from({ length: 60 }, (_, i) => {
      const d: V = [chance(i, 4, -1, 1), chance(i, 5, -1, 1), chance(i, 6, -1, 1)]
      return { p: d.map((x) => (x / length(d)) * 0.5) as V }
    })
    await runFrom(
      start,
      { forces: [force((w, at) => encodeStay(w, { object: 0, spring: 4e4, friction: 400, dt: at.dt }))], extraColumns: HOLD_COLUMNS },
      (w) => {
        const t0 = w.frame / 24
        const place = (p: V, t: number, back: boolean): V => {
          const a = ((back ? -60 : 60) * t * Math.PI) / 180
          const s = 1 + 0.4 * Math.sin(3 * t)
          const turn = ([x, y, z]: V): V => [x * Math.cos(a) + z * Math.sin(a), y, -x * Math.sin(a) + z * Math.cos(a)]
          if (back) {
            const q = turn([p[0] - 0.3 * t, p[1], p[2]])
            return [q[0], q[1] / s, q[2]]
          }
          const q = turn([p[0], p[1] * s, p[2]])
          return [q[0] + 0.3 * t, q[1], q[2]]
        }
        // Where each is on the skin as it takes hold: the nearest place, so those off it move to it first.
        framesOn(w, 12)
        const skin = allIn(w, ['px', 'py', 'pz']).map((p) => place(p, w.frame / 24, true))
        framesOn(w, 36)
        allIn(w, ['px', 'py', 'pz']).forEach((p, i) => expect(away(p, place(skin[i], w.frame / 24, false))).toBeLessThan(0.02))
        expect(t0).toBeGreaterThan(0)
      },
      { substeps: 4 },
      [object],
    )
  })
})
describe('crawl and a surface that attracts', () => {
  it('crawls round a ball at its height and speed', async () => {
    await runFrom(
      [{ p: [0.7, 0, 0], v: [0, 1, 0.3] }],
      { forces: [force((w, at) => encodeCrawl(w, { object: 0, height: 0.1, responseS: 0.02, speed: 0.8, reach: 10, dt: at.dt }))] },
      (w) => {
        framesOn(w, 24)
        for (let k = 0; k < 100; k++) {
          w.step()
          expect(length(placeIn(w))).toBeGreaterThan(0.57)
          expect(length(placeIn(w))).toBeLessThan(0.615)
          expect(length(speedIn(w))).toBeCloseTo(0.8, 1)
        }
      },
      { substeps: 4 },
      [still(evenSphere(0.5, 20))],
    )
  })
  it('pulls to the nearest place with its strength there, less farther off, and nothing beyond the reach', async () => {
    const start: { p: V }[] = [{ p: [0, 0.501, 0] }, { p: [0.75, 0, 0] }, { p: [0, 0, 1.2] }, { p: [0.2, 0, 0] }]
    for (const sign of [1, -1]) {
      await runFrom(
        start,
        { forces: [force((w, at) => encodeSurface(w, { object: 0, strength: 6 * sign, reach: 0.5, falloff: 'linear', dt: at.dt }))] },
        (w) => {
          w.step()
          const v = allIn(w, ['vx', 'vy', 'vz'])
          const dt = 1 / 240
          expect(v[0][1] / dt).toBeCloseTo(-6 * sign * (1 - 0.001 / 0.5), 1)
          expect(v[1][0] / dt).toBeCloseTo(-3 * sign, 1)
          expect(v[2]).toEqual([0, 0, 0])
          // From inside it is pulled outwards.
          expect(v[3][0] / dt).toBeCloseTo(6 * sign * (1 - 0.3 / 0.5), 1)
        },
        { rate: { num: 240, den: 1 }, substeps: 1 },
        [still(boxMesh([1, 1, 1]))],
      )
    }
  })
})
describe('a flock', () => {
  const start = Array.from({ length: 300 }, (_, i) => ({
    p: [chance(i, 1, -0.6, 0.6), chance(i, 2, -0.6, 0.6), chance(i, 3, -0.6, 0.6)] as V,
    v: [chance(i, 4, -1, 1), chance(i, 5, -1, 1), chance(i, 6, -1, 1)] as V,
  }))
  const flock = force((w, at) => {
    encodeFlock(w, { radius: 0.6, room: 0.15, cosView: -2, apart: 4, align: 6, together: 2, dt: at.dt })
    encodeSpeedClamp(w, 0.8, 1.2)
  })
  const order = (v: V[]) => length([0, 1, 2].map((a) => v.reduce((s, x) => s + x[a] / length(x), 0) / v.length))
  it('finds one way from a random beginning, and nobody sits on another', async () => {
    await runFrom(
      start,
      { forces: [flock] },
      (w) => {
        const before = order(allIn(w, ['vx', 'vy', 'vz']))
        framesOn(w, 120)
        expect(before).toBeLessThan(0.2)
        expect(order(allIn(w, ['vx', 'vy', 'vz']))).toBeGreaterThan(0.7)
        const p = allIn(w, ['px', 'py', 'pz'])
        const nearest = p.map((q, i) => Math.min(...p.map((r, j) => (i === j ? 9 : away(q, r)))))
        expect(Math.min(...nearest)).toBeGreaterThan(0.01)
      },
      { substeps: 1 },
    )
  })
  it('is the same on one thread and three, for this and for chase, stay and crawl', async () => {
    const many = Array.from({ length: 6000 }, (_, i) => ({ p: [chance(i, 1, -2, 2), chance(i, 2, -2, 2), chance(i, 3, -2, 2)] as V }))
    const all: ForcePlan[] = [
      flock,
      force((w, at) => encodeStay(w, { object: 0, spring: 20, friction: 2, dt: at.dt }, 3, { value: 0.5, vary: 0.5 })),
      force((w, at) => encodeCrawl(w, { object: 0, height: 0.2, responseS: 0.1, speed: null, reach: 1, dt: at.dt })),
      force((w, at) => encodeChase(w, { object: 0, pick: 'nearest' }, { ...chase, dt: at.dt }, 4)),
    ]
    const mark = (threads: number) =>
      runFrom(
        many,
        { forces: all, extraColumns: HOLD_COLUMNS },
        (w) => frameMark(framesOn(w, 6)),
        { substeps: 2 },
        [moved(evenSphere(0.5, 6), (t) => [t, 0, 0])],
        threads,
      )
    expect(await mark(3)).toBe(await mark(1))
  })
})
describe('limits by an object', () => {
  const NEAR = { object: 0, beyond: 0.2, soft: 0, depth: 1, falloff: 'linear', outside: false } as const
  const felt = (places: V[], limit: Partial<Parameters<typeof encodeLimitNear>[1]>, object: PlanObject) =>
    runFrom(
      places.map((p) => ({ p })),
      {
        forces: [
          force((w, at) => {
            encodeLimitNear(w, { ...NEAR, dt: at.dt, ...limit })
            encodeGravity(w, [0, -24, 0])
            encodeEndLimits(w)
          }),
        ],
      },
      (w) => {
        w.step()
        return places.map((_, i) => -speedIn(w, i)[1])
      },
      { substeps: 1 },
      [object],
    )
  const close = (list: number[]) => list.map((x) => expect.closeTo(x, 3))
  it('follow its own shape: an L is felt in its corner by its faces, not by its box; inside too, as deep as it is', async () => {
    // Two boxes as one closed body: a wall and a floor.
    const [a, b] = [boxMesh([0.2, 2, 2]), boxMesh([2, 0.2, 2])]
    const shifted = (m: Mesh, x: number, y: number) => m.positions.map((v, i) => v + (i % 3 === 0 ? x : i % 3 === 1 ? y : 0))
    const L: Mesh = {
      positions: Float32Array.from([...shifted(a, -1, 0), ...shifted(b, 0, -1.3)]),
      normals: null,
      indices: Uint32Array.from([...a.indices, ...[...b.indices].map((i) => i + 8)]),
      parts: [],
    }
    const places: V[] = [
      [0.2, 0.2, 0],
      [-0.75, 0.5, 0],
      [-0.69, 0.5, 0],
      [-1, 0.3, 0],
      [0.5, -1.05, 0],
    ]
    expect(await felt(places, {}, still(L))).toEqual(close([0, 1, 0, 1, 1]))
    expect(await felt(places, { outside: true }, still(L))).toEqual(close([1, 0, 1, 0, 0]))
    // 0.3 m from a face inside is 0.1 deep; with a soft edge of 0.4 from 0.2 beyond: 0.3 of 0.4.
    expect(await felt(places, { soft: 0.4 }, still(L))).toEqual(close([0, 0.125, 0, 0.75, 0.125]))
  })
  it('go along with it, and with nothing there reach nobody, or everybody outside', async () => {
    const gone = moved(
      boxMesh([1, 1, 1]),
      () => [3, 0, 0],
      () => [0, 45, 0],
    )
    expect(
      await felt(
        [
          [3, 0, 0],
          [3.85, 0, 0],
          [0, 0, 0],
        ],
        {},
        gone,
      ),
    ).toEqual(close([1, 1, 0]))
    expect(await felt([[0, 0, 0]], { object: -1 }, gone)).toEqual(close([0]))
    expect(await felt([[0, 0, 0]], {}, still(null))).toEqual(close([0]))
    expect(await felt([[0, 0, 0]], { outside: true }, still(null))).toEqual(close([1]))
    // Below an endless plane is inside it.
    expect(
      await felt(
        [
          [0, -0.5, 0],
          [0, 0.1, 0],
          [0, 0.3, 0],
        ],
        {},
        still(null, true),
      ),
    ).toEqual(close([1, 1, 0]))
  })
  it('their rise is fuller or hollower by its bias, and the same at both ends', async () => {
    const ball = still(evenSphere(1, 16))
    const at = (bias: number) =>
      felt(
        [
          [1.19, 0, 0],
          [1, 0, 0],
          [0.8, 0, 0],
          [0.1, 0, 0],
        ],
        { soft: 0.4, bias },
        ball,
      )
    const [hollow, even, full] = [await at(0.2), await at(0.5), await at(0.8)]
    expect(even[1]).toBeCloseTo(0.5, 2)
    expect(hollow[1]).toBeCloseTo(0.2, 2)
    expect(full[1]).toBeCloseTo(0.8, 2)
    for (const x of [hollow, even, full]) {
      expect(x[0]).toBeLessThan(0.11)
      expect(x[3]).toBeCloseTo(1, 4)
    }
  })
})
