import { describe, expect, it } from 'vitest'
import { apart, apartWords, type Frame, partsOf, pointColumn, World } from '../engine'
import { nodeKernels } from '../hosts/node/kernels'
import { type ActDoc, defaultsOf, type Shot, sampleNumber } from '../shot'
import { compile } from './compile'
import { loopWarmFrames } from './looping'
import { actOf } from './registry'
import { demoShot } from './testing/shots'
import { touchedFrom } from './touched'
import { tieShot } from './values'

const act = (kind: string, values: Record<string, unknown> = {}): ActDoc =>
  ({ id: kind, kind, seed: 3, ...defaultsOf(actOf(kind).params), ...values }) as ActDoc
/** A fountain of a second and a half that turbulence and a wind lead astray. */
function looped(change: (s: Shot) => void = () => {}): Shot {
  const s = structuredClone(demoShot())
  const [system] = s.systems
  Object.assign(s, { objects: [], forces: [], lights: [], glows: [], gases: [], range: { first: 0, last: 23 }, loop: { cross: 0 } })
  Object.assign(s, { substeps: 2, systems: [system], layers: s.layers.slice(0, 1) })
  s.layers[0].finish = []
  Object.assign(system, { life: { value: 1.2, vary: 0.3 }, endless: false, space: null, phases: [], copies: [], limit: 10000 })
  system.birth = [act('steady', { rate: 217.3, start: 0, end: null, source: null, from: 'middle', speed: { value: 2, vary: 1 } })]
  system.whole = {
    movement: [act('turbulence', { renewal: 0.7, strength: 8, eddy: 0.5 }), act('wind', { speed: 1.5, renewal: 0.2 })],
    contact: [],
    offspring: [],
    look: [],
  }
  change(s)
  return s
}
const frames = async (s: Shot, wanted: number[]): Promise<Frame[]> => {
  const host = await nodeKernels()
  const w = new World(host, compile(s, new Map()).plan, 1 << 27)
  const out: Frame[] = []
  for (const f of wanted) {
    while (w.frame < f) w.step()
    out.push(w.capture())
  }
  w.dispose()
  host.team.dispose()
  return out
}
const columns = (f: Frame, name: Parameters<typeof pointColumn>[1] = 'px') => [...pointColumn(partsOf(f.parts, 'points')[0], name)]

describe('a shot that loops', () => {
  it('comes around to the very state it began with: births, lives, noise and wind', async () => {
    const [first, inside, next, later] = await frames(looped(), [0, 10, 24, 34])
    expect(columns(first).length).toBeGreaterThan(200)
    for (const name of ['px', 'py', 'pz', 'vx', 'age', 'seed'] as const) {
      expect(columns(next, name), name).toEqual(columns(first, name))
      expect(columns(later, name), name).toEqual(columns(inside, name))
    }
    expect(columns(inside)).not.toEqual(columns(first))
    // Without a loop neither the state nor its noise comes back.
    const [a, b] = await frames(
      looped((s) => Object.assign(s, { loop: null, warm: 2 })),
      [0, 24],
    )
    expect(columns(b)).not.toEqual(columns(a))
  })
  it('has run whole times around, as long as its lives need', () => {
    expect(loopWarmFrames(looped())).toBe(48)
    expect(loopWarmFrames(looped((s) => void (s.warm = 2.5)))).toBe(72)
    expect(loopWarmFrames(looped((s) => void (s.loop = { cross: 0.75 })))).toBe(72)
    expect(loopWarmFrames(looped((s) => void (s.systems[0].timeScale = 40)))).toBe(96)
    expect(loopWarmFrames(looped((s) => void (s.loop = null)))).toBe(0)
    // One life after the other where some start from others: those were somewhere else when these were born.
    const two = (source: string | null) =>
      looped((s) => {
        const other = structuredClone(s.systems[0])
        other.id = 'other'
        other.birth[0] = { ...other.birth[0], id: 'other-birth', source }
        s.systems.push(other)
      })
    expect(loopWarmFrames(two(null))).toBe(48)
    expect(loopWarmFrames(two(looped().systems[0].id))).toBe(72)
  })
  it('meets itself where particles start from particles, which were on their way', async () => {
    const s = looped((x) => {
      const other = structuredClone(x.systems[0])
      other.id = 'other'
      other.birth[0] = { ...other.birth[0], id: 'other-birth', source: x.systems[0].id, from: 'point' }
      x.systems.push(other)
    })
    const [first, next] = await frames(s, [0, 24])
    expect(apart(first, next)).toMatchObject({ alone: 0, metres: 0 })
    expect(partsOf(first.parts, 'points')).toHaveLength(2)
  })
  it('gives those without an end an end, and bursts again in each time around', async () => {
    const s = looped((x) => {
      x.systems[0].endless = true
      x.systems[0].birth = [act('burst', { count: 40, at: 0.5, source: null, from: 'middle' })]
    })
    const [before, after, last, next, again] = await frames(s, [11, 14, 23, 24, 38])
    expect([before, after, last, next, again].map((f) => columns(f).length)).toEqual([0, 40, 40, 0, 40])
    expect(columns(again)).toEqual(columns(after))
  })
  it('makes waves and wandering come around, however long they are', () => {
    const s = looped()
    const modulated = (kind: string, values: Record<string, unknown>) => ({
      value: 1,
      modulators: [{ id: 'm', kind, seed: 5, mode: 'add', ...defaultsOf(actOf(kind).params), ...values }],
    })
    for (const m of [modulated('wave', { period: 0.37 }), modulated('wander', { rate: 1.3, roughness: 60 })]) {
      s.systems[0].whole.movement[0].strength = m as never
      tieShot(s)
      const at = (t: number) => sampleNumber(s.systems[0].whole.movement[0].strength as never, t)
      expect(at(1)).toBeCloseTo(at(0), 9)
      expect(at(1 - 1e-4)).toBeCloseTo(at(1e-4), 1)
      expect(new Set([0, 0.07, 0.19, 0.31, 0.47].map(at)).size).toBe(5)
    }
  })
  it('touches all of it with any change', () => {
    const s = looped()
    const late = looped((x) => void (x.systems[0].whole.movement[0].strength = { keys: [{ t: 0.9, v: 4, ease: 'hold' }] } as never))
    expect(touchedFrom(s, late)).toBe(-48)
    expect(
      touchedFrom(
        s,
        looped((x) => void (x.range.last = 30)),
      ),
    ).toBe(-31 * 2)
    expect(touchedFrom(s, s)).toBeNull()
  })
})
describe('the ends of a loop', () => {
  it('are compared particle by particle, also where several of a seed live at once', async () => {
    const s = looped((x) => void (x.systems[0].life = { value: 1.6, vary: 0.3 }))
    const [first, next, other] = await frames(s, [0, 24, 30])
    expect(apart(first, next)).toEqual({ particles: 2 * columns(first).length, alone: 0, metres: 0, gas: 0 })
    expect(apartWords(apart(first, next))).toBe('the ends meet exactly')
    const far = apart(first, other)
    expect(far.alone).toBeGreaterThan(50)
    expect(far.metres).toBeGreaterThan(0.05)
    expect(apartWords(far)).toMatch(/^[\d,]+ of [\d,]+ particles at both ends have no partner, particles are up to [\d.]+ m apart$/)
  })
})
