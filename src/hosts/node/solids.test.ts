import { encode } from 'fast-png'
import { beforeAll, describe, expect, it } from 'vitest'
import { act } from '../../acts/testing/quiet'
import { primitive, thing } from '../../acts/testing/things'
import type { ObjectDoc, Shot, Vec3 } from '../../shot'
import { mean, Pictures, pixels, size } from './testing/pictures'
import { screened } from './testing/screen'
import { overLife, still, sun } from './testing/still'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
const one = async (change: (s: Shot) => void): Promise<Uint8Array> => (await pictures.draw(change, [2], [false]))[0]

describe('solids', () => {
  const material = { colour: [1, 1, 1] as Vec3, roughness: 0.6, metal: 0, glow: [0, 0, 0] as Vec3 }
  const lit = (s: Shot) => {
    s.lights = [sun({ ...s, lights: pictures.base.lights }, { place: [2, 5, 4] })]
    s.cameras[0] = { ...s.cameras[0], place: [0.6, 0.8, 3], aim: [0, 0, 0], lens: 30 }
  }
  const floor = () =>
    thing('floor', {
      shape: { kind: 'plane', size: 8, endless: false },
      place: [0, -0.6, 0],
      material: { ...material, colour: [0.4, 0.4, 0.4] },
    })
  /** A single particle as a body, in the middle, as it is built. */
  const body =
    (values: Record<string, unknown>, o: Partial<{ opacity: number; size: number; model: ObjectDoc }> = {}) =>
    (s: Shot) => {
      still(s, [overLife({ size: o.size ?? 0.8, opacity: o.opacity ?? 100 }), act('solid', { id: 'x', lies: 'upright', ...values })], {
        count: 1,
      })
      s.objects = [floor(), ...(o.model ? [{ ...o.model, seen: false }] : [])]
      lit(s)
    }
  const alone = (model: ObjectDoc) => (s: Shot) => {
    still(s, [], { count: 1 })
    s.systems = []
    s.objects = [floor(), model]
    lit(s)
  }
  const worst = (p: Uint8Array, q: Uint8Array) => p.reduce((most, x, i) => Math.max(most, Math.abs(x - q[i])), 0)
  const cube = thing('model', { shape: primitive('box', { width: 0.8, height: 0.8, depth: 0.8 }), material })
  it('look as an object of the same shape does, shadow and all', async () => {
    const real = await one(alone(cube))
    expect(worst(real, await one(body({ body: 'cube' })))).toBeLessThanOrEqual(1)
    expect(worst(real, await one(alone({ ...cube, seen: false })))).toBeGreaterThan(50)
  })
  it('copies of an object have its shape, its size by the particle or its own, and its material; of few vertices or many', async () => {
    const gold = { colour: [0.8, 0.5, 0.1] as Vec3, roughness: 0.3, metal: 0.7, glow: [0.02, 0, 0.05] as Vec3 }
    for (const shape of [primitive('box', { width: 0.4, height: 0.8, depth: 0.2 }), primitive('torus', { radius: 0.3, thickness: 0.1 })]) {
      const model = thing('model', { shape, material: gold })
      const real = await one(alone(model))
      const own = await one(body({ body: 'object', object: 'model', own: true }, { size: 0.123, model }))
      expect(worst(real, own)).toBeLessThanOrEqual(2)
      const fitted = await one(body({ body: 'object', object: 'model' }, { size: 0.8, model }))
      expect(worst(real, fitted)).toBeLessThanOrEqual(2)
    }
  })
  it('shrink where they would fade, and give of their colour what they are asked for', async () => {
    const half = await one(body({ body: 'cube' }, { opacity: 50 }))
    expect(worst(half, await one(body({ body: 'cube' }, { size: 0.4 })))).toBeLessThanOrEqual(1)
    const middle = [0.45, 0.45, 0.55, 0.55]
    const shining = await one(body({ body: 'ball', shine: 300 }))
    expect(mean(shining, middle)).toBeGreaterThan(mean(await one(body({ body: 'ball' })), middle) + 20)
  })
  it('with a shape of their own look as an object of that shape does, at a moment of it too', async () => {
    const box = primitive('box', { width: 0.4, height: 0.8, depth: 0.2 })
    const cut = act('subdivide', { id: 'cut', times: 2 })
    const twisted = (angle: unknown) => thing('model', { shape: box, reshape: [cut, act('twist', { id: 'wring', angle })], material })
    const real = await one(alone(twisted(140)))
    const mapped = (values: Record<string, unknown>, model: ObjectDoc) => (s: Shot) => {
      body({ body: 'object', object: 'model', own: true, ...values }, { model })(s)
      const to = { by: 'share', from: 0, to: 1, low: 140, high: 140 }
      if (!('moment' in values))
        s.systems[0].whole.look.push(act('mapShape', { id: 'm', value: { element: 'model', value: 'acts.wring.angle' }, ...to }))
    }
    expect(worst(real, await one(mapped({}, twisted(0))))).toBeLessThanOrEqual(2)
    expect(worst(real, await one(alone(twisted(0))))).toBeGreaterThan(50)
    // Turned by 140° a second: after one second it is so far, whatever the frame.
    const turning = twisted({ keys: [{ t: 0, v: 0, ease: 'linear' }, { t: 2, v: 280, ease: 'linear' }] }) // biome-ignore format: one line
    expect(worst(real, await one(mapped({ moment: 'fixed', at: 1 }, turning)))).toBeLessThanOrEqual(2)
    // Born at the first frame; and as it is at a second, seen two frames after that.
    expect(worst(await one(alone(twisted(0))), await one(mapped({ moment: 'birth' }, turning)))).toBeLessThanOrEqual(2)
    expect(worst(real, await one(mapped({ moment: 'later', later: { value: 22 / 24, vary: 0 } }, turning)))).toBeLessThanOrEqual(2)
  })
  it('far off have fewer faces, with hardly a difference, and none out of view', async () => {
    const ball = thing('model', { shape: primitive('sphere', { radius: 0.4, detail: 48 }), material })
    const seen = async (values: Record<string, unknown>, mapped = false) => {
      const renderer = await pictures.shown((s) => {
        body({ body: 'object', object: 'model', own: true, ...values }, { model: ball })(s)
        const by = { by: 'random', low: 0.38, high: 0.4, shared: 0, value: { element: 'model', value: 'shape.radius' } }
        if (mapped) s.systems[0].whole.look.push(act('mapShape', { id: 'm', ...by }))
        s.systems[0].birth = [act('burst', { id: 'b', at: 0, every: null, source: null, speed: 2, spread: 180, count: 24 })]
        s.cameras[0] = { ...s.cameras[0], place: [0.6, 0.8, 7], aim: [5, 0, 0] }
      })
      const image = await renderer.render(24, { ...size, transparent: false })
      return { d: pixels(image.png).data, faces: image.faces[pictures.base.systems[0].id] }
    }
    for (const mapped of [false, true]) {
      const all = await seen({}, mapped)
      expect(all.faces.drawn).toBe(all.faces.whole)
      const fewer = await seen({ edge: 3 }, mapped)
      expect(fewer.faces.whole).toBe(all.faces.whole)
      expect(fewer.faces.drawn).toBeLessThan(0.3 * all.faces.whole)
      const difference = all.d.reduce((sum, x, i) => sum + Math.abs(x - fewer.d[i]), 0) / all.d.length
      expect(difference).toBeLessThan(1)
      const left = await seen({ outside: 'left', margin: 5 }, mapped)
      expect(left.faces.drawn).toBeLessThan(all.faces.whole)
      expect(left.d.reduce((sum, x, i) => sum + Math.abs(x - all.d[i]), 0) / all.d.length).toBeLessThan(0.5)
    }
  })
  it('and objects wear the pictures of their file, a material for each part, and what it says that they are made of', async () => {
    const HASH = 'b'.repeat(64)
    const png = (pixel: (x: number, y: number) => number[]) => {
      const data = Uint8Array.from(Array.from({ length: 64 }, (_, i) => pixel(i % 8, Math.floor(i / 8))).flat())
      return { type: 'image/png', data: encode({ width: 8, height: 8, data, channels: 4, depth: 8 }) }
    }
    const checks = png((x, y) => ((x + y) % 2 ? [230, 40, 30, 255] : [30, 60, 230, 255]))
    // Bent to the right on one half.
    const bent = png((x) => (x < 4 ? [128, 128, 255, 255] : [220, 128, 200, 255]))
    const rough = png((_, y) => [0, y < 4 ? 40 : 255, y < 4 ? 255 : 0, 255])
    const box = (await import('../../engine')).box(0.9, 0.7, 0.5)
    const n = box.positions.length / 3
    const uv = Float32Array.from({ length: n * 2 }, (_, i) => box.positions[Math.floor(i / 2) * 3 + (i % 2)] + 0.5)
    const first = box.parts.find((p) => p.name === 'Front') ?? box.parts[0]
    const surfaces = [{ part: first.name, roughness: 1, metal: 1, glow: [0, 0, 0] as Vec3, normal: { ...bent, scale: 1 }, rough }]
    const textures = box.parts.filter((p) => p !== first).map((p) => ({ part: p.name, ...checks, brightness: null }))
    pictures.meshes.set(HASH, { ...box, uv, textures, surfaces })
    const shape = {
      kind: 'mesh',
      asset: HASH,
      unit: 1,
      up: 'y',
      poses: [],
      rate: 24,
      start: 0,
      speed: 1,
      after: 'hold',
    } as unknown as ObjectDoc['shape']
    const dressed = (o: Partial<ObjectDoc['material']> = {}, rotate: Vec3 = [0, 0, 0]) =>
      thing('model', { shape, rotate, material: { ...material, ...o } })
    const withAsset = (change: (s: Shot) => void) => (s: Shot) => {
      change(s)
      s.assets = [{ hash: HASH, name: 'tin.glb' }]
    }
    for (const values of ['own', 'file'] as const) {
      const real = await one(withAsset(alone(dressed({ values }))))
      const copies = await one(withAsset(body({ body: 'object', object: 'model', own: true }, { model: dressed({ values }) })))
      expect(worst(real, copies)).toBeLessThanOrEqual(3)
      const merged = await one(
        withAsset(body({ body: 'object', object: 'model', own: true, moment: 'fixed', at: 0 }, { model: dressed({ values }) })),
      )
      expect(worst(real, merged)).toBeLessThanOrEqual(3)
    }
    const own = await one(withAsset(alone(dressed({ values: 'own' }))))
    expect(worst(own, await one(withAsset(alone(dressed({ values: 'file' })))))).toBeGreaterThan(10)
    // Seen through by half: between what is behind and what covers.
    const at = [0.46, 0.46, 0.54, 0.54]
    const [clear, half, full] = [await one(alone({ ...cube, seen: false })), await one(alone({ ...cube, material: { ...material, opacity: 50 } })), await one(alone(cube))].map((d) => mean(d, at)) // biome-ignore format: one line
    expect((half - clear) * (full - half)).toBeGreaterThan(0)
    // From inside a box of which only the front is seen there is nothing of it.
    const inside = (faces: 'both' | 'front') => (s: Shot) => {
      alone(thing('model', { shape: primitive('box', { width: 12, height: 12, depth: 12 }), material: { ...material, faces } }))(s)
    }
    expect(mean(await one(inside('front')), [0, 0, 1, 0.2])).toBeLessThan(mean(await one(inside('both')), [0, 0, 1, 0.2]) - 5)
  })
  it('that are clear let through what is behind, tinted by how far light goes in them; with alpha they cover a little', async () => {
    const wall = thing('wall', {
      shape: primitive('box', { width: 9, height: 9, depth: 0.1 }),
      place: [0, 0, -2],
      material: { ...material, colour: [0, 0, 0], glow: [0.4, 0.4, 0.4] },
    })
    const through = (o: Partial<ObjectDoc['material']> | null) => (s: Shot) => {
      alone(thing('model', { ...cube, material: { ...material, roughness: 0, index: 1, thick: 0, ...o } }))(s)
      s.objects = o ? [wall, s.objects[1]] : [wall]
      s.lights = []
      s.surroundings.light = [0, 0, 0]
    }
    const at = ((size.height / 2) * size.width + size.width / 2) * 3
    const pixel = async (change: (s: Shot) => void) => [...(await one(change)).subarray(at, at + 3)]
    const bare = await pixel(through(null))
    expect(Math.abs(bare[0] - screened(0.4))).toBeLessThanOrEqual(2)
    const clear = await pixel(through({ clear: 100, faces: 'front' }))
    bare.forEach((v, k) => expect(Math.abs(clear[k] - v)).toBeLessThanOrEqual(8))
    // Ten centimetres of it have the tint once.
    const red = await pixel(through({ clear: 100, faces: 'front', thick: 0.1, tint: [1, 0.2, 0.2] }))
    expect(Math.abs(red[0] - clear[0])).toBeLessThanOrEqual(6)
    expect(Math.abs(red[1] - screened(0.08))).toBeLessThanOrEqual(8)
    // What is not clear hides the wall.
    expect((await pixel(through({ clear: 0, colour: [0, 0, 0] })))[1]).toBeLessThan(20)
    // Particles behind it are seen.
    const behind = (s: Shot) => {
      still(s, [overLife({ size: 0.6, brightness: 3 }), act('dot', { id: 'd', softness: 0 })], { count: 1 })
      s.objects = [
        wall,
        thing('model', { ...cube, place: [0, 0, 1], material: { ...material, clear: 100, roughness: 0, index: 1, thick: 0 } }),
      ]
    }
    expect((await pixel(behind))[1]).toBeGreaterThan(clear[1] + 20)
  })
  it('have colours along an axis of their own, moved on by noise, as their copies do', async () => {
    const ramp = (change: (s: Shot) => void) => (s: Shot) => {
      change(s)
      s.shared.looks = [
        {
          ...{ id: 'bands', name: 'Bands', size: { points: [{ at: 0, v: 1 }] }, opacity: { points: [{ at: 0, v: 1 }] } },
          colour: { steps: true, stops: [{ at: 0, colour: [0.9, 0.05, 0.05] }, { at: 0.5, colour: [0.05, 0.05, 0.9] }] }, // biome-ignore format: one line
        },
      ]
    }
    const banded = (o: Partial<ObjectDoc['material']> = {}) =>
      thing('model', { ...cube, material: { ...material, ramp: 'bands', along: 'y', ...o } })
    const real = await one(ramp(alone(banded())))
    const channels = ([x0, y0, x1, y1]: number[]) =>
      [0, 2].map((c) => mean(real.map((_, i) => real[i - (i % 3) + c]) as Uint8Array, [x0, y0, x1, y1]))
    const [low, high] = [channels([0.47, 0.58, 0.53, 0.64]), channels([0.47, 0.4, 0.53, 0.44])]
    expect(low[0]).toBeGreaterThan(2 * low[1])
    expect(high[1]).toBeGreaterThan(2 * high[0])
    for (const more of [{}, { strays: 60, grain: 0.3 }]) {
      const object = await one(ramp(alone(banded(more))))
      for (const way of [{}, { moment: 'fixed', at: 0 }])
        expect(
          worst(object, await one(ramp(body({ body: 'object', object: 'model', own: true, ...way }, { model: banded(more) })))),
        ).toBeLessThanOrEqual(3)
    }
    expect(worst(real, await one(ramp(alone(banded({ strays: 60, grain: 0.3 })))))).toBeGreaterThan(40)
  })
  it('are shaded with bumps: as steep where it is twice as wide and high, as their copies are, and not where it is finer than pixels', async () => {
    const rough = (bumps: number, bumpSize: number) => thing('model', { ...cube, material: { ...material, bumps, bumpSize } })
    // The face towards the camera, well within its edges.
    const face = (p: Uint8Array) => {
      const lights: number[] = []
      for (let y = Math.round(size.height * 0.48); y < size.height * 0.58; y++)
        for (let x = Math.round(size.width * 0.46); x < size.width * 0.52; x++) lights.push(p[(y * size.width + x) * 3])
      const middle = lights.reduce((a, b) => a + b) / lights.length
      return { middle, spread: Math.sqrt(lights.reduce((sum, v) => sum + (v - middle) ** 2, 0) / lights.length) }
    }
    const plain = await one(alone(cube))
    const [even, rugged, wider] = [plain, await one(alone(rough(0.01, 0.1))), await one(alone(rough(0.02, 0.2)))].map(face)
    expect(even.spread).toBeLessThan(2)
    expect(rugged.spread).toBeGreaterThan(8)
    expect(Math.abs(rugged.middle - even.middle)).toBeLessThan(0.1 * even.middle)
    expect(wider.spread / rugged.spread).toBeGreaterThan(0.6)
    expect(wider.spread / rugged.spread).toBeLessThan(1.6)
    expect(worst(plain, await one(alone(rough(0.001, 0.002))))).toBeLessThanOrEqual(1)
    const copy = body({ body: 'object', object: 'model', own: true }, { model: rough(0.01, 0.1) })
    expect(worst(await one(alone(rough(0.01, 0.1))), await one(copy))).toBeLessThanOrEqual(3)
  })
})

describe('an object that faces the camera', () => {
  /** Pixels of a glowing plane of 2 × 1 m, across and up, as the camera sees it. */
  const extent = async (place: Vec3, faces: ObjectDoc['faces']) => {
    const p = await one((s) => {
      still(s, [], { count: 1 })
      s.systems = []
      s.lights = []
      s.surroundings = { colour: [0, 0, 0], light: [0, 0, 0] }
      const plain = thing('card', { shape: { kind: 'plane', size: 1, endless: false }, scale: [2, 1, 1], rotate: [20, 40, 0], faces })
      s.objects = [{ ...plain, material: { ...plain.material, colour: [0, 0, 0], glow: [0.5, 0.5, 0.5] } }]
      s.cameras[0] = { ...s.cameras[0], place, aim: [0, 0, 0], lens: 30 }
    })
    const on = Array.from({ length: size.width * size.height }, (_, i) => i).filter((i) => p[i * 3] > 40)
    const [x, y] = [on.map((i) => i % size.width), on.map((i) => Math.floor(i / size.width))]
    return [Math.max(...x) - Math.min(...x) + 1, Math.max(...y) - Math.min(...y) + 1]
  }
  it('is seen the same from every side, as large as it is', async () => {
    // 30 mm on 36: at 4 m a metre is 40 pixels of 192.
    for (const place of [
      [0, 0, 4],
      [4, 0, 0],
      [2, 3.3, -1.05],
    ] as Vec3[]) {
      const [across, up] = await extent(place, 'camera')
      expect(Math.abs(across - 80)).toBeLessThanOrEqual(3)
      expect(Math.abs(up - 40)).toBeLessThanOrEqual(3)
    }
    // Upright it is foreshortened from above: by the cosine of 45°.
    const [across, up] = await extent([0, 2.83, 2.83], 'upright')
    expect(Math.abs(across - 80)).toBeLessThanOrEqual(8)
    expect(Math.abs(up - 40 * Math.SQRT1_2)).toBeLessThanOrEqual(4)
    expect(await extent([0, 0, 4], 'no')).not.toEqual(await extent([0, 0, 4], 'camera'))
  })
})
