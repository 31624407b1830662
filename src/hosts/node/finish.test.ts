import { beforeAll, describe, expect, it } from 'vitest'
import { actsOfSort } from '../../acts'
import type { ActDoc, ObjectDoc, Vec3 } from '../../shot'
import { act, card, dark, straight } from './testing/cards'
import { Pictures, pixels } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const ACTS = actsOfSort('finish')
/** As it is up to white. */
const STRAIGHT = act('tone', { curve: 'straight' })
const shining = (id: string, place: Vec3, width: number, glow: Vec3): ObjectDoc => card(id, place, [width, width], glow)
interface Scene {
  finish: ActDoc[]
  objects?: ObjectDoc[]
  size?: [number, number]
  transparent?: boolean
  frame?: number
}
const THREE_CARDS = [
  shining('left', [-1, 0.4, 0], 0.5, [0.5, 0.1, 0.05]),
  shining('middle', [0.1, 0, 0], 0.3, [6, 5, 3]),
  shining('right', [1.1, -0.5, 0], 0.4, [0.1, 0.3, 0.9]),
]
/** Cards that shine in the dark, seen from 5 m, where the picture is 4 m wide. */
async function drawn({ finish, objects = THREE_CARDS, size: [width, height] = [192, 108], transparent = false, frame = 2 }: Scene) {
  const renderer = await pictures.shown((s) => {
    dark(s, objects)
    s.layers[0].finish = finish
  })
  const { data, channels } = pixels((await renderer.render(frame, { width, height, transparent })).png)
  const at = (x: number, y: number): number[] => [...data.subarray((y * width + x) * channels, (y * width + x) * channels + channels)]
  /** Linear light of a channel where a place of the shot's plane through its middle is. */
  const light = (x: number, y: number, channel = 1): number =>
    straight(at(Math.floor((0.5 + x / 4) * width), Math.floor((0.5 - (y * 16) / 9 / 4) * height))[channel])
  /** All light of the picture, and where its middle and its spread across are, in pixels. */
  const sums = () => {
    let [all, mx, xx] = [0, 0, 0]
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const l = straight(at(x, y)[1])
        all += l
        mx += l * x
        xx += l * x * x
      }
    return { all, middle: mx / all, spread: Math.sqrt(Math.max(0, xx / all - (mx / all) ** 2)) }
  }
  return { at, light, data, channels, width, height, sums }
}
const far = (a: Uint8Array, b: Uint8Array) => {
  let [most, sum] = [0, 0]
  for (let i = 0; i < a.length; i++) {
    const d = Math.abs(a[i] - b[i])
    most = Math.max(most, d)
    sum += d
  }
  return { most, mean: sum / a.length }
}
/** Values with which each does nothing. */
const NEUTRAL: Record<string, Record<string, unknown>> = {
  bloom: { strength: 0 },
  rays: { strength: 0 },
  flare: { ghosts: 0, halo: 0 },
  soften: { radius: 0 },
  smear: { length: 0 },
  spinBlur: { angle: 0 },
  zoomBlur: { amount: 0 },
  sharpen: { amount: 0 },
  fringes: { amount: 0 },
  detail: { strength: 0 },
  grade: {},
  vignette: { amount: 0 },
  grain: { amount: 0 },
  tone: { curve: 'film' },
  lensBend: { follows: 'middle', radius: 0 },
  linger: { time: 0 },
}
/** What each is given to be seen at work. */
const BUSY: Record<string, Record<string, unknown>> = {
  sharpen: { amount: 300, radius: 1 },
  flare: { ghosts: 20, halo: 20 },
  grade: { exposure: 0.5, temperature: 4200, contrast: 115, saturation: 130, hue: 20, darkTint: [0.8, 0.9, 1.3], brights: 80 },
  lensBend: { follows: 'middle', radius: 0.4, core: 0.1 },
  grain: { amount: 10, size: 1.5, still: true },
}
describe('every finish', () => {
  it('leaves the picture as it is where it has nothing to do', async () => {
    const plain = await drawn({ finish: [] })
    for (const { kind } of ACTS) {
      expect(NEUTRAL, kind).toHaveProperty(kind)
      const same = await drawn({ finish: [act(kind, NEUTRAL[kind])] })
      expect(far(same.data, plain.data).most, kind).toBe(0)
    }
  })
  it('gives over black with transparency what it gives without, and does something', async () => {
    const plain = await drawn({ finish: [] })
    for (const { kind } of ACTS) {
      const finish = [act(kind, BUSY[kind] ?? (kind === 'tone' ? { curve: 'gentle' } : {}))]
      const [solid, clear] = [await drawn({ finish }), await drawn({ finish, transparent: true })]
      expect(far(solid.data, plain.data).most, kind).toBeGreaterThan(2)
      const over = new Uint8Array(solid.data.length)
      for (let i = 0, n = 0; n < over.length; i += 4, n += 3)
        for (let c = 0; c < 3; c++) over[n + c] = Math.round((clear.data[i + c] * clear.data[i + 3]) / 255)
      expect(far(over, solid.data).most, kind).toBeLessThanOrEqual(2)
    }
  })
  it('looks the same at half the size', async () => {
    for (const { kind } of ACTS) {
      const finish = [act(kind, BUSY[kind] ?? {})]
      const [large, small] = [await drawn({ finish, size: [640, 360] }), await drawn({ finish, size: [320, 180] })]
      let [sum, n] = [0, 0]
      for (let y = 0; y < 180; y++)
        for (let x = 0; x < 320; x++)
          for (let c = 0; c < 3; c++, n++) {
            const i = (2 * y * 640 + 2 * x) * 3 + c
            const four = large.data[i] + large.data[i + 3] + large.data[i + 1920] + large.data[i + 1923]
            sum += Math.abs(four / 4 - small.data[(y * 320 + x) * 3 + c])
          }
      // Of 255, all pixels together: edges of cards alone give a tenth.
      expect(sum / n, kind).toBeLessThan(0.9)
    }
  })
})
describe('a grade', () => {
  const grey = [shining('card', [0, 0, 0], 3.9, [0.18, 0.18, 0.18])]
  const colours = [shining('card', [0, 0, 0], 3.9, [0.3, 0.12, 0.05])]
  const of = async (values: Record<string, unknown>, objects = grey) => {
    const p = await drawn({ finish: [act('grade', values), STRAIGHT], objects })
    return [0, 1, 2].map((c) => p.light(0, 0, c))
  }
  it('follows its formulas', async () => {
    const near = (a: number[], b: number[]) => a.forEach((v, i) => void expect(Math.abs(v / b[i] - 1), `${a} ${b}`).toBeLessThan(0.02))
    near(await of({}), [0.18, 0.18, 0.18])
    near(await of({ exposure: 1 }), [0.36, 0.36, 0.36])
    near(await of({ lift: 5 }), [0.23, 0.23, 0.23])
    near(await of({ contrast: 150 }), [0.18, 0.18, 0.18])
    near(
      await of({ contrast: 150 }, colours),
      [0.3, 0.12, 0.05].map((c) => 0.18 * (c / 0.18) ** 1.5),
    )
    const luma = 0.2126 * 0.3 + 0.7152 * 0.12 + 0.0722 * 0.05
    near(await of({ saturation: 0 }, colours), [luma, luma, luma])
    near(await of({ hue: 120 }, colours), [0.05, 0.3, 0.12])
    // A curve from 0.5 to 0.8 as a screen shows it, of a grey that it shows as 0.461.
    const bent = {
      points: [
        { at: 0, v: 0 },
        { at: 0.5, v: 0.8 },
        { at: 1, v: 1 },
      ],
    }
    const screen = 1.055 * 0.18 ** (1 / 2.4) - 0.055
    const out = ((screen * 1.6 + 0.055) / 1.055) ** 2.4
    near(await of({ all: bent }), [out, out, out])
    const warm = await of({ temperature: 9000 })
    expect(warm[0]).toBeGreaterThan(warm[2] * 1.2)
    expect(Math.abs((0.2126 * warm[0] + 0.7152 * warm[1] + 0.0722 * warm[2]) / 0.18 - 1)).toBeLessThan(0.02)
  })
})
describe('blurs', () => {
  const dot = [shining('dot', [0, 0, 0], 0.05, [8, 8, 8])]
  const shown = (finish: ActDoc[]) =>
    drawn({ finish: [...finish, act('grade', { exposure: -3 }), STRAIGHT], objects: dot, size: [320, 180] })
  it('keep all light; a bell curve is as wide as it says, a smear and a spin as long', async () => {
    const plain = (await shown([])).sums()
    const bell = (await shown([act('soften', { radius: 3 })])).sums()
    expect(bell.spread).toBeGreaterThan(5)
    const variance = Math.sqrt(bell.spread ** 2 - plain.spread ** 2)
    // Light under a 500th is not seen in eight bits, and is missing at its rim.
    expect(variance / (0.03 * 180)).toBeGreaterThan(0.85)
    expect(variance / (0.03 * 180)).toBeLessThan(1.05)
    const smear = (await shown([act('smear', { length: 20 })])).sums()
    expect(Math.abs(smear.all / plain.all - 1)).toBeLessThan(0.12)
    expect(Math.abs((Math.sqrt(smear.spread ** 2 - plain.spread ** 2) * Math.sqrt(12)) / (0.2 * 180) - 1)).toBeLessThan(0.06)
    expect(smear.middle).toBeCloseTo(plain.middle, 0)
  })
})
describe('star rays', () => {
  it('have as many arms as they are asked for, in their directions, fading until their length', async () => {
    const objects = [shining('dot', [0, 0, 0], 0.04, [6, 6, 6])]
    const p = await drawn({ finish: [act('rays', { count: 4, turn: 0, length: 40, strength: 3 }), STRAIGHT], objects, size: [640, 360] })
    // 40 % of the height is 0.9 m here.
    for (const [x, y] of [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ]) {
      expect(p.light(x * 0.1, y * 0.1)).toBeGreaterThan(p.light(x * 0.3, y * 0.3) * 1.5)
      expect(p.light(x * 0.3, y * 0.3)).toBeGreaterThan(0.02)
      expect(p.light(x * 1.05, y * 1.05)).toBeLessThan(0.02)
    }
    expect(p.light(0.2, 0.2)).toBe(0)
    const none = await drawn({ finish: [act('rays', { from: 80, softness: 0 }), STRAIGHT], objects, size: [640, 360] })
    expect(none.light(0.2, 0)).toBe(0)
  })
})
describe('a lens bend', () => {
  const mass = { ...shining('mass', [0, 0, 0], 0.02, [0, 0, 0]), seen: false }
  const ring = 0.4
  const bent = (objects: ObjectDoc[], values: Record<string, unknown> = {}) =>
    drawn({
      finish: [act('lensBend', { follows: 'mass', radius: ring, ...values }), STRAIGHT],
      objects: [mass, ...objects],
      size: [640, 360],
    })
  it('shows a spot behind a mass twice, where the formula says', async () => {
    // Behind by 1 m, so that it looks as if it were at 0.25 in the plane of the mass.
    const beta = 0.25
    const p = await bent([shining('spot', [beta * 1.2, 0, -1], 0.05, [9, 9, 9])])
    const images = [1, -1].map((s) => (beta + s * Math.sqrt(beta ** 2 + 4 * ring ** 2)) / 2)
    for (const x of images) expect(p.light(x, 0), `${x}`).toBeGreaterThan(0.5)
    for (const x of [beta, images[0] + 0.12, images[1] - 0.12, images[1] + 0.12]) expect(p.light(x, 0), `${x}`).toBeLessThan(0.02)
  })
  it('makes a ring of what lies right behind, and bends nothing before it', async () => {
    const behind = await bent([shining('spot', [0, 0, -1], 0.1, [9, 9, 9])])
    for (let a = 0; a < 6.28; a += 0.4) expect(behind.light(ring * Math.cos(a), ring * Math.sin(a))).toBeGreaterThan(0.5)
    expect(behind.light(0.1, 0)).toBe(0)
    const before = await bent([shining('spot', [0, 0, 1], 0.1, [9, 9, 9])])
    expect(before.light(0, 0)).toBeGreaterThan(0.9)
    expect(before.light(ring, 0)).toBe(0)
    const also = await bent([shining('spot', [0, 0, 1], 0.1, [9, 9, 9])], { before: false })
    expect(also.light(ring, 0)).toBeGreaterThan(0.5)
  })
  it('has a core as large as it says, at every distance', async () => {
    const wall = shining('wall', [0, 0, -1], 8, [0.5, 0.5, 0.5])
    const p = await bent([wall], { radius: 0, core: 0.5 })
    expect(p.light(0.44, 0)).toBe(0)
    expect(p.light(0.53, 0)).toBeGreaterThan(0.45)
    const nearer = await drawn({
      finish: [act('lensBend', { follows: 'mass', radius: 0, core: 0.5 }), STRAIGHT],
      objects: [{ ...mass, place: [0, 0, 2.5] }, wall],
      size: [640, 360],
    })
    // At half the distance it is twice as large.
    expect(nearer.light(0.88, 0)).toBe(0)
    expect(nearer.light(1.06, 0)).toBeGreaterThan(0.45)
  })
})
describe('grain', () => {
  it('has the spread that it says, is another on each frame unless it stands still, and leaves black alone', async () => {
    const grey = [shining('card', [-1, 0, 0], 2, [0.18, 0.18, 0.18])]
    const of = (values: Record<string, unknown>, frame = 2) =>
      drawn({ finish: [act('grain', { calm: 0, colours: 0, ...values }), STRAIGHT], objects: grey, frame })
    const [a, b] = [await of({ amount: 10 }), await of({ amount: 10 }, 3)]
    expect(far(a.data, b.data).mean).toBeGreaterThan(1)
    const [c, d] = [await of({ amount: 10, still: true }), await of({ amount: 10, still: true }, 3)]
    expect(far(c.data, d.data).most).toBe(0)
    expect(a.light(1, 0)).toBe(0)
    const values: number[] = []
    for (let x = -1.8; x < -0.2; x += 0.03) for (let y = -0.8; y < 0.8; y += 0.03) values.push(a.light(x, y))
    const mean = values.reduce((s, v) => s + v) / values.length
    const spread = Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / values.length)
    expect(Math.abs(mean / 0.18 - 1)).toBeLessThan(0.02)
    expect(Math.abs(spread / (0.1 * 0.18 ** 0.8) - 1)).toBeLessThan(0.15)
  })
})
