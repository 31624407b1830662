import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { blurWidth, sharpFrom, shotPose } from '../../acts'
import { demoShot } from '../../acts/testing/shots'
import { primitive, thing } from '../../acts/testing/things'
import type { CameraDoc, Pose, Shot, Vec3 } from '../../shot'
import { project, rayThrough } from '../../stage/camera'
import { lensPoint, throughLens } from '../../stage/lens'
import { Pictures, pixels } from './testing/pictures'

const WIDTH = 1920
const aspect = 16 / 9
const camera = (o: Partial<CameraDoc> = {}): Shot => {
  const s = demoShot()
  s.cameras[0] = { ...s.cameras[0], place: [0, 1, 6], aim: [0, 1, 0], lens: 50, aperture: 2, focus: 3, ...o }
  return s
}
describe('an open lens', () => {
  it('draws circles as wide as a thin lens does, within half a pixel', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 12, max: 135, noNaN: true }),
        fc.double({ min: 1, max: 22, noNaN: true }),
        fc.double({ min: 0.6, max: 30, noNaN: true }),
        fc.double({ min: 0.6, max: 200, noNaN: true }),
        (lens, aperture, focus, depth) => {
          const pose = shotPose(camera({ lens, aperture, focus }), 0)
          // mm: the opening, times how far it is from being sharp, times the magnification.
          const [f, s, d] = [lens, focus * 1000, depth * 1000]
          const circle = ((f / aperture) * Math.abs(d - s) * f) / (d * (s - f))
          expect(Math.abs(blurWidth(pose, depth, WIDTH) - (circle / 36) * WIDTH)).toBeLessThan(0.5)
        },
      ),
    )
  })
  it('leaves what it is focused on where it is from every place of it, and moves the rest by no more than its circle (property)', () => {
    const pose = shotPose(camera({ aperture: 1.4, roll: 12, shiftX: 10 }), 0)
    const side = fc.double({ min: -0.9, max: 0.9, noNaN: true })
    fc.assert(
      fc.property(side, side, fc.double({ min: 0.5, max: 40, noNaN: true }), fc.integer({ min: 0, max: 2000 }), (x, y, depth, k) => {
        const { from, along } = rayThrough(pose, aspect, x, y)
        const { blur } = pose
        if (!blur) throw new Error('no blur')
        const at = (far: number): Vec3 => {
          const step = project(pose, aspect, from.map((v, a) => v + along[a]) as Vec3)?.depth ?? 1
          return from.map((v, a) => v + (along[a] * far) / step) as Vec3
        }
        const seen = (far: number) => project(throughLens(pose, k, aspect), aspect, at(far))
        const sharp = seen(blur.focus)
        expect(sharp?.x).toBeCloseTo(x, 9)
        expect(sharp?.y).toBeCloseTo(y, 9)
        const other = seen(depth)
        const apart = Math.hypot((other?.x ?? 9) - x, ((other?.y ?? 9) - y) / aspect) * (WIDTH / 2)
        expect(apart).toBeLessThanOrEqual(blurWidth(pose, depth, WIDTH) / 2 + 1e-6)
      }),
    )
  })
  it('is focused by a distance, on an object, or at its aim, and is shut where it has no aperture', () => {
    const of = (o: Partial<CameraDoc>, change: (s: Shot) => void = () => {}) => {
      const s = camera(o)
      change(s)
      return shotPose(s, 0).blur?.focus
    }
    expect(of({})).toBe(3)
    expect(of({ focus: null })).toBeCloseTo(6, 9)
    expect(of({ focusAt: 'boat' }, (s) => void s.objects.push(thing('boat', { place: [2, 0, 1.5] })))).toBeCloseTo(4.5, 9)
    expect(of({ aperture: null })).toBeUndefined()
  })
  it('says from where to where circles stay small', () => {
    const pose = shotPose(camera({ aperture: 4 }), 0)
    const [near, far] = sharpFrom(pose, 2, WIDTH)
    expect(blurWidth(pose, near, WIDTH)).toBeCloseTo(2, 9)
    expect(blurWidth(pose, far, WIDTH)).toBeCloseTo(2, 9)
    expect(near).toBeLessThan(3)
    expect(sharpFrom(shotPose(camera({ lens: 12, aperture: 22 }), 0), 2, WIDTH)[1]).toBe(Number.POSITIVE_INFINITY)
  })
  it('is looked through evenly: its middle first, then over a disc or between its blades', () => {
    expect(lensPoint(0, 0, 0)).toEqual([0, 0])
    for (const blades of [0, 5, 6]) {
      const all = Array.from({ length: 4096 }, (_, k) => lensPoint(k, blades, 20))
      const apothem = blades ? Math.cos(Math.PI / blades) : 1
      for (const [x, y] of all) expect(Math.hypot(x, y)).toBeLessThanOrEqual(1 + 1e-9)
      // A quarter of it lies within half of it.
      const inner = all.filter(([x, y]) => Math.hypot(x, y) < 0.5 * apothem).length / all.length
      const share = blades ? (0.25 * Math.PI * apothem * apothem) / (0.5 * blades * Math.sin((2 * Math.PI) / blades)) : 0.25
      expect(inner).toBeCloseTo(share, 2)
      for (const c of [0, 1]) expect(Math.abs(all.reduce((sum, p) => sum + p[c], 0) / all.length)).toBeLessThan(0.01)
    }
  })
})

describe('a picture through it', () => {
  let pictures: Pictures
  beforeAll(async () => {
    pictures = await Pictures.open()
  })
  const [W, H] = [192, 108]
  /** Pixels across that a small ball lights, which is so far away, where 4 m is sharp. */
  async function across(depth: number, o: Partial<CameraDoc>): Promise<{ wide: number; light: number; pose: Pose }> {
    let pose: Pose | null = null
    const renderer = await pictures.shown((s) => {
      s.systems = []
      s.forces = []
      s.lights = []
      s.layers[0].finish = []
      s.surroundings = { colour: [0, 0, 0], light: [0, 0, 0] }
      const ball = thing('ball', { shape: primitive('sphere', { radius: 0.02 * depth }), place: [0, 0, -depth] })
      s.objects = [{ ...ball, material: { ...ball.material, colour: [0, 0, 0], glow: [60, 60, 60] } }]
      s.cameras[0] = { ...s.cameras[0], place: [0, 0, 0], aim: [0, 0, -1], lens: 100, focus: 4, lensSamples: 64, ...o }
      pose = shotPose(s, 0)
    })
    const { data, channels } = pixels((await renderer.render(2, { width: W, height: H, transparent: false })).png)
    const row = Array.from({ length: W }, (_, x) => data[((H / 2) * W + x) * channels])
    const on = row.map((v, x) => (v > 20 ? x : -1)).filter((x) => x >= 0)
    return { wide: on.length ? on[on.length - 1] - on[0] + 1 : 0, light: Math.max(...row), pose: pose as unknown as Pose }
  }
  it('shows what is sharp as it is, and the rest in circles of their width', async () => {
    const shut = await across(4, { aperture: null })
    const sharp = await across(4, { aperture: 0.5 })
    expect(Math.abs(sharp.wide - shut.wide)).toBeLessThanOrEqual(1)
    for (const depth of [2.2, 9]) {
      const open = await across(depth, { aperture: 0.5 })
      const own = (await across(depth, { aperture: null })).wide
      const circle = blurWidth(open.pose, depth, W)
      expect(circle).toBeGreaterThan(12)
      expect(Math.abs(open.wide - (circle + own))).toBeLessThanOrEqual(0.12 * circle + 2)
    }
  })
})
