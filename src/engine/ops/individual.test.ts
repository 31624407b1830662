import { describe, expect, it } from 'vitest'
import {
  encodeAgeing,
  encodeDrag,
  encodeEndLimits,
  encodeLimitRange,
  encodeLimitShape,
  encodeMassBy,
  encodeRadiusBy,
  identity,
  MEET_COLUMNS,
  type OpWriter,
  type PlanSystem,
  planeMesh,
} from '..'
import { bounce, column, framesOn, gravity, still } from '../testing/plans'
import { placeIn, runFrom, speedIn, type V } from '../testing/start'

/** A box of 1 m around the middle, hard or with an edge as wide as half of it. */
const within = (w: OpWriter, soft = 0) =>
  encodeLimitShape(w, { shape: 'ball', into: identity(), half: [1, 1, 1], soft, falloff: 'linear', outside: false })
const only = (encode: (w: OpWriter) => void, soft = 0) => ({
  id: 'only',
  leads: true,
  encode(w: OpWriter) {
    within(w, soft)
    encode(w)
    encodeEndLimits(w)
  },
})
const drag = { id: 'drag', resists: true, encode: (w: OpWriter) => encodeDrag(w, 0.5) }
const places: { p: V; v: V }[] = [
  { p: [0, 0, 0], v: [0.1, 0, 0] },
  { p: [5, 0, 0], v: [0.1, 0, 0] },
]

describe('values of each particle by its limits', () => {
  it('mass: who is within weighs so many times as much, whatever the order of the cards', async () => {
    const speeds = (forces: (typeof drag)[], kg?: number) =>
      runFrom(places, { forces, ...(kg ? { mass: () => [kg, 0] as const } : {}) }, (w) => {
        framesOn(w, 12)
        return [speedIn(w, 0)[0], speedIn(w, 1)[0]]
      })
    const heavier = only((w) => encodeMassBy(w, 4)) as unknown as typeof drag
    const [one, four, two, eight] = [await speeds([drag]), await speeds([drag], 4), await speeds([drag], 2), await speeds([drag], 8)]
    // By half in half a second, four times as heavy in two.
    expect(four[0] / one[0]).toBeCloseTo(2 ** 0.75, 3)
    expect(await speeds([heavier, drag])).toEqual([four[0], one[1]])
    expect(await speeds([drag, heavier])).toEqual([four[0], one[1]])
    expect(await speeds([heavier, drag], 2)).toEqual([eight[0], two[1]])
  })
  it('ageing: a life within lasts as much shorter, in between by its share, and elsewhere as long as it was', async () => {
    const still = [0, 0.75, 5].map((x): { p: V; life: number } => ({ p: [x, 0, 0], life: 10 }))
    await runFrom(still, { forces: [only((w) => encodeAgeing(w, 3), 0.5)] }, (w) => {
      const before = [...column(w.capture(), 'life')]
      framesOn(w, 12)
      // Two more seconds a second for half of one; half of them halfway into the edge.
      const gone = [...column(w.capture(), 'life')].map((x, i) => before[i] - x)
      expect(gone).toEqual([1, 0.5, 0].map((x) => expect.closeTo(x, 3)))
      framesOn(w, 72)
      // Ten seconds of life are over after three and a third.
      expect(column(w.capture(), 'life')).toHaveLength(2)
    })
  })
  describe('radius', () => {
    const meeting = (o: Partial<PlanSystem> = {}): Partial<PlanSystem> => ({
      extraColumns: [...MEET_COLUMNS, 'girth'],
      meet: { seed: 3, params: () => ({ radius: 0.1, radiusVary: 0, restitution: 0, friction: 0, rounds: 6 }) },
      ...o,
    })
    const wider = (factor: number, share = 1) => ({
      ...only((w) => encodeRadiusBy(w, factor, 0, { value: share, vary: 0 })),
      widens: () => factor,
    })
    const pair = (x: number): { p: V; v: V }[] => [
      { p: [x - 0.5, 0, 0], v: [1, 0, 0] },
      { p: [x + 0.5, 0, 0], v: [-1, 0, 0] },
    ]
    it('balls meet at the sum of theirs, wider ones within and others elsewhere, in one substep or many', async () => {
      for (const substeps of [1, 4]) {
        await runFrom(
          [...pair(0), ...pair(8)],
          meeting({ forces: [wider(3)] }),
          (w) => {
            framesOn(w, 24)
            const [a, b, c, d] = [0, 1, 2, 3].map((i) => placeIn(w, i)[0])
            expect(b - a).toBeCloseTo(0.6, 2)
            expect(d - c).toBeCloseTo(0.2, 2)
          },
          { substeps },
        )
      }
    })
    it('a share of it is that part of the way, and several of them multiply', async () => {
      const apart = (forces: PlanSystem['forces']) =>
        runFrom(pair(0), meeting({ forces }), (w) => {
          framesOn(w, 24)
          return placeIn(w, 1)[0] - placeIn(w, 0)[0]
        })
      expect(await apart([wider(3, 0.5)])).toBeCloseTo(0.4, 2)
      expect(await apart([wider(3), wider(0.5)])).toBeCloseTo(0.3, 2)
    })
    it('a wide one is as much heavier as it has more volume', async () => {
      // What comes stays outside, where it is not wide: one part of nine of what moves then, and nothing comes back.
      await runFrom([{ p: [0.9, 0, 0] }, { p: [2, 0, 0], v: [-1, 0, 0] }], meeting({ forces: [wider(2)] }), (w) => {
        framesOn(w, 22)
        expect(placeIn(w, 1)[0]).toBeGreaterThan(1)
        for (const i of [0, 1]) expect(speedIn(w, i)[0]).toBeCloseTo(-1 / 9, 2)
      })
    })
    it('on a floor each lies at its own height, also while it swells there', async () => {
      const swells = {
        id: 'swells',
        leads: true,
        encode(w: OpWriter) {
          encodeLimitRange(w, { of: 'age', from: 0.5, to: 100, soft: 2, outside: false })
          encodeRadiusBy(w, 4)
          encodeEndLimits(w)
        },
        widens: () => 4,
      }
      const floor = still(planeMesh(10))
      const o = meeting({ contacts: [bounce(0, 1)] })
      await runFrom(
        [{ p: [0, 0.1, 0] }],
        { ...o, forces: [swells, gravity()] },
        (w) => {
          let last = 0
          for (let f = 0; f < 84; f++) {
            w.step()
            const [, y] = placeIn(w)
            expect(y).toBeGreaterThan(last - 1e-3)
            last = y
          }
          expect(last).toBeCloseTo(0.4, 2)
          expect(Math.abs(speedIn(w)[1])).toBeLessThan(0.02)
        },
        { substeps: 2 },
        [floor],
      )
    })
  })
})
