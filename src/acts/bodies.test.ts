import { describe, expect, it } from 'vitest'
import { type Frame, frameMark, partOf, partsOf, rotatedBy, rotationOf, type World } from '../engine'
import { column, framesOn, withWorld } from '../engine/testing/plans'
import type { AnimatedVec3, BodyDoc, ObjectDoc, Shot } from '../shot'
import { checkShot, compile, touchedFrom } from '.'
import { act, quiet } from './testing/quiet'
import { bodyOf, primitive, thing } from './testing/things'

const solid = (id: string, kind: 'box' | 'sphere', values: Partial<ObjectDoc> = {}): ObjectDoc =>
  thing(id, {
    shape: primitive(kind, kind === 'sphere' ? { radius: 0.25, detail: 12 } : { width: 0.4, height: 0.2, depth: 0.6 }),
    place: [0, 2, 0],
    ...values,
  })
const floor = (): ObjectDoc => ({
  ...solid('floor', 'box'),
  shape: { kind: 'plane', size: 10, endless: true },
  place: [0, 0, 0],
  roles: { source: false, collider: true },
})
const gravity = { id: 'down', name: 'Down', seed: 1, act: act('gravity', { strength: 10 }), reaches: 'all' as const, shares: [] }
const shotOf = (objects: ObjectDoc[], more: (s: Shot) => void = () => {}): Shot => {
  const r = checkShot(
    quiet((s) => {
      s.objects = objects
      s.forces = [gravity]
      s.substeps = 4
      more(s)
    }),
  )
  if (!r.ok) throw new Error(JSON.stringify(r.problems))
  return r.shot
}
const run = <T>(s: Shot, inspect: (w: World) => T, threads = 1) => withWorld(compile(s, new Map()).plan, inspect, threads)
const pose = (f: Frame, id: string) => partOf(f.parts, 'place', id)?.matrix as number[]
const place = (f: Frame, id: string) => [3, 7, 11].map((k) => pose(f, id)[k])

describe('an object that the simulation moves', () => {
  it('stands by its keys until it is let go, also between two frames, and then flies as a particle does', async () => {
    const going: AnimatedVec3 = [
      {
        keys: [
          { t: 0, v: 0, ease: 'linear' },
          { t: 2, v: 4, ease: 'linear' },
        ],
      },
      2,
      0,
    ]
    const at = 10.5 / 24
    const s = shotOf([solid('crate', 'box', { place: going, body: bodyOf({ at, velocity: [0, 3, 1], inherit: 50 }) })])
    await run(s, (w) => {
      expect(partsOf(framesOn(w, 10).parts, 'place')).toEqual([])
      const f = framesOn(w, 38)
      const t = 2 - at
      // It is let go at 2 m/s along X, of which half stays. Explicit gravity falls short by half a substep.
      const [x, y, z] = place(f, 'crate')
      expect(x).toBeCloseTo(2 * at + 1 * t, 4)
      expect(z).toBeCloseTo(t, 4)
      expect(Math.abs(y - (2 + 3 * t - 5 * t * t))).toBeLessThan(10 * t * (1 / 96))
    })
  })
  it('rotates about its own middle as far as its spin goes, and keeps its scale', async () => {
    const s = shotOf(
      [solid('crate', 'box', { rotate: [0, 90, 0], scale: [2, 1, 1], body: bodyOf({ spin: [0, 180, 0] }) })],
      (x) => void (x.forces = []),
    )
    await run(s, (w) => {
      const m = pose(framesOn(w, 12), 'crate')
      // A quarter about Y by its place, another by its spin: X points to −X.
      expect([m[0], m[4], m[8]]).toEqual([expect.closeTo(-2, 2), expect.closeTo(0, 5), expect.closeTo(0, 2)])
      expect([m[3], m[7], m[11]]).toEqual([expect.closeTo(0, 4), expect.closeTo(2, 5), expect.closeTo(0, 4)])
    })
    let q: [number, number, number, number] = [0, 0, 0, 1]
    for (let k = 0; k < 1000; k++) q = rotatedBy(q, [3, -2, 7], 0.02)
    const r = rotationOf(q)
    for (const [i, a] of r.entries())
      for (const [k, b] of r.entries()) expect(a[0] * b[0] + a[1] * b[1] + a[2] * b[2]).toBeCloseTo(i === k ? 1 : 0, 9)
  })
  it('bounces, comes to rest on its radius, and rolls along the floor as fast as it goes', async () => {
    const s = shotOf([
      floor(),
      solid('ball', 'sphere', { body: bodyOf({ velocity: [1, 0, 0], restitution: 50, friction: 0, rolling: 0 }) }),
    ])
    await run(s, (w) => {
      let lowest = 9
      for (let k = 0; k < 120; k++) lowest = Math.min(lowest, place(framesOn(w, 1), 'ball')[1])
      expect(lowest).toBeGreaterThan(0.25 - 2e-3)
      expect(place(w.capture(), 'ball')[1]).toBeCloseTo(0.25, 2)
      expect(place(w.capture(), 'ball')[0]).toBeCloseTo(5, 1)
    })
    const rolling = shotOf([
      floor(),
      solid('ball', 'sphere', { place: [0, 0.2502, 0], body: bodyOf({ velocity: [2, 0, 0], restitution: 0, rolling: 0 }) }),
    ])
    await run(rolling, (w) => {
      framesOn(w, 24)
      const a = w.capture(),
        b = framesOn(w, 1)
      const way = place(b, 'ball')[0] - place(a, 'ball')[0]
      // A ball that slid first rolls with five sevenths of its speed.
      expect(way * 24).toBeCloseTo((2 * 5) / 7, 2)
      // About −Z, by way over radius: what was the ball's X axis goes down.
      const [m, n] = [pose(a, 'ball'), pose(b, 'ball')]
      const angle = Math.acos(Math.min(1, m[0] * n[0] + m[4] * n[4] + m[8] * n[8]))
      expect(angle).toBeCloseTo(way / 0.25, 2)
      expect(m[0] * n[4] - m[4] * n[0]).toBeLessThan(0)
    })
  })
  it('takes its children along, stops particles as a collider, and gives births where it is', async () => {
    const s = shotOf(
      [
        solid('sled', 'box', { place: [0, 0, 0], roles: { source: true, collider: true }, body: bodyOf({ velocity: [2, 0, 0] }) }),
        solid('flag', 'sphere', { parent: 'sled', place: [0, 1, 0] }),
      ],
      (x) => {
        x.forces = []
        x.systems[0].birth = [
          act('burst', { count: 40, at: 0.5, source: 'flag', from: 'point', speed: 0, inherit: 0, every: null, spread: 0 }),
        ]
        x.systems[0].whole.contact = [act('bounce', { restitution: 0 })]
      },
    )
    await run(s, (w) => {
      const f = framesOn(w, 24)
      const x = column(f, 'px'),
        y = column(f, 'py')
      expect(f.stats.sparks.alive).toBe(40)
      x.forEach((v) => expect(v).toBeCloseTo(1, 1))
      y.forEach((v) => expect(v).toBeCloseTo(1, 1))
    })
    // One that stands in its way is pushed along.
    const pushed = shotOf(
      [solid('sled', 'box', { place: [-1, 0, 0], roles: { source: false, collider: true }, body: bodyOf({ velocity: [2, 0, 0] }) })],
      (x) => {
        x.forces = []
        x.systems[0].birth = [act('burst', { count: 10, at: 0, source: null, speed: 0, every: null, spread: 0 })]
        x.systems[0].whole.contact = [act('bounce', { restitution: 0, friction: 0 })]
      },
    )
    await run(pushed, (w) => {
      const f = framesOn(w, 24)
      for (const v of column(f, 'px')) expect(v).toBeGreaterThanOrEqual(place(f, 'sled')[0] + 0.2 - 1e-3)
    })
  })
  it('is the same on two threads, after going on from any saved state, and from a changed plan', async () => {
    const s = shotOf(
      [
        floor(),
        solid('ball', 'sphere', { roles: { source: true, collider: true }, body: bodyOf({ velocity: [1, 0, 0.5], spin: [40, 90, 0] }) }),
        solid('crate', 'box', { place: [0.1, 1, 0], roles: { source: false, collider: true }, body: bodyOf({ at: 0.3 }) }),
      ],
      (x) => {
        x.forces.push({ ...gravity, id: 'air', name: 'Air', act: act('turbulence', { id: 'air-act' }) })
        x.systems[0].birth = [act('steady', { source: 'ball', rate: 500, end: null })]
        x.systems[0].whole.contact = [act('bounce')]
      },
    )
    const marks = (w: World) => Array.from({ length: 30 }, () => frameMark(framesOn(w, 1)))
    const whole = await run(s, marks)
    expect(new Set(whole).size).toBe(30)
    expect(await run(s, marks, 2)).toEqual(whole)
    await run(s, (w) => {
      const saved = Array.from({ length: 30 }, () => {
        const state = w.save()
        w.step()
        return state
      })
      for (const at of [17, 4, 29]) {
        // As after an edit: a World with a fresh plan goes on from a state of before.
        w.load(compile(s, new Map()).plan)
        w.restore(saved[at])
        w.step()
        expect(frameMark(w.capture())).toBe(whole[at])
      }
    })
  })
  it('feels what reaches it alone, follows a force parented to another thrown one, and survives what is too strong', async () => {
    const crate = solid('crate', 'box', { body: bodyOf() })
    const reached = shotOf([crate], (x) => void (x.forces = [{ ...gravity, reaches: ['sparks'] }]))
    await run(reached, (w) => expect(place(framesOn(w, 12), 'crate')).toEqual([0, expect.closeTo(2, 6), 0]))
    const pulled = shotOf(
      [crate, solid('bait', 'sphere', { place: [0, 2, 1], body: bodyOf({ velocity: [4, 0, 0] }) })],
      (x) =>
        void (x.forces = [
          { ...gravity, act: act('attract', { object: 'bait', strength: 3, falloff: 'even', reach: 50 }), reaches: ['crate'] },
        ]),
    )
    await run(pulled, (w) => expect(place(framesOn(w, 24), 'crate')[0]).toBeGreaterThan(0.5))
    const wild = shotOf([crate], (x) => void (x.forces = [{ ...gravity, act: act('gravity', { strength: 1e30 }), reaches: ['crate'] }]))
    await run(wild, (w) => {
      const f = framesOn(w, 12)
      expect(pose(f, 'crate').every(Number.isFinite)).toBe(true)
      expect(f.notices).toEqual([
        expect.objectContaining({ element: 'crate', kind: 'lost', message: expect.stringContaining('Down pushes far too hard') }),
      ])
    })
  })
  it('puts frames out of date from the moment it is let go on', () => {
    const make = (b: Partial<BodyDoc> | null) =>
      shotOf([solid('crate', 'box', { body: b && bodyOf(b) })], (s) => {
        s.systems[0].birth = []
      })
    expect(touchedFrom(make({ at: 1 }), make({ at: 1, velocity: [1, 0, 0] }))).toBe(25)
    expect(touchedFrom(make({ at: 1 }), make({ at: 0.5 }))).toBe(13)
    expect(touchedFrom(make(null), make({ at: 2 }))).toBe(49)
    expect(touchedFrom(make(null), make(null))).toBeNull()
  })
})
