import fc from 'fast-check'
import * as THREE from 'three'
import { expect, it } from 'vitest'
import type { Pose, Vec3 } from '../shot'
import { axesOf, rayThrough } from './camera'
import { viewOf } from './shades'

it('the march looks through the same places of the picture as handles and objects do, shifted or not (property)', () => {
  const side = fc.double({ min: -1.5, max: 1.5, noNaN: true })
  fc.assert(
    fc.property(side, side, side, side, (x, y, sx, sy) => {
      const pose: Pose = { place: [1, 2, 5], aim: [0, 0.5, 0], lens: 28, roll: 20, shift: [sx, sy] }
      const aspect = 16 / 9
      const c = new THREE.PerspectiveCamera((2 * Math.atan(18 / pose.lens / aspect) * 180) / Math.PI, aspect, 0.1, 100)
      c.position.set(...pose.place)
      c.up.set(...axesOf(pose).up)
      c.lookAt(...pose.aim)
      c.setViewOffset(2 * aspect, 2, sx * aspect, -sy, 2 * aspect, 2)
      c.updateMatrixWorld()
      const { ahead, right, up } = viewOf(c)
      const way = ahead.map((v, a) => v + x * right[a] + y * up[a]) as Vec3
      const long = Math.hypot(...way)
      const ray = rayThrough(pose, aspect, x, y).along
      way.forEach((v, a) => expect(v / long).toBeCloseTo(ray[a], 9))
    }),
  )
})
