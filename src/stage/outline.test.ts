import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { MASK_PARAMS } from '../acts'
import { demoShot } from '../acts/testing/shots'
import { thing } from '../acts/testing/things'
import { atEveryKey, defaultsOf, type MaskDoc, type Outline, type Shot, sampleOutline } from '../shot'
import { poseOf, project } from './camera'
import { cornersAt, coverage, depthAt, goesAlong, lineOf } from './outline'

const mask = (o: Partial<MaskDoc> = {}): MaskDoc => ({
  ...(defaultsOf(MASK_PARAMS) as unknown as MaskDoc),
  ...{ id: 'mask', name: 'Mask', seed: 1, ...o },
})
const square: Outline = [
  [-0.5, -0.5, 0],
  [0.5, -0.5, 0],
  [0.5, 0.5, 0],
  [-0.5, 0.5, 0],
]
const sum = (c: ReturnType<typeof coverage>) => c?.data.reduce((a, b) => a + b, 0) ?? 0
/** As many round corners on a circle. */
const circle = (n: number, r: number): Outline =>
  Array.from({ length: n }, (_, i) => [r * Math.cos((2 * Math.PI * i) / n), r * Math.sin((2 * Math.PI * i) / n), 1])

describe('what a drawn line covers', () => {
  it('is the area of a square and of a disc, at any feather that fits', () => {
    for (const feather of [0, 3, 12]) {
      expect(sum(coverage(lineOf(square), 200, 200, feather)) / 10000 - 1).toBeCloseTo(0, 2)
      // Chords of neighbours through eight corners: rounder than the polygon, within a hundredth of the circle.
      expect(sum(coverage(lineOf(circle(16, 0.5)), 200, 200, feather)) / (Math.PI * 2500) - 1).toBeCloseTo(0, 2)
    }
  })
  it('goes from nothing to all over the feather, half of it inside, as 3u² − 2u³ of the distance', () => {
    const c = coverage(lineOf(square), 200, 200, 20)
    if (!c) throw new Error('nothing is covered')
    // Up the middle column, over the lower edge at 50.
    const at = (y: number) => (y < c.low || y >= c.low + c.height ? 0 : c.data[(y - c.low) * c.width + 100 - c.left])
    for (let y = 30; y < 70; y++) {
      const u = Math.min(1, Math.max(0, 0.5 + (y + 0.5 - 50) / 20))
      expect(at(y)).toBeCloseTo(u * u * (3 - 2 * u), 5)
    }
  })
  it('is cut off at the picture, and nothing where the line lies beside it', () => {
    const moved = (dx: number): Outline => square.map(([x, y, r]) => [x + dx, y, r])
    expect(sum(coverage(lineOf(moved(1)), 100, 100, 0))).toBeCloseTo(25 * 50, 0)
    expect(coverage(lineOf(moved(4)), 100, 100, 5)).toBeNull()
  })
  it('goes through its corners, straight between sharp ones (property)', () => {
    const corner = fc.tuple(
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.constantFrom(0, 1),
    ) as fc.Arbitrary<Outline[number]>
    fc.assert(
      fc.property(fc.array(corner, { minLength: 3, maxLength: 12 }), (o) => {
        const line = lineOf(o)
        for (const [x, y] of o) expect(line).toContainEqual([x, y])
        const sharp: Outline = o.map(([x, y]) => [x, y, 0])
        expect(lineOf(sharp)).toEqual(sharp.map(([x, y]) => [x, y]))
      }),
    )
  })
})

describe('an outline with keys', () => {
  const wide: Outline = square.map(([x, y, r]) => [x * 2, y, r])
  const keyed = {
    keys: [
      { t: 0, v: square, ease: 'linear' as const },
      { t: 1, v: wide, ease: 'linear' as const },
    ],
  }
  it('goes corner by corner from one to the next, and jumps where there are more', () => {
    expect(sampleOutline(keyed, 0.5)[1]).toEqual([0.75, -0.5, 0])
    const more = { keys: [keyed.keys[0], { ...keyed.keys[1], v: [...wide, [0, 1, 0] as Outline[number]] }] }
    expect(sampleOutline(more, 0.99)).toEqual(square)
    expect(sampleOutline(more, 1)).toHaveLength(5)
  })
  it('gets and loses a corner at all of them', () => {
    const less = atEveryKey(keyed, (o) => o.slice(1))
    expect(sampleOutline(less, 0.5)).toEqual(sampleOutline(keyed, 0.5).slice(1))
  })
})

describe('a mask that goes along', () => {
  const shot = (): Shot => {
    const s = demoShot()
    const far = [
      { t: 0, v: 0, ease: 'linear' as const },
      { t: 1, v: -4, ease: 'linear' as const },
    ]
    s.objects.push(thing('anchor', { shape: { kind: 'anchor' }, place: [0.4, 0.3, { keys: far }] }))
    s.cameras[0] = { ...s.cameras[0], place: [0, 1, 6], aim: [0, 0.5, 0] }
    return s
  }
  const m = mask({ follows: 'anchor', outline: square, depth: null })
  const aspect = 16 / 9
  it('keeps its place about what it follows, and grows by the distance', () => {
    const s = shot()
    const at = (t: number) => project(poseOf(s, s.cameras[0], t), aspect, [0.4, 0.3, -4 * t])
    const [then, now] = [at(0), at(0.5)]
    if (!then || !now) throw new Error('behind the camera')
    cornersAt(s, m, 0.5, aspect).forEach(([x, y], i) => {
      expect(x - now.x).toBeCloseTo(((square[i][0] - then.x) * then.depth) / now.depth, 9)
      expect(y - now.y).toBeCloseTo(((square[i][1] - then.y) * then.depth) / now.depth, 9)
    })
    expect(cornersAt(s, m, 0, aspect)).toEqual(square.map((c) => c.map((v) => expect.closeTo(v, 12))))
    expect(depthAt(s, m, 0.5, aspect)).toBe(now.depth)
    expect(depthAt(s, { ...m, depth: 3 }, 0.5, aspect)).toBe(3)
    expect(depthAt(s, { ...m, follows: null }, 0.5, aspect)).toBeNull()
  })
  it('is drawn where the pointer is: into what is stored and back (property)', () => {
    const s = shot()
    const side = fc.double({ min: -2, max: 2, noNaN: true })
    fc.assert(
      fc.property(side, side, fc.double({ min: 0, max: 1, noNaN: true }), (x, y, t) => {
        const along = goesAlong(s, m, t, aspect)
        const [a, b] = along.to(...along.from(x, y))
        expect(a).toBeCloseTo(x, 9)
        expect(b).toBeCloseTo(y, 9)
      }),
    )
  })
})
