import { describe, expect, it } from 'vitest'
import { identity, type Matrix, partsOf } from '../engine'
import type { LookDoc, Shot, Vec3 } from '../shot'
import { checkShot, drawOf, drawsOf, partLooks, touchedFrom } from '.'
import { applyMappings, type Mappable, type MappedParticle, type Mapping } from './mapped'
import { act, after, quiet } from './testing/quiet'
import { thing } from './testing/things'

const straight = Float32Array.from({ length: 256 }, (_, i) => i / 255)
const mapping = (o: Partial<Mapping>): Mapping => ({
  ...{ of: 'size', by: 'share', from: 0, to: 1, curve: straight, joins: 'multiply', low: 0, high: 1, amount: 1, ramp: null },
  ...{ place: [0, 0, 0, 0], ask: '', seed: 5 },
  ...o,
})
const particle = (o: Partial<MappedParticle> = {}): MappedParticle => ({
  ...{ age: 1, life: 4, seed: 9, place: [1, 2, 3], velocity: [0, 3, 4] },
  ...o,
})
const plain = (): Mappable => ({
  ...{ size: 2, brightness: 3, opacity: 0.5, colour: [0.2, 0.4, 0.6] },
  ...{ softness: 0.5, turn: 0, stretch: 1, picture: 0 },
})
const applied = (list: Partial<Mapping>[], p = particle(), m: Matrix = identity()) => applyMappings(list.map(mapping), p, m, plain())
/** Twice as large, and moved. */
const moved = Float64Array.from([2, 0, 0, 10, 0, 2, 0, 20, 0, 0, 2, 30])

describe('mappings', () => {
  it('go by what a particle is, in its own space or in that of the shot', () => {
    const size = (o: Partial<Mapping>, m?: Matrix) => applied([{ joins: 'replace', ...o }], particle(), m).size
    expect(size({ by: 'share' })).toBeCloseTo(0.25, 6)
    expect(size({ by: 'age', from: 0, to: 5 })).toBeCloseTo(0.2, 6)
    expect(size({ by: 'speed', from: 0, to: 10 })).toBeCloseTo(0.5, 6)
    expect(size({ by: 'along', to: 100, place: [1, 0, 0, 0] }, moved)).toBeCloseTo(0.12, 6)
    expect(size({ by: 'along', to: 100, place: [0, 1, 0, 0] }, moved)).toBeCloseTo(0.24, 6)
    expect(size({ by: 'along', to: 100, place: [0, 0, 1, 0] }, moved)).toBeCloseTo(0.36, 6)
    expect(size({ by: 'distance', to: 100, place: [12, 24, 86] }, moved)).toBeCloseTo(0.5, 6)
    // The speed is that of the system itself.
    expect(size({ by: 'speed', to: 10 }, moved)).toBeCloseTo(0.5, 6)
  })
  it('draw a number of each particle’s own, evenly, which another act does not share', () => {
    const drawn = (seed: number) =>
      Array.from({ length: 4000 }, (_, i) => applied([{ by: 'random', joins: 'replace', seed }], particle({ seed: i * 7919 })).size)
    const one = drawn(1)
    expect(one.reduce((a, b) => a + b, 0) / one.length).toBeCloseTo(0.5, 1)
    for (let k = 0; k < 10; k++) {
      const n = one.filter((v) => v >= k / 10 && v < (k + 1) / 10).length
      // Within five standard deviations of a binomial of 400.
      expect(Math.abs(n - 400)).toBeLessThan(5 * Math.sqrt(400 * 0.9))
    }
    const two = drawn(2)
    const product = one.reduce((sum, v, i) => sum + (v - 0.5) * (two[i] - 0.5), 0) / one.length
    expect(Math.abs(product)).toBeLessThan(5 / 12 / Math.sqrt(one.length))
    expect(drawn(1)).toEqual(one)
  })
  it('turn hues about grey, and take colours nearer to the grey of their light or farther from it', () => {
    const coloured = (o: Partial<Mapping>, colour: Vec3) => {
      const look = { ...plain(), colour }
      return applyMappings([mapping({ joins: 'add', ...o, low: o.high })], particle(), identity(), look).colour
    }
    const near = (a: Vec3, b: Vec3) => a.forEach((x, i) => expect(x).toBeCloseTo(b[i], 6))
    near(coloured({ of: 'hue', high: 120 }, [1, 0, 0]), [0, 1, 0])
    near(coloured({ of: 'hue', high: -120 }, [1, 0.5, 0]), [0.5, 0, 1])
    near(coloured({ of: 'hue', high: 77 }, [0.4, 0.4, 0.4]), [0.4, 0.4, 0.4])
    near(coloured({ of: 'saturation', joins: 'multiply', high: 0 }, [1, 0, 0]), [0.2126, 0.2126, 0.2126])
    near(coloured({ of: 'saturation', joins: 'multiply', high: 1 }, [0.3, 0.2, 0.9]), [0.3, 0.2, 0.9])
  })
  it('go by the time in the phase, since birth where nothing turned', () => {
    const size = (o: Partial<MappedParticle>) => applied([{ by: 'phase', joins: 'replace', to: 4 }], particle(o)).size
    expect(size({ age: 3 })).toBeCloseTo(0.75, 6)
    expect(size({ age: 3, phaseStart: 2 })).toBeCloseTo(0.25, 6)
  })
  it('run the other way where the range does, and are a step where it has no width', () => {
    const size = (from: number, to: number, age: number) => applied([{ by: 'age', joins: 'replace', from, to }], particle({ age })).size
    expect([size(4, 2, 1), size(4, 2, 3), size(4, 2, 5)]).toEqual([1, expect.closeTo(0.5, 6), 0])
    expect([size(3, 3, 2.9), size(3, 3, 3.1)]).toEqual([0, 1])
  })
  it('multiply, add or replace, in their order, and stay in their bounds', () => {
    const half = { low: 0.5, high: 0.5 }
    expect(applied([{ joins: 'multiply', ...half }]).size).toBe(1)
    expect(applied([{ joins: 'add', ...half }]).size).toBe(2.5)
    expect(applied([{ joins: 'replace', ...half }]).size).toBe(0.5)
    expect(
      applied([
        { joins: 'add', ...half },
        { joins: 'multiply', ...half },
      ]).size,
    ).toBe(1.25)
    expect(
      applied([
        { joins: 'multiply', ...half },
        { joins: 'add', ...half },
      ]).size,
    ).toBe(1.5)
    expect(applied([{ of: 'brightness', joins: 'add', low: 2, high: 2 }]).brightness).toBe(5)
    expect(applied([{ of: 'opacity', joins: 'add', low: 2, high: 2 }]).opacity).toBe(1)
    expect(applied([{ joins: 'add', low: -9, high: -9 }]).size).toBe(0)
    // The curve lies between the range and what comes out.
    const root = Float32Array.from(straight, Math.sqrt)
    expect(applied([{ joins: 'replace', curve: root, low: 10, high: 20 }]).size).toBeCloseTo(15, 2)
  })
  it('go along the ramp of a look, mixed in linear light by their amount', () => {
    const ramp: LookDoc = {
      ...{ id: 'r', name: 'ramp', size: { points: [{ at: 0, v: 1 }] }, opacity: { points: [{ at: 0, v: 1 }] } },
      colour: {
        stops: [
          { at: 0, colour: [1, 0, 0] },
          { at: 1, colour: [0, 0, 2] },
        ],
      },
    }
    const colour = (o: Partial<Mapping>) => applied([{ of: 'colour', ramp, ...o }]).colour.map((c) => Math.round(c * 1e4) / 1e4)
    expect(colour({ joins: 'replace' })).toEqual([0.75, 0, 0.5])
    expect(colour({ joins: 'multiply' })).toEqual([0.15, 0, 0.3])
    expect(colour({ joins: 'add' })).toEqual([0.95, 0.4, 1.1])
    expect(colour({ joins: 'replace', amount: 0.5 })).toEqual([0.475, 0.2, 0.55])
  })
})
describe('a set of colours', () => {
  it('gives each particle one of them, as often as its step is wide, and none between two', () => {
    const colours: Vec3[] = [[1, 0, 0], [0, 1, 0], [0, 0, 1]] // biome-ignore format: one line
    const ramp: LookDoc = {
      ...{ id: 'set', name: 'set', size: { points: [{ at: 0, v: 1 }] }, opacity: { points: [{ at: 0, v: 1 }] } },
      colour: { steps: true, stops: [0, 0.5, 0.75].map((at, i) => ({ at, colour: colours[i] })) },
    }
    const seen = Array.from({ length: 4000 }, (_, i) =>
      applied([{ of: 'colour', by: 'random', joins: 'replace', ramp }], particle({ seed: i * 7919 })).colour.indexOf(1),
    )
    for (const [k, share] of [0.5, 0.25, 0.25].entries()) {
      const n = seen.filter((x) => x === k).length
      expect(Math.abs(n - 4000 * share)).toBeLessThan(5 * Math.sqrt(4000 * share * (1 - share)) + 16)
    }
    expect(seen.filter((x) => x < 0)).toEqual([])
  })
})
describe('mappings of a shot', () => {
  const shotOf = (...acts: ReturnType<typeof act>[]): Shot => {
    const s = quiet((d) => {
      d.objects = [thing('bell', { place: [0, 3, 0] })]
      d.cameras[0].place = [0, 0, 4]
      d.systems[0].whole.look.push(...acts)
    })
    const checked = checkShot(s)
    if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
    return checked.shot
  }
  it('know where an object and the camera are, in the units of the engine', () => {
    const s = shotOf(
      act('mapValue', { by: 'object', object: 'bell', joins: 'replace', of: 'opacity', low: 20, high: 80 }),
      act('mapValue', { id: 'b', by: 'camera', joins: 'multiply', less: 2, more: 3 }),
      act('mapColour', { by: 'share', from: 7, to: 9, look: 'cooling', amount: 25 }),
    )
    expect(drawOf(s, s.systems[0], 0).mappings).toMatchObject([
      { by: 'distance', place: [0, 3, 0], of: 'opacity', low: 0.2, high: 0.8, from: 0, to: 3 },
      { by: 'distance', place: [0, 0, 4], of: 'size', low: 2, high: 3 },
      // What is a share already has no range of its own.
      { by: 'share', of: 'colour', from: 0, to: 1, amount: 0.25, ramp: { id: 'cooling' } },
    ])
    for (const a of s.systems[0].whole.look) if (a.kind === 'mapColour') a.muted = true
    expect(drawOf(s, s.systems[0], 0).mappings).toHaveLength(2)
  })
  it('are eight at most in a section, and as many in a phase', () => {
    const many = (n: number) => Array.from({ length: n }, (_, k) => act('mapValue', { id: `m${k}` }))
    const s = shotOf(...many(8))
    s.systems[0].phases[0].look = many(8).map((a) => ({ ...a, id: `p${a.id}` }))
    expect(checkShot(s).ok).toBe(true)
    expect(drawOf(s, s.systems[0], 0).mappings).toHaveLength(16)
    s.systems[0].whole.look.push(act('mapColour'))
    const checked = checkShot(s)
    expect(checked.ok ? [] : checked.problems).toEqual([
      { path: 'systems[0].whole.look', message: 'holds more than 8 mappings; join some of them, or give a phase its own' },
    ])
  })
  it('are in what is exported and asked for, where the system is moved as one too', async () => {
    const s = shotOf(act('mapValue', { by: 'y', from: 0, to: 10, joins: 'replace', of: 'size', low: 0, high: 1 }))
    const [part] = partsOf((await after(s, 2)).parts, 'points')
    expect(part.count).toBe(50)
    expect(partLooks(part, drawsOf(s, s.systems[0], 0), [])(0).size).toBeCloseTo(0, 6)
    expect(partLooks(part, drawsOf(s, s.systems[0], 0), [], moved)(0).size).toBe(1)
    const up = Float64Array.from(identity())
    up[7] = 4
    expect(partLooks(part, drawsOf(s, s.systems[0], 0), [], up)(0).size).toBeCloseTo(0.4, 6)
  })
  it('run nothing again, also where sizes decide what happens', () => {
    const s = shotOf(act('mapValue'))
    s.systems[0].whole.contact = [act('small')]
    const edited = structuredClone(s)
    Object.assign(edited.systems[0].whole.look.at(-1) as object, { more: 3, by: 'random' })
    expect(touchedFrom(s, edited)).toBe(null)
    edited.systems[0].whole.look.pop()
    expect(touchedFrom(s, edited)).toBe(null)
  })
})
