import { describe, expect, it } from 'vitest'
import { compose, encodeGravity, type PlanObject, planeMesh } from '..'
import { bounce, framesOn, gravity, still } from '../testing/plans'
import { length, placeIn, runFrom, speedIn, type V } from '../testing/start'

const G = 9.81
const cosine = (deg: number) => Math.cos((deg * Math.PI) / 180)
const sine = (deg: number) => Math.sin((deg * Math.PI) / 180)
/** A slope that falls towards +X, as an endless plane, as a mesh, or as a mesh with a thickness. */
const slopes: [string, (deg: number) => PlanObject][] = [
  ['an endless plane', (deg) => ({ ...still(null, true), matrix: (_t, out) => compose([0, 0, 0], [0, 0, -deg], [1, 1, 1], out) })],
  ['a mesh', (deg) => ({ ...still(planeMesh(40)), matrix: (_t, out) => compose([0, 0, 0], [0, 0, -deg], [1, 1, 1], out) })],
  [
    'a thick mesh',
    (deg) => ({ ...still(planeMesh(40)), thickness: () => 0.05, matrix: (_t, out) => compose([0, 0, 0], [0, 0, -deg], [1, 1, 1], out) }),
  ],
]
/** A little above a slope of so many degrees. */
const above = (deg: number, h = 0.1): V => [sine(deg) * h, cosine(deg) * h, 0]

describe.each(slopes)('on %s', (_name, slope) => {
  it.each([1, 4, 16])(
    'at 25° with twice the friction that holds, what lies stays to the micrometre, with %i substeps',
    async (substeps) => {
      await runFrom(
        [{ p: above(25) }],
        { forces: [gravity()], contacts: [bounce(0.4, 2 * Math.tan((25 * Math.PI) / 180))] },
        (w) => {
          framesOn(w, 72)
          const a = placeIn(w)
          framesOn(w, 96)
          const b = placeIn(w)
          expect(Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2])).toBeLessThan(2e-6)
          expect(length(speedIn(w))).toBeLessThan(1e-4)
        },
        { substeps },
        [slope(25)],
      )
    },
  )
  it.each([1, 4, 16])('slides as fast as Coulomb says, with %i substeps', async (substeps) => {
    const mu = 0.3
    await runFrom(
      [{ p: above(40, 0.0502) }],
      { forces: [gravity()], contacts: [bounce(0, mu)] },
      (w) => {
        framesOn(w, 12)
        const before = length(speedIn(w))
        framesOn(w, 24)
        expect(length(speedIn(w)) - before).toBeCloseTo(G * (sine(40) - mu * cosine(40)), 1)
      },
      { substeps },
      [slope(40)],
    )
  })
  it.each([1, 4, 16])('hops of 40 % come to an end when their series does, with %i substeps', async (substeps) => {
    const e = 0.4
    await runFrom(
      [{ p: [0, 0.5, 0] }],
      { forces: [gravity()], contacts: [bounce(e, 0)] },
      (w) => {
        // √(2h/g) down, then 2 e^n v/g each: all of it is √(2h/g) (1 + e) / (1 − e).
        const whole = Math.sqrt((2 * 0.5) / G) * ((1 + e) / (1 - e))
        framesOn(w, Math.ceil((whole + 1 / 24) * 24))
        const a = placeIn(w)
        expect(length(speedIn(w))).toBeLessThan(1e-6)
        framesOn(w, 48)
        expect(placeIn(w)).toEqual(a)
      },
      { substeps },
      [slope(0)],
    )
  })
})
describe('bounces are exact in time', () => {
  it.each([1, 3, 16])('a hard ball keeps its height for ten seconds, with %i substeps', async (substeps) => {
    await runFrom(
      [{ p: [0, 1, 0] }],
      { forces: [gravity()], contacts: [bounce(1)] },
      (w) => {
        framesOn(w, 240)
        const h = placeIn(w)[1] + speedIn(w)[1] ** 2 / (2 * G)
        expect(Math.abs(h - 1)).toBeLessThan(2e-3)
      },
      { substeps, last: 400 },
      [still(null, true)],
    )
  })
})
describe('one scheme for all forces', () => {
  it.each([1, 2, 7])('the place under a constant acceleration is exact, with %i substeps', async (substeps) => {
    await runFrom(
      [{ p: [0, 0, 0], v: [1, 2, 0] }],
      { forces: [{ id: 'g', encode: (w) => encodeGravity(w, [3, -G, 1]) }] },
      (w) => {
        framesOn(w, 24)
        const p = placeIn(w)
        ;[1 + 1.5, 2 - G / 2, 0.5].forEach((x, a) => expect(p[a]).toBeCloseTo(x, 4))
      },
      { substeps },
    )
  })
})
