import { describe, expect, it } from 'vitest'
import { checkShot } from '../acts'
import { demoShot } from '../acts/testing/shots'
import { thing } from '../acts/testing/things'
import { framesPerSecond, type MeshShape, problemText, timeOf } from '../shot'
import { pictureAt } from '../stage/plate'
import { fractionOf, matchPlate, plateTiming } from './plateTiming'

const plate = (count: number, o: Partial<MeshShape> = {}): MeshShape => ({
  ...{ kind: 'mesh', asset: 'a'.repeat(64), unit: 1, up: 'y', rate: 24, start: 0, speed: 1, after: 'hold' },
  poses: Array.from({ length: count - 1 }, () => 'b'.repeat(64)),
  ...o,
})
const shot = (last: number, rate = { num: 24, den: 1 }) => ({ rate, range: { first: 10, last } })

describe('how a plate and a shot go together', () => {
  it('says the frames of its first and its last picture, as they are shown', () => {
    for (const [s, p] of [
      [shot(81), plate(72)],
      [shot(200, { num: 25, den: 1 }), plate(50, { rate: 25, start: 1 })],
      [shot(200, { num: 24000, den: 1001 }), plate(48, { rate: 24000 / 1001 })],
      [shot(200), plate(30, { speed: 0.5 })],
    ] as const) {
      const { begins, ends, pictures } = plateTiming(p, s)
      const at = (frame: number) => pictureAt(p, pictures, timeOf(s, frame))
      expect([at(begins), at(ends)]).toEqual([0, pictures - 1])
      expect(at(ends - Math.ceil(framesPerSecond(s) / (p.rate * p.speed)))).toBe(pictures - 2)
    }
  })
  it('is matched, too short, or at another rate', () => {
    expect(plateTiming(plate(72), shot(81))).toMatchObject({ odd: false, short: false, matched: true })
    expect(plateTiming(plate(72), shot(82))).toMatchObject({ odd: false, short: true, matched: false })
    expect(plateTiming(plate(72, { after: 'repeat' }), shot(82)).short).toBe(false)
    expect(plateTiming(plate(72), shot(81, { num: 25, den: 1 }))).toMatchObject({ odd: true, matched: false })
    // 23.976 is not 24, and a plate at twice its rate and half its speed is one of the shot's.
    expect(plateTiming(plate(72, { rate: 24000 / 1001 }), shot(81)).odd).toBe(true)
    expect(plateTiming(plate(72, { rate: 48, speed: 0.5 }), shot(81)).odd).toBe(false)
  })
  it('is made to match: the shot takes its rate, as a fraction where films have one, and its length', () => {
    expect([24, 25, 24000 / 1001, 30000 / 1001, 59.94, 12.5].map(fractionOf)).toEqual([
      { num: 24, den: 1 },
      { num: 25, den: 1 },
      { num: 24000, den: 1001 },
      { num: 30000, den: 1001 },
      { num: 60000, den: 1001 },
      { num: 12500, den: 1000 },
    ])
    const s = demoShot()
    s.objects.push(thing('footage', { shape: plate(40, { rate: 24000 / 1001, start: 2, speed: 2 }) }))
    s.assets.push({ hash: 'a'.repeat(64), name: 'one' }, { hash: 'b'.repeat(64), name: 'others' })
    matchPlate(s, 'footage')
    const { shape } = s.objects[s.objects.length - 1]
    expect(plateTiming(shape as MeshShape, s)).toMatchObject({ matched: true, pictures: 40 })
    const r = checkShot(structuredClone(s))
    expect(r.ok ? [] : r.problems.map(problemText)).toEqual([])
    // What is no plate changes nothing.
    const before = structuredClone(s)
    matchPlate(s, 'anvil')
    matchPlate(s, 'nobody')
    expect(s.range).toEqual(before.range)
  })
})
