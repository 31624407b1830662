import { describe, expect, it } from 'vitest'
import { partsOf, stripOffsets, stripPoints } from '../engine'
import type { Shot } from '../shot'
import { checkShot, compile, stripDraw, stripTone, touchedFrom } from '.'
import { act, after, quiet } from './testing/quiet'
import { thing } from './testing/things'

/** Fifty that stand 5 cm over a floor, on which lines grow from them. */
const shotOf = (growth: Record<string, unknown> = {}, scale = 1): Shot =>
  quiet((s) => {
    const floor = thing('floor', { shape: { kind: 'plane', size: 4, endless: false }, place: [0, -0.05, 0], scale: [scale, scale, scale] })
    floor.offspring = [
      act('growth', { lines: 20, generations: 1, meets: 0, begins: 'particles', system: 'sparks', within: 0.06, lift: 0, ...growth }),
    ]
    s.objects = [floor]
  })
const linesOf = async (s: Shot, frames = 4) => {
  const part = partsOf((await after(s, frames)).parts, 'strips')[0]
  if (!part) return []
  const offsets = stripOffsets(part)
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => stripPoints(part, n))
  return Array.from({ length: part.strips }, (_, k) => [x[offsets[k]], y[offsets[k]], z[offsets[k]]])
}
const edited = (s: Shot, values: Record<string, unknown>): Shot => {
  const next = structuredClone(s)
  Object.assign(next.objects[0].offspring[0], values)
  return next
}

describe('growth where particles come', () => {
  it('begins below them, as many lines as it may, nearer than so many metres of the shot whatever the size of the object', async () => {
    for (const scale of [0.5, 1, 10]) {
      const lines = await linesOf(shotOf({}, scale))
      expect(lines).toHaveLength(20)
      for (const [x, y, z] of lines) {
        expect(Math.hypot(x, z)).toBeLessThan(1e-3)
        expect(y).toBeCloseTo(-0.05, 5)
      }
      expect(await linesOf(shotOf({ within: 0.04 }, scale))).toHaveLength(0)
    }
  })
  it('waits for its moment, and for a system that is there', async () => {
    expect(await linesOf(shotOf({ start: 0.5 }), 8)).toHaveLength(0)
    expect(await linesOf(shotOf({ start: 0.5 }), 14)).toHaveLength(20)
    expect(await linesOf(shotOf({ system: null }))).toHaveLength(0)
    const gone = checkShot(shotOf({ system: 'nobody' }))
    expect(gone.ok ? [] : gone.problems.map((p) => p.path)).not.toHaveLength(0)
  })
  it('has forks by a curve of its own, which is checked point by point', () => {
    const curved = (points: unknown) => edited(shotOf(), { shorter: 'curve', along: { points } })
    const along = (s: Shot) => {
      const checked = checkShot(s)
      return checked.ok && compile(checked.shot, new Map()).plan.growths?.[0].params.along
    }
    expect(along(shotOf())).toBe('ellipse')
    expect(along(edited(shotOf(), { shorter: 'same' }))).toBeNull()
    const made = along(
      curved([
        { at: 1, v: 0 },
        { at: 0.5, v: 2 },
      ]),
    ) as Float32Array
    const read = [0, 0.4, 0.6, 0.8, 1].map((x) => made[Math.round(x * (made.length - 1))])
    expect(read).toEqual([2, 2, 1.6, 0.8, 0].map((v) => expect.closeTo(v, 6)))
    const wrong = (points: unknown) => {
      const checked = checkShot(curved(points))
      return checked.ok ? [] : checked.problems.map((p) => p.path)
    }
    const at = 'objects[0].offspring[0].along.points'
    expect(wrong([{ at: 0.5, v: 1 }])).toEqual([])
    expect(wrong([{ at: 1.5, v: 1 }])).toEqual([`${at}[0].at`])
    expect(
      wrong([
        { at: 0, v: 1 },
        { at: 1, v: 11 },
      ]),
    ).toEqual([`${at}[1].v`])
    expect(wrong([])).toEqual([at])
  })
  it('is computed again when what it waits for changes, and not when it is drawn another way', () => {
    const s = shotOf()
    expect(touchedFrom(s, edited(s, { within: 0.07 }))).toBe(s.range.first + 1)
    expect(touchedFrom(s, edited(s, { byRegion: 50 }))).toBe(s.range.first + 1)
    expect(touchedFrom(s, edited(s, { as: 'solid', sides: 5, rough: 20 }))).toBe(null)
    const draw = stripDraw(
      edited(s, { as: 'solid', sides: 5, rough: 20 }),
      edited(s, { as: 'solid', sides: 5, rough: 20 }).objects[0],
      'a-growth',
      0,
    )
    expect([draw?.as, draw?.solid]).toEqual(['solid', { sides: 5, roughness: 0.2 }])
  })
})
describe('the look of forks', () => {
  it('goes from the first lines to the last generation, times what each has of the one before', () => {
    const s = shotOf({ generations: 3, thinner: 50, fainter: 0, brightness: 2, opacity: 80, orders: 'autumn' })
    s.shared.looks.push({
      ...{ id: 'autumn', name: 'Autumn' },
      colour: {
        stops: [
          { at: 0, colour: [1, 0, 0] },
          { at: 1, colour: [0, 1, 0] },
        ],
      },
      size: { points: [0, 1].map((at) => ({ at, v: 1 - at / 2 })) },
      opacity: { points: [0, 1].map((at) => ({ at, v: 1 - at / 4 })) },
    })
    const draw = stripDraw(s, s.objects[0], 'a-growth', 0)
    if (!draw) throw new Error('nothing is drawn')
    const tone = (phase: number) => stripTone(draw, [], { phase, age: 0, life: 1, seed: 1, fade: 1 })
    const near = (...v: number[]) => v.map((x) => expect.closeTo(x, 2))
    expect([0, 1, 2].map((g) => tone(g).width)).toEqual(near(1, 0.5 * 0.75, 0.25 * 0.5))
    expect([0, 1, 2].map((g) => tone(g).opacity)).toEqual(near(0.8, 0.8 * 0.875, 0.8 * 0.75))
    expect(tone(0).colour).toEqual(near(2, 0, 0))
    expect(tone(2).colour).toEqual(near(0, 2, 0))
    expect(touchedFrom(s, edited(s, { orders: null }))).toBe(null)
  })
})
