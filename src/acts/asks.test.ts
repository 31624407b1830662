import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Asker, Heap, identity, type KernelHost, partsOf, pointColumn, SCRATCH } from '../engine'
import { nodeKernels } from '../hosts/node/kernels'
import type { Shot } from '../shot'
import { checkShot, drawnByKernels, drawsOf, findAsked, partLooks, touchedFrom } from '.'
import { act, after, quiet } from './testing/quiet'
import { primitive, thing } from './testing/things'

let host: KernelHost
let asker: Asker
beforeAll(async () => {
  host = await nodeKernels({ threads: 2 })
  const heap = new Heap(host.memory, 256 * 1024 * 1024)
  asker = new Asker({ heap, host, scratch: heap.take(SCRATCH.bytes * 2) })
})
afterAll(() => host.team.dispose())

/** Sizes that go by something from `from` to `to`, as numbers of it. */
const mapped = (values: Record<string, unknown>) =>
  act('mapValue', { joins: 'replace', of: 'size', from: 0, to: 1000, low: 0, high: 1000, ...values })
const shotOf = (values: Record<string, unknown>, change: (s: Shot) => void = () => {}): Shot => {
  const s = quiet((d) => {
    d.systems[0].whole.look = [mapped(values)]
    change(d)
  })
  const checked = checkShot(s)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  return checked.shot
}
/** The sizes of all particles after some frames, with what kernels find out when they are there. */
async function sizes(s: Shot, frames: number, kernels = true) {
  const frame = await after(s, frames)
  const [part] = partsOf(frame.parts, 'points')
  const t = frames / 24
  const o = { shot: s, system: s.systems[0], part, matrix: identity(), meshes: new Map(), t, parts: frame.parts }
  if (kernels) findAsked(asker, o)
  const look = partLooks(part, drawsOf(s, s.systems[0], t, frame.parts), [])
  return { part, sizes: Array.from({ length: part.count }, (_, i) => look(i).size) }
}
const FLYING = [act('burst', { count: 60, at: 0, source: null, every: null, speed: 2, spread: 180 })]

describe('what looks ask of particles', () => {
  it('is how many were born before, and how far each is from where that was', async () => {
    const flying = (by: string) => shotOf({ by }, (s) => (s.systems[0].birth = FLYING))
    const order = await sizes(flying('order'), 3)
    const ids = pointColumn(order.part, 'id')
    order.sizes.forEach((v, i) => expect(v).toBeCloseTo(ids[i], 3))
    const born = await sizes(flying('source'), 12)
    // All start in the middle.
    const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(born.part, n))
    expect(Math.max(...born.sizes)).toBeGreaterThan(0.8)
    born.sizes.forEach((v, i) => expect(v).toBeCloseTo(Math.hypot(x[i], y[i], z[i]), 4))
  })
  it('is when it last met a collider, and how hard', async () => {
    // From a metre, downwards at 4 m/s: it meets the floor after a quarter of a second, and half of it 1 m/s later.
    const falling = (values: Record<string, unknown>) =>
      shotOf(values, (s) => {
        s.objects = [thing('floor', { shape: { kind: 'plane', size: 9, endless: false }, roles: { source: false, collider: true } })]
        const down = { at: 0, every: null, source: 'top', speed: 4, spread: 0, along: 'direction', direction: [0, -1, 0], count: 4 }
        s.objects.push(thing('top', { place: [0, 1, 0] }))
        s.systems[0].birth = [act('burst', down)]
        s.systems[0].whole.contact = [act('bounce', { restitution: 50 })]
      })
    const strike = await sizes(falling({ by: 'strike' }), 12)
    for (const v of strike.sizes) expect(v).toBeCloseTo(4, 1)
    const since = await sizes(falling({ by: 'contact' }), 12)
    for (const v of since.sizes) expect(v).toBeCloseTo(0.25, 2)
    // Before that it never met one.
    expect((await sizes(falling({ by: 'strike' }), 4)).sizes).toEqual([0, 0, 0, 0])
    expect((await sizes(falling({ by: 'contact' }), 4)).sizes.every((v) => v === 1000)).toBe(true)
  })
  it('is how far the surface of an object is, wherever that stands, once kernels are there', async () => {
    const s = shotOf({ by: 'surface', object: 'ball' }, (d) => {
      d.objects = [thing('ball', { shape: primitive('sphere', { radius: 1, detail: 64 }), place: [0, 3, 0], scale: [2, 2, 2] })]
      d.systems[0].birth = FLYING
    })
    const told = await sizes(s, 12)
    const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(told.part, n))
    told.sizes.forEach((v, i) => expect(Math.abs(v - Math.max(0, Math.hypot(x[i], y[i] - 3, z[i]) - 2))).toBeLessThan(0.01))
    // Without kernels it is as if there were no card.
    const bare = await sizes(s, 12, false)
    s.systems[0].whole.look = []
    const plain = await sizes(s, 12, false)
    expect(bare.sizes).toEqual(plain.sizes)
  })
  it('is a place in the space of an object', async () => {
    const s = shotOf({ by: 'x', object: 'tilted' }, (d) => {
      d.objects = [thing('tilted', { place: [0, -5, 0], rotate: [0, 0, 90] })]
      d.systems[0].birth = FLYING
    })
    const told = await sizes(s, 12)
    const y = pointColumn(told.part, 'py')
    told.sizes.forEach((v, i) => expect(v).toBeCloseTo(y[i] + 5, 4))
  })
  it('is how many are near', async () => {
    const told = await sizes(shotOf({ by: 'near', within: 0.1 }), 2)
    // All fifty stand in one place.
    for (const v of told.sizes) expect(v).toBeCloseTo(49, 3)
  })
  it('turns and stretches, as plain code has it', async () => {
    const s = shotOf({ by: 'age', of: 'turn', low: 0, high: 90, to: 0.5 }, (d) =>
      d.systems[0].whole.look.push(mapped({ id: 'b', by: 'age', of: 'stretch', low: 1, high: 3, to: 0.5 })),
    )
    const [part] = partsOf((await after(s, 6)).parts, 'points')
    const look = partLooks(part, drawsOf(s, s.systems[0], 0.25), [])(0)
    expect([look.turn, look.stretch]).toEqual([expect.closeTo(45, 4), expect.closeTo(2, 4)])
  })
  it('runs nothing again, but where frames must keep more than they did', () => {
    const before = quiet()
    const asking = (by: string) => {
      const s = structuredClone(before)
      s.systems[0].whole.look.push(mapped({ by }))
      return s
    }
    for (const by of ['order', 'surface', 'near', 'gas', 'x', 'region']) expect([by, touchedFrom(before, asking(by))]).toEqual([by, null])
    for (const by of ['contact', 'strike', 'source', 'generation']) expect([by, touchedFrom(before, asking(by))]).toEqual([by, 1])
    expect(touchedFrom(asking('strike'), asking('contact'))).toBe(1)
  })
  it('brings kernels to pictures only where these must find something out', () => {
    const adds = (values: Record<string, unknown>) => shotOf(values, (s) => s.systems[0].whole.look.push(act('dot')))
    expect([drawnByKernels(adds({ by: 'order' })), drawnByKernels(adds({ by: 'near' }))]).toEqual([false, true])
    // What hides each other is sorted by kernels.
    expect(drawnByKernels(shotOf({ by: 'order' }, (s) => s.systems[0].whole.look.push(act('blend', { inside: 'normal' }))))).toBe(true)
  })
})
