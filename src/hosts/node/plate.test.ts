import { encode } from 'fast-png'
import { beforeAll, describe, expect, it } from 'vitest'
import { MASK_PARAMS } from '../../acts'
import { primitive, thing } from '../../acts/testing/things'
import { readMesh } from '../../formats'
import { defaultsOf, type MaskDoc, type MeshShape, type Shot, type Vec3 } from '../../shot'
import { Pictures, pixels } from './testing/pictures'
import { linear } from './testing/screen'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [128, 72]
let made = 0
/** A picture by a rule of its pixels, brought in as a file is; gives its hash. */
async function picture(of: (x: number, y: number) => number[]): Promise<string> {
  const data = Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) => {
    const at = Math.floor(i / 3)
    return of(at % WIDTH, Math.floor(at / WIDTH))[i % 3]
  })
  const r = await readMesh(new Uint8Array(encode({ width: WIDTH, height: HEIGHT, data, channels: 3, depth: 8 })))
  if (!r.ok) throw new Error(r.problem.message)
  const hash = (++made).toString(16).padStart(64, 'e')
  pictures.meshes.set(hash, r.value)
  return hash
}
const mesh = (files: string[], o: Partial<MeshShape> = {}): MeshShape => ({
  ...{ kind: 'mesh', asset: files[0], unit: 1, up: 'y', poses: files.slice(1), rate: 24, start: 0, speed: 1, after: 'hold' },
  ...o,
})
/** A shot with a plate of files and nothing else; `change` adds what it likes. */
async function behind(files: string[], change: (s: Shot) => void = () => {}, frame = 2, transparent = false) {
  const renderer = await pictures.shown((s) => {
    s.systems = []
    s.forces = []
    s.lights = []
    s.layers[0].finish = []
    s.surroundings = { colour: [0, 0, 0], light: [0, 0, 0] }
    s.objects = [thing('footage', { shape: mesh(files) })]
    s.cameras[0] = { ...s.cameras[0], place: [0, 3, 3], aim: [0, 0, 0], lens: 35, plate: 'footage', fit: 'fill' }
    change(s)
  })
  const { data, channels } = pixels((await renderer.render(frame, { width: WIDTH, height: HEIGHT, transparent })).png)
  return (x: number, y: number) => [...data.subarray((y * WIDTH + x) * channels, (y * WIDTH + x + 1) * channels)]
}
const floor = (s: Shot, o: Partial<Shot['objects'][number]['material']> = {}) => {
  const plain = thing('floor', { shape: { kind: 'plane', size: 20, endless: false } })
  s.objects.push({ ...plain, material: { ...plain.material, colour: [0.5, 0.5, 0.5], catches: true, ...o } })
}

const BURST = { at: 0, count: 1, source: 'spot', part: '', region: '', speed: 0, inherit: 0 }

describe('a plate behind the camera', () => {
  it('comes out as it is, to one step of 255 and the dither, in every colour', async () => {
    const rule = (x: number, y: number) => [
      Math.round((x / (WIDTH - 1)) * 250),
      Math.round((y / (HEIGHT - 1)) * 250),
      (x * 7 + y * 3) % 250,
    ]
    const at = await behind([await picture(rule)])
    let most = 0
    for (let y = 1; y < HEIGHT - 1; y += 5)
      for (let x = 1; x < WIDTH - 1; x += 5) {
        const told = rule(x, y)
        // The third colour jumps from pixel to pixel: where the picture is filtered it is not that of one.
        for (const k of [0, 1]) most = Math.max(most, Math.abs(at(x, y)[k] - told[k]))
      }
    expect(most).toBeLessThanOrEqual(2)
  })
  it('is the picture of the frame, darker and greyer where it is asked for, and is not there with alpha', async () => {
    const files = await Promise.all([40, 80, 120, 160].map((v) => picture(() => [v, v / 2, 0])))
    for (const [frame, v] of [
      [0, 40],
      [2, 120],
      [9, 160],
    ])
      expect(Math.abs((await behind(files, () => {}, frame))(60, 30)[0] - v)).toBeLessThanOrEqual(2)
    const grey = (await behind(files, (s) => void (s.cameras[0].plateSaturation = 0)))(60, 30)
    expect(Math.max(...grey) - Math.min(...grey)).toBeLessThanOrEqual(1)
    const half = (await behind(files, (s) => void (s.cameras[0].plateBright = 50)))(60, 30)[0]
    // Half of its light, as it was encoded (sRGB): 120 becomes 86.
    expect(Math.abs(half - 86)).toBeLessThanOrEqual(2)
    const tinted = (await behind(files, (s) => void (s.cameras[0].plateTint = [0.5, 1, 1])))(60, 30)
    expect(tinted.map((v, c) => Math.abs(v - [86, 60, 0][c]) <= 2)).toEqual([true, true, true])
    // About a middle grey: twice the contrast squares how many times as bright as that it is.
    const harder = (await behind(files, (s) => void (s.cameras[0].plateContrast = 200)))(60, 30)
    const light = (v: number) => ((v / 255 + 0.055) / 1.055) ** 2.4
    for (const [c, v] of [120, 60].entries()) expect(Math.abs(light(harder[c]) / (light(v) ** 2 / 0.18) - 1)).toBeLessThan(0.05)
    expect((await behind(files, () => {}, 2, true))(60, 30)).toEqual([0, 0, 0, 0])
  })
  it('is darkened by a shadow on what only catches, and nowhere else; with alpha there is the shadow alone', async () => {
    const grey = [await picture(() => [150, 150, 150])]
    const lit = (s: Shot) => {
      floor(s, { opacity: 60 })
      s.objects.push(thing('box', { shape: primitive('box', { width: 0.6, height: 0.6, depth: 0.6 }), place: [0, 0.8, 0], seen: false }))
      s.lights = [
        { ...pictures.base.lights[0], kind: 'sun', place: [0, 8, 0.001], aim: [0, 0, 0], colour: [1, 1, 1], strength: 3, shadow: true },
      ]
    }
    // An object that is not seen throws none: the whole plate is as it was.
    const plain = await behind(grey, lit)
    expect(Math.abs(plain(64, 36)[0] - 150)).toBeLessThanOrEqual(2)
    const seen = (s: Shot) => {
      lit(s)
      s.objects = s.objects.map((o) => (o.id === 'box' ? { ...o, seen: true, place: [0, 2.2, 0] } : o))
    }
    const at = await behind(grey, seen)
    // Under the box, which hangs above the middle of the picture, and far beside it.
    const under = at(64, 38)[0]
    expect(linear(under)).toBeLessThan(0.55 * linear(150))
    expect(linear(under)).toBeGreaterThan(0.25 * linear(150))
    expect(Math.abs(at(12, 60)[0] - 150)).toBeLessThanOrEqual(2)
    // Where half of the light comes from all around, a shadow takes half as much.
    const soft = await behind(grey, (s) => {
      seen(s)
      s.surroundings.light = [3 / Math.PI, 3 / Math.PI, 3 / Math.PI]
    })
    const taken = (v: number) => 1 - linear(v) / linear(150)
    expect(Math.abs(taken(soft(64, 38)[0]) / taken(under) - 0.5)).toBeLessThan(0.06)
    const alone = await behind(grey, seen, 2, true)
    expect([alone(64, 38)[0], alone(12, 60)[3]]).toEqual([0, 0])
    expect(Math.abs(alone(64, 38)[3] / 255 - 0.6)).toBeLessThan(0.06)
  })
  it('takes the light of what follows particles on what only catches, by the square of the distance', async () => {
    const dark = [await picture(() => [0, 0, 0])]
    const at = async (height: number) => {
      const seen = await behind(dark, (s) => {
        floor(s)
        s.objects.push(thing('spot', { shape: primitive('sphere', { radius: 0.001 }), place: [0, height, 0], seen: false }))
        const [system] = structuredClone(pictures.base.systems)
        const none = { movement: [], contact: [], offspring: [], look: [] }
        s.systems = [
          { ...system, birth: [{ ...system.birth[0], ...BURST }], whole: none, phases: [{ ...system.phases[0], ...none, turns: [] }] },
        ]
        const point = {
          ...pictures.base.lights[0],
          kind: 'point' as const,
          place: [0, 0, 0] as Vec3,
          colour: [1, 1, 1] as Vec3,
          shadow: false,
        }
        s.lights = [{ ...point, strength: 2, follows: system.id, which: 'middle' }]
      })
      // Where the camera looks.
      return linear(seen(WIDTH / 2, HEIGHT / 2)[0])
    }
    // Lambert: half of it, over π, from a light of two at a metre, and at two.
    expect(Math.abs((await at(1)) / (1 / Math.PI) - 1)).toBeLessThan(0.06)
    expect(Math.abs((await at(2)) / (0.25 / Math.PI) - 1)).toBeLessThan(0.08)
  })
})

describe('a drawn mask', () => {
  /** The right half of the picture, with its edge at its middle. */
  const half = (o: Partial<MaskDoc> = {}): MaskDoc => ({
    ...(defaultsOf(MASK_PARAMS) as unknown as MaskDoc),
    ...{ id: 'mask', name: 'Mask', seed: 1, feather: 0, depth: 4.2426 },
    outline: [
      [0, -3, 0],
      [3, -3, 0],
      [3, 3, 0],
      [0, 3, 0],
    ],
    ...o,
  })
  /** A glowing sheet that faces the camera over the whole picture, so far along its way. */
  const sheet = (s: Shot, depth: number, ...masks: MaskDoc[]) => {
    s.masks = masks
    const k = depth / Math.hypot(3, 3)
    const plain = thing('sheet', {
      shape: { kind: 'plane', size: 20, endless: false },
      place: [0, 3 - 3 * k, 3 - 3 * k],
      rotate: [45, 0, 0],
    })
    s.objects.push({ ...plain, material: { ...plain.material, colour: [0, 0, 0], glow: [0, 1, 0] } })
  }
  const red = async () => [await picture(() => [150, 0, 0])]
  it('shows the plate before what is farther, and what is nearer before the plate', async () => {
    const files = await red()
    const at = async (depth: number, o: Partial<MaskDoc> = {}, transparent = false) => {
      const seen = await behind(files, (s) => sheet(s, depth, half(o)), 2, transparent)
      return { left: seen(30, 36), right: seen(100, 36) }
    }
    const farther = await at(4.3)
    expect(farther.left[1]).toBeGreaterThan(150)
    expect(farther.right[1]).toBe(0)
    expect(Math.abs(farther.right[0] - 150)).toBeLessThanOrEqual(2)
    const nearer = await at(4.1)
    expect(nearer.right).toEqual(nearer.left)
    // The other way round, muted, of another camera, and as a hole with alpha.
    const outside = await at(4.3, { outside: true })
    expect([outside.left[1], outside.right[1] > 150]).toEqual([0, true])
    expect((await at(4.3, { muted: true })).right[1]).toBeGreaterThan(150)
    expect((await at(4.3, { camera: 'another' })).right[1]).toBeGreaterThan(150)
    const alone = await at(4.3, {}, true)
    expect([alone.left[3], alone.right[3]]).toEqual([255, 0])
  })
  it('fades over its feather, and covers by its share', async () => {
    const files = await red()
    const seen = await behind(files, (s) => sheet(s, 4.3, half({ feather: (64 / HEIGHT) * 100 })))
    const full = (await behind(files, (s) => sheet(s, 4.3)))(30, 36)[1]
    const whole = linear(full)
    const share = (x: number) => seen(x, 36)[1]
    // Falls all the way from left to right.
    for (let x = 34; x < 94; x += 4) expect(share(x + 4)).toBeLessThanOrEqual(share(x))
    expect([share(20), share(110)]).toEqual([full, 0])
    const some = await behind(files, (s) => sheet(s, 4.3, half({ covers: 75 })))
    expect(linear(some(100, 36)[1]) / whole).toBeGreaterThan(0.2)
    expect(linear(some(100, 36)[1]) / whole).toBeLessThan(0.5)
  })
  it('of two the nearer counts where both lie', async () => {
    const files = await red()
    const seen = await behind(files, (s) =>
      // The far ones over the whole picture hide nothing of it; the near one hides it on the right.
      sheet(s, 3.5, half({ depth: 3 }), half({ id: 'far', depth: 4, outside: true }), half({ id: 'all', depth: 4 })),
    )
    expect([seen(30, 36)[1] > 150, seen(100, 36)[1]]).toEqual([true, 0])
  })
})
