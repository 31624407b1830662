import { describe, expect, it } from 'vitest'
import { encodeAgeing, encodeDrag, encodeEndLimits, encodeLimitShape, encodeMassBy, identity, type OpWriter } from '..'
import { column, framesOn } from '../testing/plans'
import { runFrom, speedIn, type V } from '../testing/start'

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
})
