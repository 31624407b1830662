import { encode } from 'fast-png'
import { beforeAll, describe, expect, it } from 'vitest'
import { drawsOf, partLooks } from '../../acts'
import { act, after } from '../../acts/testing/quiet'
import { primitive, thing } from '../../acts/testing/things'
import { partsOf } from '../../engine'
import { readMesh } from '../../formats'
import type { ObjectDoc, Shot, Vec3 } from '../../shot'
import { mean, Pictures, size } from './testing/pictures'
import { screened } from './testing/screen'
import { overLife, still } from './testing/still'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
const one = async (change: (s: Shot) => void): Promise<Uint8Array> => (await pictures.draw(change, [2], [false]))[0]

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
