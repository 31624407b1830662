import { encode } from 'fast-png'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { drawsOf, partLooks } from '../../acts'
import { act, after } from '../../acts/testing/quiet'
import { primitive, thing } from '../../acts/testing/things'
import { partsOf } from '../../engine'
import { readMesh } from '../../formats'
import type { ObjectDoc, Shot, Vec3 } from '../../shot'
import { mean, Pictures, pixels, size } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
afterAll(() => pictures.close())
const one = async (change: (s: Shot) => void): Promise<Uint8Array> => (await pictures.draw(change, [2], [false]))[0]

/** A shot with one system of particles that stand still, seen from the front, without bloom. */
function still(s: Shot, look: ReturnType<typeof act>[], birth: Record<string, unknown>): void {
  s.objects = []
  s.systems = s.systems.slice(0, 1)
  const [x] = s.systems
  x.birth = [act('burst', { id: 'b', at: 0, every: null, source: null, from: 'point', speed: 0, spread: 0, ...birth })]
  Object.assign(x, { life: 100, space: null, whole: { movement: [], contact: [], offspring: [], look } })
  s.layers[0].finish = []
  s.lights = []
  s.surroundings = { colour: [0, 0, 0], light: [0.02, 0.02, 0.02] }
  s.cameras[0] = { ...s.cameras[0], place: [0, 0, 6], aim: [0, 0, 0], lens: 30 }
}
const overLife = (values: Record<string, unknown>) => act('overLife', { id: 'l', look: null, opacity: 100, brightness: 1, ...values })
/** What is on the screen of a linear value: the curve of final frames (Narkowicz 2015), and sRGB. */
function screened(x: number): number {
  const v = x * 0.8
  const film = Math.min(1, Math.max(0, (v * (2.51 * v + 0.03)) / (v * (2.43 * v + 0.59) + 0.14)))
  return 255 * (film <= 0.0031308 ? film * 12.92 : 1.055 * film ** (1 / 2.4) - 0.055)
}
const sun = (s: Shot, o: Partial<Shot['lights'][number]> = {}) => ({
  ...s.lights[0],
  ...{ id: 'sun', kind: 'sun' as const, place: [0, 9, 0.1] as Vec3, aim: [0, 0, 0] as Vec3, colour: [1, 1, 1] as Vec3 },
  ...{ strength: 3, shadow: true, onGas: 100, muted: false },
  ...o,
})

describe('blends', () => {
  const behind = [0.3, 0.5, 0.2]
  const [c, a] = [0.4, 0.6]
  const twice = (one: number) => one * one
  const cover = 1 - twice(1 - a)
  const light = c * a
  const stacked = light * (1 - a) + light
  it.each([
    ['add', 'add', (b: number) => b + 2 * light],
    ['normal', 'normal', (b: number) => b * (1 - cover) + stacked],
    ['screen', 'screen', (b: number) => 1 - (1 - b) * twice(1 - light)],
    ['multiply', 'multiply', (b: number) => b * twice(1 - a + light)],
    ['multiply', 'normal', (b: number) => b * (1 - cover) + twice(1 - a + light) - (1 - cover)],
    ['normal', 'multiply', (b: number) => b * (1 - cover + stacked)],
    ['screen', 'add', (b: number) => b + 1 - twice(1 - light)],
    ['add', 'screen', (b: number) => 1 - (1 - b) * (1 - 2 * light)],
  ] as const)('two dots that %s, over a picture that they %s, give what the rule says', async (inside, onto, wanted) => {
    const d = await one((s) => {
      const look = [
        overLife({ size: 2, brightness: c, opacity: a * 100 }),
        act('dot', { id: 'd', softness: 0 }),
        act('blend', { id: 'bl', inside, onto }),
      ]
      still(s, look, { count: 2 })
      s.surroundings.colour = behind as Vec3
    })
    const at = ((size.height / 2) * size.width + size.width / 2) * 3
    behind.forEach((b, k) => expect(Math.abs(d[at + k] - screened(wanted(b)))).toBeLessThanOrEqual(2))
  })
})

describe('systems that cover', () => {
  it('hide each other by depth, whatever their order in the list', async () => {
    const two = (first: number, second: number) => (s: Shot) => {
      still(
        s,
        [
          overLife({ size: 1.4, brightness: 0.8 }),
          act('dot', { id: 'd', softness: 0 }),
          act('blend', { id: 'bl', inside: 'normal', onto: 'normal' }),
        ],
        {
          count: 1,
        },
      )
      s.shared.looks = [
        ['red', 1, 0],
        ['blue', 0, 1],
      ].map(([id, r, b]) => ({
        ...structuredClone(pictures.base.shared.looks[0]),
        ...{ id: id as string, size: { points: [{ at: 0, v: 1 }] }, opacity: { points: [{ at: 0, v: 1 }] } },
        colour: { stops: [{ at: 0, colour: [r, 0, b] as Vec3 }] },
      }))
      const [a] = s.systems
      const b = structuredClone(a)
      b.id = 'other'
      a.place = [-0.3, 0, first]
      b.place = [0.3, 0, second]
      a.whole.look[0].look = 'red'
      b.whole.look[0].look = 'blue'
      s.systems = [a, b]
    }
    const channel = (d: Uint8Array, c: number) => d[((size.height / 2) * size.width + size.width / 2) * 3 + c]
    const [nearRed, nearBlue] = [await one(two(1, -1)), await one(two(-1, 1))]
    expect([channel(nearRed, 0) > 100, channel(nearRed, 2) > 20]).toEqual([true, false])
    expect([channel(nearBlue, 0) > 20, channel(nearBlue, 2) > 100]).toEqual([false, true])
  })
})
describe('colour variation', () => {
  it('shows each particle in the colour that plain code gives it', async () => {
    const change = (seed: number) => (s: Shot) => {
      const ramp = {
        ...structuredClone(s.shared.looks[0]),
        id: 'rose',
        opacity: { points: [{ at: 0, v: 1 }] },
        size: { points: [{ at: 0, v: 1 }] },
      }
      s.shared.looks = [{ ...ramp, colour: { stops: [{ at: 0, colour: [0.7, 0.2, 0.3] }] } }]
      const look = [
        overLife({ look: 'rose', size: 1 }),
        act('dot', { id: 'd', softness: 0 }),
        act('varyColour', { id: 'v', seed, hue: 150, saturation: 60, value: 40 }),
      ]
      still(s, look, { count: 1 })
    }
    const seen = new Set<string>()
    for (const seed of [1, 2, 3, 4]) {
      const d = await one(change(seed))
      const s = structuredClone(pictures.base)
      change(seed)(s)
      const [part] = partsOf((await after(s, 2)).parts, 'points')
      const { colour } = partLooks(part, drawsOf(s, s.systems[0], 0), [0])(0)
      const at = ((size.height / 2) * size.width + size.width / 2) * 3
      colour.forEach((c, k) => expect(Math.abs(d[at + k] - screened(c))).toBeLessThanOrEqual(2))
      seen.add(colour.map((c) => c.toFixed(2)).join())
    }
    expect(seen.size).toBe(4)
  })
})
describe('mappings by what frames do not say', () => {
  const bright = (values: Record<string, unknown>) => act('mapValue', { of: 'brightness', joins: 'replace', low: 0, high: 1, ...values })
  const middle = ((size.height / 2) * size.width + size.width / 2) * 3
  const shine = (values: Record<string, unknown>, change: (s: Shot) => void = () => {}, birth: Record<string, unknown> = {}) =>
    one((s) => {
      still(
        s,
        [
          overLife({ size: 2 }),
          act('dot', { id: 'd', softness: 0 }),
          act('blend', { id: 'bl', inside: 'normal', onto: 'normal' }),
          bright(values),
        ],
        {
          count: 1,
          ...birth,
        },
      )
      change(s)
    })
  it('are drawn as plain code has them: a surface, an axis of an object, neighbours, a gas that is not there', async () => {
    const box = (s: Shot) => s.objects.push(thing('box', { shape: primitive('box'), place: [0, 3.5, 0], rotate: [0, 0, 90], seen: false }))
    // The box is a metre high and three and a half above: its lower side is at 3.
    expect(Math.abs((await shine({ by: 'surface', object: 'box', to: 4 }, box))[middle] - screened(0.75))).toBeLessThanOrEqual(2)
    // Of the box, turned by a quarter, X points up: the middle of the shot lies at −3.5.
    expect(Math.abs((await shine({ by: 'x', object: 'box', from: -4, to: -3 }, box))[middle] - screened(0.5))).toBeLessThanOrEqual(2)
    expect(Math.abs((await shine({ by: 'near', within: 0.1, to: 8 }, () => {}, { count: 5 }))[middle] - screened(0.5))).toBeLessThanOrEqual(
      2,
    )
    // A card that asks for what is not there says nothing.
    expect(Math.abs((await shine({ by: 'gas', gas: null, to: 4 }))[middle] - screened(1))).toBeLessThanOrEqual(2)
  })
  it('let dots and flakes fade before what they meet', async () => {
    const before = (look: ReturnType<typeof act>, wall: number) =>
      shine({ of: 'size', by: 'share', low: 2, high: 2 }, (s) => {
        s.systems[0].whole.look[1] = look
        s.objects = [
          thing('wall', {
            shape: primitive('box', { width: 9, height: 9, depth: 0.2 }),
            place: [0, 0, -wall - 0.1],
            material: { colour: [0, 0, 0], roughness: 1, metal: 0, glow: [0, 0, 0] },
          }),
        ]
        s.surroundings.light = [0, 0, 0]
      })
    const flake = act('flake', { id: 'd', shade: 0, glint: 0, back: 100, round: 0, length: 1, softness: 0, meets: 1 })
    const dot = act('dot', { id: 'd', softness: 0, meets: 1 })
    // A flake lies as it lies: at the middle of a pixel it is somewhat nearer or farther than in its own.
    for (const [look, most] of [
      [dot, 4],
      [flake, 10],
    ] as const) {
      // biome-ignore format: one line
      expect(Math.abs((await before(look, 3))[middle] - screened(1))).toBeLessThanOrEqual(2)
      // Half a radius before the wall, and half of the way over which it fades.
      expect(Math.abs((await before(look, 0.5))[middle] - screened(0.5))).toBeLessThanOrEqual(most)
    }
  })
  it('change softness, stretch and turn in the picture', async () => {
    const wide = (d: Uint8Array) => {
      const row = (size.height / 2) * size.width
      return Array.from({ length: size.width }, (_, x) => d[(row + x) * 3]).filter((v) => v > 20).length
    }
    const draw = (draw: ReturnType<typeof act>, map: ReturnType<typeof act>[], birth: Record<string, unknown> = {}) =>
      one((s) =>
        still(s, [overLife({ size: 0.5 }), draw, act('blend', { id: 'bl', inside: 'add', onto: 'add' }), ...map], { count: 1, ...birth }),
      )
    const to = (of: string, v: number) => act('mapValue', { id: `m${of}`, of, by: 'share', joins: 'replace', low: v, high: v })
    const hard = await draw(act('dot', { id: 'd', softness: 0 }), [])
    expect(await draw(act('dot', { id: 'd', softness: 80 }), [to('softness', 0)])).toEqual(hard)
    expect(mean(await draw(act('dot', { id: 'd', softness: 0 }), [to('softness', 100)]), [0.4, 0.3, 0.6, 0.7])).toBeLessThan(
      0.75 * mean(hard, [0.4, 0.3, 0.6, 0.7]),
    )
    // A twelfth of a second at 6 m/s; four times as long is cut at the birth.
    const flies = { speed: 6, along: 'direction', direction: [1, 0, 0] }
    const dash = act('dash', { id: 'd', length: 0.02, taper: 0, softness: 0 })
    const [short, long] = [await draw(dash, [], flies), await draw(dash, [to('stretch', 3)], flies)].map(wide)
    const metre = ((size.width / 2) * (30 / 18)) / 6
    expect(Math.abs(long - short - 0.24 * metre)).toBeLessThan(3)
  })
})
describe('sprites', () => {
  /** A sheet of two by two frames: red, green, blue, and white whose right half is not there. */
  const sheet = async () => {
    const side = 32
    const data = new Uint8Array(side * side * 4)
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const k = (x < 16 ? 0 : 1) + (y < 16 ? 0 : 2)
        data.set(
          [
            ...[
              [255, 0, 0],
              [0, 255, 0],
              [0, 0, 255],
              [255, 255, 255],
            ][k],
            k === 3 && x >= 24 ? 0 : 255,
          ],
          (y * side + x) * 4,
        )
      }
    const r = await readMesh(encode({ width: side, height: side, data, channels: 4, depth: 8 }))
    if (!r.ok) throw new Error(r.problem.message)
    return r.value
  }
  const HASH = 'a'.repeat(64)
  const shown =
    (values: Record<string, unknown>, o: { opacity?: number; birth?: Record<string, unknown>; bare?: boolean } = {}) =>
    (s: Shot) => {
      const look = [
        overLife({ size: 1, brightness: 0.5, opacity: o.opacity ?? 100 }),
        act('sprite', { id: 'sp', object: 'card', ...values }),
      ]
      still(s, look, { count: 1, ...o.birth })
      s.assets = [{ hash: HASH, name: 'sheet.png' }]
      const shape = { kind: 'mesh', asset: HASH, unit: 1, up: 'y', poses: [], rate: 24, start: 0, speed: 1, after: 'hold' } as const
      if (!o.bare) s.objects = [thing('card', { shape: shape as unknown as ObjectDoc['shape'], seen: false })]
    }
  const pixel = (d: Uint8Array, x: number, y: number) => [...d.subarray((y * size.width + x) * 3, (y * size.width + x) * 3 + 3)]
  const half = Math.round(screened(0.5))
  const near = (p: number[], q: number[]) => p.every((v, i) => Math.abs(v - q[i]) <= 3)
  beforeAll(async () => {
    pictures.meshes.set(HASH, await sheet())
  })
  it('show the frame that is asked for, the right way up, as much as it covers', async () => {
    const sheet = { columns: 2, rows: 2, by: 'fixed' }
    const [x, y] = [size.width / 2, size.height / 2]
    const colours = [
      [half, 0, 0],
      [0, half, 0],
      [0, 0, half],
    ]
    for (const [k, colour] of colours.entries()) expect(near(pixel(await one(shown({ ...sheet, frame: k + 1 })), x, y), colour)).toBe(true)
    // The fourth: white on the left, nothing on the right.
    const white = await one(shown({ ...sheet, frame: 4 }))
    expect(near(pixel(white, x - 5, y), [half, half, half])).toBe(true)
    expect(pixel(white, x + 5, y)).toEqual([0, 0, 0])
    // All of it: red is the upper left.
    const whole = await one(shown({ by: 'fixed' }))
    expect(
      [pixel(whole, x - 5, y - 5)[0], pixel(whole, x + 5, y - 5)[1], pixel(whole, x - 5, y + 5)[2]].every((v) => Math.abs(v - half) < 4),
    ).toBe(true)
    const thin = await one(shown({ ...sheet, frame: 2 }, { opacity: 40 }))
    expect(near(pixel(thin, x, y), [0, Math.round(screened(0.2)), 0])).toBe(true)
  })
  it('go through their frames over life or by a rate, and have one each at random', async () => {
    const sheet = { columns: 2, rows: 2 }
    const [x, y] = [size.width / 2, size.height / 2]
    // Two frames of 24 a second: an age of a twelfth.
    expect(near(pixel(await one(shown({ ...sheet, by: 'rate', rate: 12.5, frame: 2 })), x, y), [0, 0, half])).toBe(true)
    expect(near(pixel(await one(shown({ ...sheet, by: 'life' })), x, y), [half, 0, 0])).toBe(true)
    const many = await one(shown({ ...sheet, by: 'random', roll: true }, { birth: { count: 60, speed: 12, spread: 180 } }))
    const seen = [0, 1, 2].map((c) => [...many].filter((v, i) => i % 3 === c && v > half - 6 && many[i - c + ((c + 1) % 3)] < 40).length)
    for (const n of seen) expect(n).toBeGreaterThan(20)
  })
  it('go on by what mappings add, and turn by as much', async () => {
    const [x, y] = [size.width / 2, size.height / 2]
    const map = (values: Record<string, unknown>) => act('mapValue', { id: 'm', by: 'share', joins: 'add', ...values })
    const drawn = (values: Record<string, unknown>, more: ReturnType<typeof act>) =>
      one((s) => {
        shown(values)(s)
        s.systems[0].whole.look.push(more)
      })
    const next = await drawn({ columns: 2, rows: 2, by: 'fixed', frame: 1 }, map({ of: 'picture', low: 2, high: 2 }))
    expect(near(pixel(next, x, y), [0, 0, half])).toBe(true)
    // A quarter to the left: red, the upper left, goes to the lower left.
    const turned = await drawn({ by: 'fixed' }, map({ of: 'turn', low: 90, high: 90 }))
    expect(near(pixel(turned, x - 5, y + 5), [half, 0, 0])).toBe(true)
    expect(near(pixel(turned, x - 5, y - 5), [0, half, 0])).toBe(true)
  })
  it('lead with their upper edge along the motion, and draw nothing without a picture', async () => {
    const [x, y] = [size.width / 2, size.height / 2]
    // Along −X: what was the upper edge is on the left, so red lies below green there.
    const moving = { speed: 0.5, along: 'direction', direction: [-1, 0, 0], spread: 0 }
    const d = await one(shown({ by: 'fixed', faces: 'motion' }, { birth: moving }))
    const at = x - Math.round((0.5 * 2 * size.width * 30) / 24 / 36 / 6)
    expect(pixel(d, at - 5, y + 5)[0]).toBeGreaterThan(half - 5)
    expect(pixel(d, at - 5, y - 5)[1]).toBeGreaterThan(half - 5)
    expect(Math.max(...(await one(shown({ object: null }))))).toBe(0)
    expect(Math.max(...(await one(shown({}, { bare: true }))))).toBe(0)
  })
})
describe('what is drawn from the nearest on', () => {
  it('is the picture that it is from the farthest on, dense enough to hide most of itself', async () => {
    const cloud = (way: string, other: boolean) => (s: Shot) => {
      const look = [
        overLife({ size: { value: 0.3, vary: 0.1 }, brightness: 0.6, opacity: 85 }),
        act(way, { id: 'w' }),
        act('varyColour', { id: 'v', hue: 120, value: 60 }),
        act('blend', { id: 'bl', inside: 'normal', onto: 'normal' }),
      ]
      still(s, look, { count: 4000, speed: { value: 7, vary: 6 }, spread: 180 })
      // Another one, far out of the picture: then both are drawn as one.
      if (other) {
        const b = structuredClone(s.systems[0])
        b.id = 'other'
        b.place = [0, 500, 0]
        s.systems.push(b)
      }
    }
    for (const way of ['dot', 'dash']) {
      const [far, near] = [await one(cloud(way, false)), await one(cloud(way, true))]
      expect(mean(far, [0.4, 0.4, 0.6, 0.6])).toBeGreaterThan(30)
      const off = far.map((x, i) => Math.abs(x - near[i]))
      // Eight bits of a picture of half floats, in another order.
      expect(off.reduce((a, b) => a + b, 0) / off.length).toBeLessThan(0.3)
      expect([...off].filter((x) => x > 4).length / off.length).toBeLessThan(0.001)
    }
  })
})
describe('a relief', () => {
  it('draws dots, dashes, tufts and solids where it says, as if they were there', async () => {
    for (const way of ['dot', 'dash', 'tuft', 'solid']) {
      const shown = (lift: number, place: number) => (s: Shot) => {
        still(s, [overLife({ size: 0.3 }), act(way, { id: 'w' }), act('relief', { id: 'r', along: 'x', amount: 0, lift })], {
          count: 30,
          speed: 1.5,
          spread: 180,
        })
        s.systems[0].place = [place, 0, 0]
        s.surroundings.light = [0.3, 0.3, 0.3]
      }
      const [drawn, there, without] = [await one(shown(0.5, 0)), await one(shown(0, 0.5)), await one(shown(0, 0))]
      const far = (p: Uint8Array, q: Uint8Array) => p.reduce((sum, x, i) => sum + Math.abs(x - q[i]), 0) / p.length
      // Nearly the same: places are rounded in another space.
      expect(far(drawn, there)).toBeLessThan(0.05)
      expect(far(drawn, without)).toBeGreaterThan(0.2)
    }
  })
})
describe('tufts', () => {
  const grey = { colour: [0.5, 0.5, 0.5] as Vec3, roughness: 1, metal: 0, glow: [0, 0, 0] as Vec3 }
  const object = (id: string, o: Partial<ObjectDoc>) => thing(id, { material: grey, ...o })
  /** A ball of 4,000 tufts, half a metre across, at 1.2 m over a floor. */
  const cloud = (o: { tuft?: Record<string, unknown>; roof?: boolean; muted?: boolean }) => (s: Shot) => {
    const [first] = s.lights
    const look = [overLife({ size: 0.16, brightness: 0.9 }), act('tuft', { id: 't', ...o.tuft })]
    still(s, look, { count: 4000, source: 'source', from: 'inside' })
    s.systems[0].muted = o.muted
    s.lights = [{ ...sun({ ...s, lights: [first] }) }]
    s.objects = [
      object('ground', { shape: { kind: 'plane', size: 12, endless: false }, place: [0, 0, 0], shadow: false }),
      object('source', { shape: primitive('sphere', { radius: 0.6 }), place: [0, 1.2, 0], seen: false, shadow: false }),
      ...(o.roof ? [object('roof', { shape: primitive('box', { width: 3, height: 0.1, depth: 3 }), place: [0, 5, 0] })] : []),
    ]
    s.cameras[0] = { ...s.cameras[0], place: [0, 1.9, 6], aim: [0, 1, 0], lens: 30 }
  }
  const top = [0.46, 0.34, 0.54, 0.41]
  const bottom = [0.46, 0.52, 0.54, 0.58]
  const under = [0.45, 0.72, 0.55, 0.77]
  it('take light from above and are dark below, throw a shadow, and lie in that of others', async () => {
    const lit = await one(cloud({}))
    const bare = await one(cloud({ muted: true }))
    expect(mean(lit, top)).toBeGreaterThan(2 * mean(lit, bottom))
    expect(mean(lit, under)).toBeLessThan(0.7 * mean(bare, under))
    const roofed = await one(cloud({ roof: true }))
    expect(mean(roofed, top)).toBeLessThan(0.5 * mean(lit, top))
  })
  it('do not shade each other when they are told not to, and shine by themselves when they are', async () => {
    const even = await one(cloud({ tuft: { shade: 0 } }))
    expect(mean(even, top) / mean(even, bottom)).toBeLessThan(1.15)
    expect(mean(even, top) / mean(even, bottom)).toBeGreaterThan(0.87)
    const dark = await one(cloud({ tuft: { shine: 0, surroundings: 0 }, roof: true }))
    const shining = await one(cloud({ tuft: { shine: 100, surroundings: 0 }, roof: true }))
    expect(mean(dark, bottom)).toBeLessThan(8)
    expect(mean(shining, bottom)).toBeGreaterThan(screened(0.9) - 25)
  })
  it('covers as much as its thickness says in its middle, and fades before an object that it meets', async () => {
    const single = (tuft: Record<string, unknown>, wall: number) => (s: Shot) => {
      still(s, [overLife({ size: 2, brightness: 1 }), act('tuft', { id: 't', ragged: 0, shine: 100, surroundings: 0, ...tuft })], {
        count: 1,
      })
      s.objects = [object('wall', { shape: primitive('box', { width: 9, height: 9, depth: 0.2 }), place: [0, 0, -wall - 0.1] })]
      s.surroundings.light = [0, 0, 0]
    }
    const middle = [0.497, 0.495, 0.503, 0.505]
    for (const thickness of [0.3, 1, 3]) {
      const d = await one(single({ thickness, meets: 0 }, 3))
      expect(Math.abs(mean(d, middle) - screened(1 - Math.exp(-thickness)))).toBeLessThan(3)
    }
    // Half a radius before the wall, and half of the way over which it fades.
    const d = await one(single({ thickness: 3, meets: 1 }, 0.5))
    expect(Math.abs(mean(d, middle) - screened((1 - Math.exp(-3)) / 2))).toBeLessThan(4)
  })
})

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
        s.systems[0].birth = [act('burst', { id: 'b', at: 0, every: null, source: null, speed: 2, spread: 180, count: 60 })]
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
})
