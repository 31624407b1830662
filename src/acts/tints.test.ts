import { describe, expect, it } from 'vitest'
import { type Frame, frameMark, partOf, partsOf, pointColumn, stripTints, tinted, tintOf } from '../engine'
import { framesOn, withWorld } from '../engine/testing/plans'
import { stripsTable } from '../formats/table/strips'
import { newId, type Shot } from '../shot'
import { actOf, checkShot, compile, drawsOf, partLooks, readerOf, stripDraw, touchedFrom } from '.'
import { act, after, quiet } from './testing/quiet'

const RED: [number, number, number] = [0.9, 0.1, 0.02]
/** Parents of one colour over their life that shed; children in white; and what the children shed. */
const shotOf = (colour: number, change: (s: Shot) => void = () => {}): Shot =>
  quiet((s) => {
    const [parents] = s.systems
    parents.birth = [
      act('burst', { count: 5, at: 0, source: null, speed: 3, every: null, spread: 0, along: 'direction', direction: [1, 0, 0] }),
    ]
    const look = (id: string, at0: [number, number, number], at1 = at0) => ({
      ...structuredClone(s.shared.looks[0]),
      ...{ id, name: id, colour: { stops: [0, 1].map((at) => ({ at, colour: at ? at1 : at0 })) } },
    })
    s.shared.looks = [look('parents', RED), look('white', [1, 1, 1]), look('grey', [0.25, 0.25, 0.25])]
    const system = (id: string, looks: string) => {
      const x = structuredClone(parents)
      Object.assign(x, { id, name: id, seed: 5, birth: [], life: 100 })
      x.whole = {
        movement: [],
        contact: [],
        offspring: [],
        look: [{ ...act('overLife', { look: looks, brightness: 1 }), id: newId('look') }],
      }
      x.phases = [{ ...x.phases[0], id: `${id}-phase` }]
      return x
    }
    parents.whole.look = [{ ...act('overLife', { look: 'parents', brightness: 4 }), id: newId('look') }]
    const shed = { speed: 0, inherit: 0, until: null, each: 'second', rate: 30 }
    parents.whole.offspring = [{ ...act('shed', { to: 'children', colour, ...shed }), id: newId('shed') }]
    s.systems.push(system('children', 'white'), system('grandchildren', 'grey'))
    s.systems[1].whole.offspring = [{ ...act('shed', { to: 'grandchildren', colour, ...shed, rate: 5 }), id: newId('shed') }]
    change(s)
  })
const part = (f: Frame, id: string) => {
  const found = partOf(f.parts, 'points', id)
  if (!found?.count) throw new Error(`nobody in ${id}`)
  return found
}
const coloursOf = (s: Shot, f: Frame, id: string) => {
  const system = s.systems.find((x) => x.id === id)
  if (!system) throw new Error(id)
  const looks = partLooks(part(f, id), drawsOf(s, system, 1), [0])
  return Array.from({ length: part(f, id).count }, (_, i) => looks(i).colour)
}
const near = (a: readonly number[], b: readonly number[]) => a.forEach((x, k) => expect(x).toBeCloseTo(b[k], 2))

describe('a colour that is taken over', () => {
  it('is packed to a part in a hundred, whatever its brightness, and none is nothing', () => {
    for (const colour of [RED, [4, 2, 0], [0.01, 0.02, 0.03], [1, 1, 1]] as const) {
      const most = Math.max(...colour)
      near(
        tinted([1, 1, 1], tintOf(colour, 1)),
        colour.map((c) => c / most),
      )
      near(tinted(colour, tintOf([1, 1, 1], 0)), colour)
    }
    expect([tintOf([0, 0, 0], 1), tintOf(RED, 0)]).toEqual([0, 0])
  })
  it('goes to children and on to theirs, each as bright as it was, by its share', async () => {
    const s = shotOf(100)
    const f = await after(s, 20)
    const hue = RED.map((c) => c / RED[0])
    for (const c of coloursOf(s, f, 'children')) near(c, hue)
    for (const c of coloursOf(s, f, 'grandchildren'))
      near(
        c,
        hue.map((h) => h * 0.25),
      )
    const half = shotOf(50)
    for (const c of coloursOf(half, await after(half, 20), 'children'))
      near(
        c,
        hue.map((h) => (1 + h) / 2),
      )
    const none = shotOf(0)
    const without = await after(none, 20)
    for (const c of coloursOf(none, without, 'children')) near(c, [1, 1, 1])
    expect(part(without, 'children').more ?? []).not.toContain('tint')
    // The colour is all that differs.
    for (const name of ['px', 'seed', 'age'] as const)
      expect([...pointColumn(part(f, 'children'), name)]).toEqual([...pointColumn(part(without, 'children'), name)])
  })
  it('is that of the moment: of a parent that goes from red to blue', async () => {
    const s = shotOf(100, (x) => {
      x.systems[0].life = 1
      x.shared.looks[0].colour.stops = [
        { at: 0, colour: [1, 0, 0] },
        { at: 1, colour: [0, 0, 1] },
      ]
    })
    const f = await after(s, 20)
    const ages = pointColumn(part(f, 'children'), 'age')
    coloursOf(s, f, 'children').forEach(([r, , b], i) => {
      // It was shed when its parent was so old; a substep of waiting aside.
      const then = 20 / 24 - ages[i]
      expect(b / (r + b)).toBeGreaterThan(then - 0.08)
      expect(b / (r + b)).toBeLessThan(then + 0.08)
    })
  })
  it('colours what it leaves behind, also when it is gone', async () => {
    const s = shotOf(100, (x) => {
      x.systems[1].whole.offspring.push({ ...act('trail', { seconds: 0.5, own: 'all', fade: 2 }), id: 'trail' })
      x.systems[1].whole.movement.push({ ...act('gravity', {}), id: newId('gravity') })
      x.systems[1].life = 0.4
    })
    const f = await after(s, 20)
    const strips = partsOf(f.parts, 'strips')[0]
    const tints = stripTints(strips)
    expect(strips.strips).toBeGreaterThan(part(f, 'children').count)
    expect(new Set(tints)).toEqual(new Set([tintOf(RED, 1)]))
    const draw = stripDraw(s, s.systems[1], 'trail', 1)
    if (!draw) throw new Error('no trail')
    const table = stripsTable(strips, draw, drawsOf(s, s.systems[1], 1))
    const [r, g] = ['r', 'g'].map((n) => table.columns.find((c) => c.name === n)?.data as Float32Array)
    expect(r.some((x) => x > 0)).toBe(true)
    r.forEach((x, i) => expect(g[i]).toBeCloseTo(x * (RED[1] / RED[0]), 2))
  })
  it('is the same on three threads and from a saved state', async () => {
    const s = shotOf(70, (x) => {
      x.systems[1].whole.offspring.push({ ...act('trail', { seconds: 0.3 }), id: 'trail' })
      x.systems[1].life = 0.4
    })
    const checked = checkShot(s)
    if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
    const { plan } = compile(checked.shot, new Map())
    const whole = await withWorld(plan, (w) => frameMark(framesOn(w, 24)), 1)
    expect(await withWorld(plan, (w) => frameMark(framesOn(w, 24)), 3)).toBe(whole)
    const state = await withWorld(plan, (w) => {
      framesOn(w, 15)
      return w.save()
    })
    const on = await withWorld(plan, (w) => {
      w.restore(state)
      return frameMark(framesOn(w, 9))
    })
    expect(on).toBe(whole)
  })
  it('is said in the sentence of the act where there is any', () => {
    const said = (colour: number) => {
      const doc = shotOf(colour).systems[0].whole.offspring[0]
      return actOf('shed').sentence(readerOf(doc))
    }
    expect(said(0).some((x) => typeof x === 'object' && x.param === 'colour')).toBe(false)
    expect(said(40).some((x) => typeof x === 'object' && x.param === 'colour')).toBe(true)
  })
  it('makes the colours of the parents a part of the simulation, and only then', () => {
    const redder = (s: Shot) => {
      const x = structuredClone(s)
      x.shared.looks[0].colour.stops[0].colour = [0, 1, 0]
      return x
    }
    const [with_, without] = [shotOf(100), shotOf(0)]
    expect(touchedFrom(with_, redder(with_))).not.toBeNull()
    expect(touchedFrom(without, redder(without))).toBeNull()
    const bigger = structuredClone(with_)
    bigger.shared.looks[0].size.points[0].v = 9
    expect(touchedFrom(with_, bigger)).toBeNull()
  })
})
