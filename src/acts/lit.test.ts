import { describe, expect, it } from 'vitest'
import { POINT_COLUMNS, type PointsPart, pointColumn } from '../engine'
import { type LightDoc, type Shot, sampleNumber, sampleVec3, type Vec3 } from '../shot'
import { ambientOf, checkShot, litShot, marchScene, references, shiningLights, tieShot, touchedFrom } from '.'
import { demoShot } from './testing/shots'
import { primitive, thing } from './testing/things'

const lamp = (o: Partial<LightDoc> = {}): LightDoc => ({
  ...demoShot().lights[0],
  id: 'lamp',
  name: 'Lamp',
  place: [0, 1, 0],
  aim: [0, 0, -1],
  ...o,
})
const shotWith = (light: LightDoc, change: (s: Shot) => void = () => {}): Shot => {
  const s = demoShot()
  s.lights = [light]
  change(s)
  tieShot(s)
  return s
}
/** Particles at places, of ages. */
function particles(element: string, at: [Vec3, number][]): PointsPart {
  const part: PointsPart = { kind: 'points', element, count: at.length, data: new ArrayBuffer(POINT_COLUMNS.length * at.length * 4) }
  at.forEach(([p, age], i) => {
    ;(['px', 'py', 'pz'] as const).forEach((c, a) => (pointColumn(part, c)[i] = p[a]))
    pointColumn(part, 'age')[i] = age
  })
  return part
}
const places = (s: Shot, t = 0) => [sampleVec3(s.lights[0].place, t), sampleVec3(s.lights[0].aim, t)].flat()
const near = (a: readonly number[], b: readonly number[]) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i], 6))

describe('a light that follows', () => {
  it('nothing stays where it is, and the shot is the very same', () => {
    const s = shotWith(lamp())
    expect(litShot(s, 1, new Map(), [])).toBe(s)
    const muted = shotWith(lamp({ follows: 'cart', muted: true }))
    expect(litShot(muted, 1, new Map(), [])).toBe(muted)
  })
  it('an object goes along with it and turns with it, by its parents too', () => {
    const keyed = {
      keys: [
        { t: 0, v: 0, ease: 'linear' as const },
        { t: 2, v: 4, ease: 'linear' as const },
      ],
    }
    const s = shotWith(lamp({ follows: 'cart' }), (d) => {
      const rail = thing('rail', { shape: primitive('box'), place: [keyed as never, 0, 0] })
      d.objects = [rail, thing('cart', { shape: primitive('box'), parent: 'rail', place: [0, 2, 0], rotate: [0, 90, 0] })]
    })
    // About Y by 90° what points along −Z points along −X.
    near(places(litShot(s, 1, new Map(), [])), [2, 3, 0, 1, 2, 0])
    near(places(litShot(s, 2, new Map(), [])), [4, 3, 0, 3, 2, 0])
  })
  it('a system goes along with the middle of all, or with the one that was born first, moved as the whole is', () => {
    const part = particles('sparks', [
      [[0, 0, 0], 0.1],
      [[2, 0, 0], 0.4],
      [[4, 3, 0], 0.2],
    ])
    const at = (which: LightDoc['which']) => {
      const s = shotWith(lamp({ follows: 'sparks', which }), (d) => {
        d.systems[0].place = [0, 10, 0]
      })
      return places(litShot(s, 0, new Map(), [part]))
    }
    near(at('middle'), [2, 12, 0, 2, 11, -1])
    near(at('oldest'), [2, 11, 0, 2, 10, -1])
  })
  it('a system in which nobody lives gives no light, and is felt by gases as by objects', () => {
    const s = shotWith(lamp({ follows: 'sparks', kind: 'point', strength: 8 }))
    const dark = litShot(s, 0, new Map(), [particles('sparks', [])])
    expect(sampleNumber(dark.lights[0].strength, 0)).toBe(0)
    const lit = litShot(s, 0, new Map(), [particles('sparks', [[[1, 2, 3], 0]])])
    near(marchScene(lit, 1, 0).lights[0].place, [1, 3, 3])
  })
  it('is checked and led elsewhere as everything that names another', () => {
    const s = shotWith(lamp({ follows: 'nobody' }))
    expect(checkShot(s)).toMatchObject({
      ok: false,
      problems: [{ message: expect.stringContaining('no object or system has the id nobody') }],
    })
    const named = references(shotWith(lamp({ follows: 'sparks' }))).filter((r) => r.element.id === 'lamp')
    expect(named.map((r) => [r.to, r.id])).toEqual([['source', 'sparks']])
  })
})

describe('a light all around', () => {
  const around = (o: Partial<LightDoc> = {}) =>
    lamp({ kind: 'around', asset: 'a'.repeat(64), above: [0.5, 0.4, 0.3], below: [0.1, 0.1, 0.1], strength: 2, ...o })
  it('gives what is soft what its file gives on the mean, in place of the even light, and shines from nowhere', () => {
    const s = shotWith(around())
    const { above, below } = ambientOf(s, 0)
    near(above, [1, 0.8, 0.6])
    near(below, [0.2, 0.2, 0.2])
    expect(shiningLights(s)).toEqual([])
    const scene = marchScene(s, 0.5, 0)
    expect([scene.lights.length, scene.above[0]]).toEqual([0, 0.5])
    expect(ambientOf(shotWith(around({ asset: null })), 0)).toEqual(ambientOf(shotWith(lamp()), 0))
  })
  it('needs its file in the list, and moves nothing that is simulated', () => {
    expect(checkShot(shotWith(around()))).toMatchObject({
      ok: false,
      problems: [{ message: expect.stringContaining('not in the list of assets') }],
    })
    const listed = (light: LightDoc) => shotWith(light, (d) => void (d.assets = [...d.assets, { hash: 'a'.repeat(64), name: 'night.hdr' }]))
    const checked = checkShot(listed(around()))
    expect(checked.ok).toBe(true)
    expect(touchedFrom(listed(around()), listed(around({ turn: 40, strength: 1 })))).toBeNull()
  })
})
