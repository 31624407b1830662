import { beforeAll, describe, expect, it } from 'vitest'
import { SKY_PARAMS } from '../../acts'
import { skyAbove } from '../../acts/ambient'
import { primitive, thing } from '../../acts/testing/things'
import { defaultsOf, type Shot, type SkyDoc, type Vec3 } from '../../shot'
import { Pictures, pixels } from './testing/pictures'
import { linear } from './testing/screen'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const GREY: Vec3 = [0.2, 0.2, 0.2]
const BLACK: Vec3 = [0, 0, 0]
const plain = (o: Partial<SkyDoc> = {}): SkyDoc => ({
  ...(defaultsOf(SKY_PARAMS) as unknown as SkyDoc),
  ...{ zenith: BLACK, horizon: BLACK, ground: BLACK, stars: 0, clouds: 0, disc: 0, halo: 0, twinkle: 0 },
  ...o,
})
/** Nothing but a sky, seen at a height (°), 54° from top to bottom. */
async function seen(
  sky: SkyDoc,
  o: { high?: number; width?: number; height?: number; transparent?: boolean } = {},
  change: (s: Shot) => void = () => {},
) {
  const { high = 45, width = 192, height = 108, transparent = false } = o
  const renderer = await pictures.shown((s: Shot) => {
    s.objects = []
    s.systems = []
    s.lights = []
    s.layers[0].finish = []
    const h = (high * Math.PI) / 180
    s.cameras[0] = {
      ...s.cameras[0],
      place: [0, 0, 0],
      aim: [0, Math.sin(h), -Math.cos(h)],
      lens: (18 * (9 / 16)) / Math.tan((27 * Math.PI) / 180),
    }
    s.surroundings = { colour: [0, 0, 0], light: [0, 0, 0], sky }
    change(s)
  })
  const image = await renderer.render(2, { width, height, transparent })
  const { data, channels } = pixels(image.png)
  return {
    data,
    channels,
    /** Linear red of a pixel. */
    at: (x: number, y: number) => linear(data[(Math.round(y) * width + Math.round(x)) * channels]),
    all: Array.from({ length: width * height }, (_, i) => linear(data[i * channels])),
  }
}
describe('a sky by rule', () => {
  it('goes from the horizon to the zenith by its haze, and ends on the ground', async () => {
    const sky = plain({ zenith: GREY, horizon: [0.8, 0.8, 0.8], ground: [0.05, 0.05, 0.05], haze: 0.5 })
    const d = await seen(sky, { high: 20 })
    // Straight ahead at 20°, and where the rows above and below look.
    for (const row of [10, 54, 80, 100]) {
      const high = ((20 + (Math.atan(((54 - row - 0.5) / 54) * Math.tan((27 * Math.PI) / 180)) * 180) / Math.PI) * Math.PI) / 180
      const told = high < 0 ? 0.05 : 0.8 + (0.2 - 0.8) * Math.sin(high) ** 0.5
      expect(Math.abs(d.at(96, row) - told)).toBeLessThan(0.02)
    }
  })
  it('has a disc as wide and where it is asked for, lit as far as its phase', async () => {
    const lit = async (phase: number) => {
      const d = await seen(plain({ disc: 12, azimuth: 0, height: 45, discColour: [1, 1, 1], discLight: 1.5, phase }))
      const bright = d.all.map((v, i) => [v, i]).filter(([v]) => v > 0.3)
      const middle = (of: (i: number) => number) => bright.reduce((sum, [, i]) => sum + of(i), 0) / Math.max(1, bright.length)
      return { count: bright.length, x: middle((i) => i % 192), y: middle((i) => Math.floor(i / 192)) }
    }
    const full = await lit(100)
    // Six degrees around the middle of a picture of 54 over 108 rows.
    const radius = (Math.tan((6 * Math.PI) / 180) / Math.tan((27 * Math.PI) / 180)) * 54
    expect(Math.abs(full.count / (Math.PI * radius * radius) - 1)).toBeLessThan(0.06)
    expect([full.x, full.y]).toEqual([expect.closeTo(95.5, 0), expect.closeTo(53.5, 0)])
    const half = await lit(50)
    expect(Math.abs(half.count / full.count - 0.5)).toBeLessThan(0.12)
    expect(half.x).toBeGreaterThan(full.x + 3)
  })
  it('has as many stars as it is asked for, the same by the same seed, as bright at every size', async () => {
    const sky = (seed: number, stars = 6000) => plain({ stars, seed, starLight: 20 })
    const one = await seen(sky(4), { high: 60, width: 768, height: 432 })
    // Brightest pixels of their surroundings, out of the part of the ball that is seen.
    const isPeak = (i: number) => one.all[i] > 0.02 && [-769, -768, -767, -1, 1, 767, 768, 769].every((k) => !(one.all[i + k] > one.all[i]))
    const found = one.all.filter((_, i) => isPeak(i)).length
    const wide = Math.tan((27 * Math.PI) / 180)
    const solid = 4 * Math.asin(Math.sin(Math.atan(wide)) * Math.sin(Math.atan((wide * 16) / 9)))
    expect(Math.abs(found / ((6000 * solid) / (4 * Math.PI)) - 1)).toBeLessThan(0.25)
    const mean = (d: { all: number[] }) => d.all.reduce((sum, v) => sum + Math.min(v, 1), 0) / d.all.length
    const small = await seen(sky(4), { high: 60, width: 384, height: 216 })
    expect((await seen(sky(4), { high: 60, width: 384, height: 216 })).data).toEqual(small.data)
    expect((await seen(sky(5), { high: 60, width: 384, height: 216 })).data).not.toEqual(small.data)
    expect(Math.abs(mean(small) / mean(one) - 1)).toBeLessThan(0.35)
    expect(mean(await seen(sky(4, 0), { high: 60 }))).toBeLessThan(0.001)
  })
  it('is covered by clouds as far as they go, and is not there in a picture with alpha', async () => {
    const covered = async (clouds: number) => {
      const d = await seen(plain({ clouds, cloudColour: [0.8, 0.8, 0.8] }), { high: 50 })
      return d.all.filter((v) => v > 0.15).length / d.all.length
    }
    const [none, some, most] = [await covered(0), await covered(45), await covered(100)]
    expect(none).toBe(0)
    expect(some).toBeGreaterThan(0.1)
    expect(most).toBeGreaterThan(Math.max(0.85, some + 0.1))
    const clear = await seen(plain({ zenith: GREY, horizon: GREY }), { transparent: true })
    expect(clear.data.every((v) => v === 0)).toBe(true)
  })
  it('has curtains that hang about as high as they are asked for, end below and fade above, the same by the same seed', async () => {
    const hung = (o: Partial<SkyDoc> = {}) =>
      plain({ curtains: 200, curtainHeight: 20, curtainColour: [1, 1, 1], curtainTop: [1, 1, 1], seed: 3, ...o })
    const at = (o: Partial<SkyDoc>) => seen(hung(o), { high: 20 })
    const one = await at({})
    expect((await at({})).data).toEqual(one.data)
    expect((await at({ seed: 4 })).data).not.toEqual(one.data)
    expect(Math.max(...(await at({ curtains: 0 })).all)).toBe(0)
    // Rows by the height that their middle looks: nothing below the horizon, most between half and twice the height.
    const high = (row: number) => 20 + (Math.atan(((53.5 - row) / 54) * Math.tan((27 * Math.PI) / 180)) * 180) / Math.PI
    const light = (from: number, to: number) => {
      const rows = Array.from({ length: 108 }, (_, r) => r).filter((r) => high(r) >= from && high(r) < to)
      return rows.reduce((sum, r) => sum + one.all.slice(r * 192, (r + 1) * 192).reduce((q, v) => q + v, 0), 0) / (rows.length * 192)
    }
    expect(light(-20, -1)).toBe(0)
    expect(light(8, 40)).toBeGreaterThan(0.02)
    expect(light(0, 4)).toBeLessThan(0.4 * light(10, 30))
  })
  it('is lit by curtains as much as they give on the mean: a rough mirror that lies sees them by the cosine', async () => {
    let sum = 0
    const seeds = [1, 2, 3, 4]
    for (const seed of seeds) {
      const sky = plain({
        curtains: 400,
        curtainHeight: 30,
        curtainColour: [1, 1, 1],
        curtainTop: [1, 1, 1],
        seed,
        lights: 0,
        mirrored: 100,
      })
      const d = await seen(sky, { high: -89.9 }, (s) => {
        const plate = thing('plate', { shape: primitive('box', { width: 9, height: 0.02, depth: 9 }), place: [0, -3, 0] })
        s.objects = [{ ...plate, material: { ...plate.material, colour: [1, 1, 1], roughness: 1, metal: 1 } }]
      })
      sum += d.at(96, 54) / seeds.length
    }
    const told = skyAbove(plain({ curtains: 400, curtainHeight: 30, curtainColour: [1, 1, 1], curtainTop: [1, 1, 1] }))[0]
    expect(Math.abs(sum / told - 1)).toBeLessThan(0.3)
  })
  it('lights and is mirrored as an even one has it in closed form: by as much as it has itself', async () => {
    const even = plain({ mirrored: 100, zenith: [0.3, 0.3, 0.3], horizon: [0.3, 0.3, 0.3], ground: [0.3, 0.3, 0.3] })
    const middle = async (sky: SkyDoc, material: Partial<Shot['objects'][number]['material']>) => {
      const d = await seen(sky, { high: 0 }, (s) => {
        const ball = { ...thing('ball', { shape: primitive('sphere', { radius: 1, detail: 48 }), place: [0, 0, -3] }) }
        s.objects = [{ ...ball, material: { ...ball.material, colour: [1, 1, 1], ...material } }]
      })
      return d.at(96, 54)
    }
    // Matt and white, lit from everywhere alike.
    expect(await middle({ ...even, mirrored: 0 }, { roughness: 1, metal: 0 })).toBeCloseTo(0.3, 1.7)
    expect(await middle({ ...even, mirrored: 0, lights: 50 }, { roughness: 1, metal: 0 })).toBeCloseTo(0.15, 1.7)
    // A mirror, smooth or rough.
    expect(await middle({ ...even, lights: 0 }, { roughness: 0, metal: 1 })).toBeCloseTo(0.3, 1.7)
    expect(await middle({ ...even, lights: 0 }, { roughness: 0.6, metal: 1 })).toBeCloseTo(0.3, 1.2)
    expect(await middle({ ...even, lights: 0, mirrored: 0 }, { roughness: 0, metal: 1 })).toBeLessThan(0.01)
    // What is above is seen in what faces up: a mirror ball's upper half.
    const above = plain({ zenith: [0.8, 0.8, 0.8], horizon: [0.8, 0.8, 0.8], ground: [0.05, 0.05, 0.05], lights: 0, mirrored: 100 })
    const d = await seen(above, { high: 0 }, (s) => {
      const ball = thing('ball', { shape: primitive('sphere', { radius: 1, detail: 48 }), place: [0, 0, -3] })
      s.objects = [{ ...ball, material: { ...ball.material, colour: [1, 1, 1], roughness: 0.05, metal: 1 } }]
    })
    expect(d.at(96, 40)).toBeGreaterThan(0.6)
    expect(d.at(96, 68)).toBeLessThan(0.15)
  })
})

describe('a camera that is shifted', () => {
  it('sees the same picture further to the side: objects, particles and the sky behind them', async () => {
    const from = async (shiftX: number, shiftY: number) => {
      const renderer = await pictures.shown((s: Shot) => {
        s.layers[0].finish = []
        s.surroundings.sky = plain({ stars: 4000, starLight: 30, zenith: [0.01, 0.02, 0.05], horizon: [0.2, 0.1, 0.05] })
        s.cameras[0] = { ...s.cameras[0], shiftX, shiftY, lens: 24 }
      })
      return pixels((await renderer.render(30, { width: 192, height: 108, transparent: false })).png)
    }
    // A quarter of the width is 48 pixels, a ninth of the height 12.
    const [plainly, shifted] = [await from(0, 0), await from(25, -100 / 9)]
    let apart = 0
    let light = 0
    let n = 0
    for (let y = 0; y + 12 < 108; y++)
      for (let x = 0; x + 48 < 192; x++, n++)
        for (let c = 0; c < 3; c++) {
          const [a, b] = [
            plainly.data[((y + 12) * 192 + x + 48) * plainly.channels + c],
            shifted.data[(y * 192 + x) * shifted.channels + c],
          ]
          apart += Math.abs(a - b)
          light += a
        }
    // Depths differ by their rounding alone; the dither is another at every pixel.
    expect(apart / n / 3).toBeLessThan(0.6)
    expect(light / n / 3).toBeGreaterThan(10)
  })
})
