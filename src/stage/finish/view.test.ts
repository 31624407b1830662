import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import { thing } from '../../acts/testing/things'
import { apply, compose } from '../../engine'
import type { Pose, Vec3 } from '../../shot'
import { project } from '../camera'
import { finishView } from './view'

const aspect = 16 / 9
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const vec = (r: number) => fc.tuple(number(-r, r), number(-r, r), number(-r, r)) as fc.Arbitrary<Vec3>
const viewOf = (pose: Pose, place: Vec3, rotate: Vec3 = [0, 0, 0]) => {
  const shot = demoShot()
  shot.objects = [thing('disc', { place, rotate })]
  return finishView({ shot, meshes: new Map(), parts: [], t: 0, pose, width: 1600, height: 900 })
}
describe('what finishes know of the picture', () => {
  it('finds the level plane of an object again from its picture, however it is seen (property)', () => {
    fc.assert(
      fc.property(vec(2), vec(180), number(-1, 1), number(-1, 1), number(-30, 30), (place, rotate, x, z, roll) => {
        const pose: Pose = { place: [0.4, 1, 9], aim: [0, 0, 0], lens: 40, roll, shift: [0.1, -0.05] }
        const plane = viewOf(pose, place, rotate).plane('disc')
        if (!plane) return
        // The same place by the matrix of the object itself.
        const world = worldOf(place, rotate, [x, 0, z])
        const at = project(pose, aspect, world)
        if (!at) return
        const [u, v] = [(at.x + 1) / 2, (at.y + 1) / 2]
        const q = [0, 1, 2].map((r) => plane[r * 3] * u + plane[r * 3 + 1] * v + plane[r * 3 + 2])
        expect(q[2]).toBeGreaterThan(0)
        expect(Math.abs(q[0] / q[2] - x)).toBeLessThan(1e-4 / Math.max(1e-3, Math.abs(q[2])))
        expect(Math.abs(q[1] / q[2] - z)).toBeLessThan(1e-4 / Math.max(1e-3, Math.abs(q[2])))
      }),
    )
  })
  it('says where an element is, and what a metre there takes of the height', () => {
    const pose: Pose = { place: [0, 0, 5], aim: [0, 0, 0], lens: 45 }
    const at = viewOf(pose, [1, 0, 0]).seen('disc')
    // 4 m wide, 2.25 m high there.
    expect(at).toMatchObject({ y: 0.5, depth: 5 })
    expect(at?.x).toBeCloseTo(0.75, 9)
    expect(at?.metre).toBeCloseTo(1 / 2.25, 9)
    expect(viewOf(pose, [0, 0, 6]).seen('disc')).toBeNull()
    expect(viewOf(pose, [0, 0, 0]).seen('gone')).toBeNull()
    // Edge on there is no plane.
    expect(viewOf(pose, [0, 0, 0]).plane('disc')).toBeNull()
  })
})
function worldOf(place: Vec3, rotate: Vec3, own: Vec3): Vec3 {
  const m = compose(place, rotate, [1, 1, 1])
  return apply(m, ...own) as Vec3
}
