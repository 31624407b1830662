import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { viewPlanes } from '../acts'
import { demoShot } from '../acts/testing/shots'
import { thing } from '../acts/testing/things'
import type { Pose } from '../protocol'
import type { Vec3 } from '../shot'
import { axesOf, frameBox, fromSide, orbit, pan, project, rayThrough, rollOf, shotPose, zoom } from './camera'

const pose: Pose = { place: [1, 1.5, 4], aim: [0, 0.5, 0], lens: 35 }
const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const length = (a: Vec3) => Math.sqrt(dot(a, a))
const between = (a: Vec3, b: Vec3) => length([a[0] - b[0], a[1] - b[1], a[2] - b[2]])
const near = fc.double({ min: -5, max: 5, noNaN: true })
const poses = fc
  .record({ place: fc.tuple(near, near, near), aim: fc.tuple(near, near, near), lens: fc.double({ min: 8, max: 200, noNaN: true }) })
  .filter((p) => between(p.place as Vec3, p.aim as Vec3) > 0.1) as fc.Arbitrary<Pose>

describe('a pose', () => {
  it('has three axes at right angles, also straight up and down (property)', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          poses,
          fc.constantFrom<Pose>({ ...pose, place: [0, 5, 0], aim: [0, 0, 0] }, { ...pose, place: [0, -5, 0], aim: [0, 0, 0] }),
        ),
        (p) => {
          const { right, up, forward } = axesOf(p)
          for (const a of [right, up, forward]) expect(length(a)).toBeCloseTo(1, 9)
          for (const [a, b] of [
            [right, up],
            [up, forward],
            [forward, right],
          ])
            expect(dot(a, b)).toBeCloseTo(0, 9)
        },
      ),
    )
  })
  it('sees its aim in the middle, and a point to the right on the right', () => {
    const p = project(pose, 16 / 9, pose.aim)
    expect(p?.x).toBeCloseTo(0, 9)
    expect(p?.y).toBeCloseTo(0, 9)
    expect(p?.depth).toBeCloseTo(between(pose.place, pose.aim), 9)
    expect(project({ ...pose, place: [0, 0, 5], aim: [0, 0, 0] }, 1, [1, 0, 0])?.x).toBeGreaterThan(0)
    expect(project({ ...pose, place: [0, 0, 5], aim: [0, 0, 0] }, 1, [0, 1, 0])?.y).toBeGreaterThan(0)
    expect(project({ ...pose, place: [0, 0, 5], aim: [0, 0, 0] }, 1, [0, 0, 6])).toBeNull()
  })
  it('36 mm see as wide as far: the edge of the picture is half the distance away', () => {
    expect(project({ place: [0, 0, 2], aim: [0, 0, 0], lens: 36 }, 16 / 9, [1, 0, 0])?.x).toBeCloseTo(1, 9)
    expect(project({ place: [0, 0, 2], aim: [0, 0, 0], lens: 36 }, 16 / 9, [0, 9 / 16, 0])?.y).toBeCloseTo(1, 9)
  })
  it('a ray through a point of the picture comes back to that point (property)', () => {
    const inside = fc.double({ min: -1, max: 1, noNaN: true })
    fc.assert(
      fc.property(poses, inside, inside, fc.double({ min: 0.5, max: 20, noNaN: true }), (p, x, y, k) => {
        const { from, along } = rayThrough(p, 1.5, x, y)
        const back = project(p, 1.5, from.map((v, i) => v + along[i] * k) as Vec3)
        expect(back?.x).toBeCloseTo(x, 6)
        expect(back?.y).toBeCloseTo(y, 6)
      }),
    )
  })
  it('orbiting keeps the distance and the aim, and never goes over the top', () => {
    let p = pose
    for (let i = 0; i < 50; i++) {
      p = orbit(p, 0.3, 0.2)
      expect(between(p.place, p.aim)).toBeCloseTo(between(pose.place, pose.aim), 9)
      expect(p.aim).toEqual(pose.aim)
      expect(axesOf(p).up[1]).toBeGreaterThan(0)
    }
    const round = orbit(pose, 2 * Math.PI, 0)
    round.place.forEach((v, i) => expect(v).toBeCloseTo(pose.place[i], 9))
  })
  it('panning keeps what is aimed at under the pointer; zooming keeps the direction', () => {
    const p = pan(pose, 0.4, -0.2)
    const old = project(p, 16 / 9, pose.aim)
    expect(old?.x).toBeCloseTo(0.4, 6)
    expect(old?.y).toBeCloseTo(0.2 * (16 / 9), 6)
    const z = zoom(pose, 0.5)
    expect(between(z.place, z.aim)).toBeCloseTo(between(pose.place, pose.aim) / 2, 9)
    expect(dot(axesOf(z).forward, axesOf(pose).forward)).toBeCloseTo(1, 9)
  })
  it('framing a box brings all its corners into the picture, in any shape of it (property)', () => {
    fc.assert(
      fc.property(poses, fc.tuple(near, near, near), fc.tuple(near, near, near), fc.constantFrom(0.5, 1, 16 / 9), (p, a, b, aspect) => {
        const min = a.map((v, i) => Math.min(v, b[i])) as Vec3
        const max = a.map((v, i) => Math.max(v, b[i]) + 0.1) as Vec3
        const f = frameBox(p, aspect, min, max)
        for (let c = 0; c < 8; c++) {
          const s = project(f, aspect, [c & 1 ? max[0] : min[0], c & 2 ? max[1] : min[1], c & 4 ? max[2] : min[2]])
          expect(s).not.toBeNull()
          expect(Math.abs(s?.x ?? 9)).toBeLessThan(1)
          expect(Math.abs(s?.y ?? 9)).toBeLessThan(1)
        }
      }),
    )
  })
  it('of the shot is that of its camera, at a time', () => {
    const shot = demoShot()
    shot.cameras[0].lens = {
      keys: [
        { t: 0, v: 20, ease: 'linear' },
        { t: 1, v: 40, ease: 'linear' },
      ],
    }
    expect(shotPose(shot, 0.5).lens).toBe(30)
    shot.cameras.push({ ...shot.cameras[0], id: 'b', lens: 99 })
    shot.camera = 'b'
    expect(shotPose(shot, 0).lens).toBe(99)
  })
})

describe('a camera that is rolled', () => {
  it('keeps what it looks at, and its axes at right angles; rolled by 90° its right side is down', () => {
    fc.assert(
      fc.property(poses, fc.double({ min: -720, max: 720, noNaN: true }), (p, roll) => {
        const [level, turned] = [axesOf(p), axesOf({ ...p, roll })]
        expect(between(level.forward, turned.forward)).toBeLessThan(1e-12)
        expect(Math.abs(dot(turned.right, turned.up))).toBeLessThan(1e-9)
        const back = rollOf(p, turned.up)
        const apart = (((back - roll) % 360) + 540) % 360
        expect(apart).toBeCloseTo(180, 5)
      }),
    )
    const { right } = axesOf({ place: [0, 0, 5], aim: [0, 0, 0], lens: 35, roll: 90 })
    right.forEach((v, a) => expect(v).toBeCloseTo([0, -1, 0][a], 9))
  })
})
describe('a side', () => {
  it('shows as much of what is looked at, and looks along its axis', () => {
    for (const way of [
      [0, 0, 1],
      [1, 0, 0],
      [0, 1, 0],
    ] as Vec3[]) {
      const p = fromSide(pose, way)
      expect(axesOf(p).forward.map((v, a) => v + way[a])).toEqual([0, 0, 0].map(() => expect.closeTo(0, 9)))
      expect(p.aim).toEqual(pose.aim)
      const wide = (q: Pose) => (between(q.place, q.aim) * 18) / q.lens
      expect(wide(p)).toBeCloseTo(wide(pose), 9)
    }
  })
})

describe('a camera of the shot', () => {
  const shot = () => {
    const s = demoShot()
    s.cameras[0] = { ...s.cameras[0], place: [1, 2, 5], aim: [0, 0.5, 0], lens: 30 }
    return s
  }
  it('sees by its lens over its sensor', () => {
    const s = shot()
    s.cameras[0].sensor = 24
    expect(shotPose(s, 0).lens).toBe(45)
  })
  it('looks at what it aims at wherever that is brought, and beside it by its aim', () => {
    const s = shot()
    const goes = { keys: [0, 1].map((t) => ({ t, v: 4 * t, ease: 'linear' as const })) }
    s.objects.push(thing('boat', { place: [goes, 1, -2] }))
    Object.assign(s.cameras[0], { aimsAt: 'boat', aim: [0, 0.25, 0] })
    expect(shotPose(s, 0.5).aim).toEqual([2, 1.25, -2])
    const there = project(shotPose(s, 0.5), 16 / 9, [2, 1.25, -2])
    expect([there?.x, there?.y]).toEqual([expect.closeTo(0, 12), expect.closeTo(0, 12)])
    s.cameras[0].aimsAt = 'nobody'
    expect(shotPose(s, 0.5).aim).toEqual([0, 0.25, 0])
  })
  it('that is shifted sees what lies beside: by half a width and a fifth of a height', () => {
    const s = shot()
    const plain = shotPose(s, 0)
    Object.assign(s.cameras[0], { shiftX: 50, shiftY: -20 })
    const shifted = shotPose(s, 0)
    fc.assert(
      fc.property(near, near, near, (x, y, z) => {
        const [a, b] = [project(plain, 16 / 9, [x, y, z]), project(shifted, 16 / 9, [x, y, z])]
        fc.pre(a !== null && b !== null)
        if (!a || !b) return
        expect(b.x).toBeCloseTo(a.x - 1, 9)
        expect(b.y).toBeCloseTo(a.y + 0.4, 9)
        // And a ray goes back through the same place.
        const ray = rayThrough(shifted, 16 / 9, b.x, b.y)
        const way = between(ray.from, [x, y, z])
        ray.along.forEach((v, i) => expect(ray.from[i] + v * way).toBeCloseTo([x, y, z][i], 6))
      }),
    )
  })
  it('has a view that ends where its picture does, rolled and shifted (property)', () => {
    const side = fc.double({ min: -80, max: 80, noNaN: true })
    fc.assert(
      fc.property(near, near, near, side, side, fc.constantFrom(1, 1.5), (x, y, z, roll, shiftX, wider) => {
        const s = shot()
        Object.assign(s.cameras[0], { roll, shiftX, shiftY: -shiftX / 2 })
        const p = project(shotPose(s, 0), s.size.width / s.size.height, [x, y, z])
        const far = Math.max(Math.abs(p?.x ?? 9), Math.abs(p?.y ?? 9))
        fc.pre(Math.abs(far - wider) > 1e-6)
        const inside = viewPlanes(s, 0, wider).every((q) => q[0] * x + q[1] * y + q[2] * z + q[3] >= 0)
        expect(inside).toBe(far <= wider)
      }),
    )
  })
})
