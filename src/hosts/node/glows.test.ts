import { beforeAll, describe, expect, it } from 'vitest'
import { GLOW_PARAMS, glowPlace } from '../../acts'
import { primitive, thing } from '../../acts/testing/things'
import { defaultsOf, type GlowDoc, type ObjectDoc, type Shot, type Vec3 } from '../../shot'
import { flickerAt } from '../../stage/glows'
import { Pictures, pixels } from './testing/pictures'
import { linear } from './testing/screen'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [160, 90]
const glow = (o: Partial<GlowDoc> = {}): GlowDoc => ({
  ...(defaultsOf(GLOW_PARAMS) as unknown as GlowDoc),
  ...{ id: 'glow', name: 'Glow', seed: 7, place: [0, 0, 0], colour: [1, 1, 1], strength: 0.4, size: 1, core: 40, halo: 25 },
  ...o,
})
/** Glows alone, seen from 5 m, where the picture is 4 m wide. */
async function seen(glows: GlowDoc[], objects: ObjectDoc[] = [], transparent = false) {
  const renderer = await pictures.shown((s: Shot) => {
    s.systems = []
    s.forces = []
    s.lights = []
    s.layers[0].finish = []
    s.surroundings = { colour: [0, 0, 0], light: [0, 0, 0] }
    s.objects = objects
    s.glows = glows
    s.cameras[0] = { ...s.cameras[0], place: [0, 0, 5], aim: [0, 0, 0], lens: 45 }
  })
  const { data, channels } = pixels((await renderer.render(2, { width: WIDTH, height: HEIGHT, transparent })).png)
  const at = (x: number, y: number) => {
    const [px, py] = [Math.round((0.5 + x / 4) * WIDTH - 0.5), Math.round((0.5 - (y * 16) / 9 / 4) * HEIGHT - 0.5)]
    return [...data.subarray((py * WIDTH + px) * channels, (py * WIDTH + px) * channels + channels)]
  }
  return { at, light: (x: number, y: number) => linear(at(x, y)[0]) }
}
const wall = (x: number, z: number, width = 4): ObjectDoc =>
  thing('wall', { shape: primitive('box', { width, height: 4, depth: 0.02 }), place: [x, 0, z] })

describe('a glow', () => {
  it('is as bright in its middle as it is strong, and gone at its size', async () => {
    const { light } = await seen([glow()])
    // Core and halo together, a pixel beside the middle.
    expect(light(0, 0)).toBeGreaterThan(0.4 * 1.25 * 0.93)
    expect(light(0, 0)).toBeLessThan(0.4 * 1.25 * 1.02)
    for (const [a, b] of [
      [0.1, 0.25],
      [0.25, 0.4],
      [0.4, 0.55],
    ])
      expect(light(a, 0)).toBeGreaterThan(light(b, 0))
    expect(light(1.05, 0)).toBe(0)
    // The same in every direction.
    expect(Math.abs(light(0, 0.5) / light(0.5, 0) - 1)).toBeLessThan(0.1)
  })
  it('has as many rays as it is asked for, as long as they are asked for, in their directions', async () => {
    const { light } = await seen([glow({ size: 0.3, rays: 4, rayLength: 400, rayWidth: 20, rayTurn: 0, uneven: 0 })])
    for (const [x, y] of [
      [0.6, 0],
      [-0.6, 0],
      [0, 0.6],
      [0, -0.6],
    ])
      expect(light(x, y)).toBeGreaterThan(0.05)
    expect(light(0.45, 0.45)).toBe(0)
    expect(light(1.25, 0)).toBe(0)
  })
  it('goes by as much of its core as objects cover, and by its share; what it is stuck to hides it not', async () => {
    const free = (await seen([glow()])).light(0, 0)
    // On the wall, from the other side: all hidden, half hidden, by half of a share.
    expect((await seen([glow()], [wall(0, 1)])).light(0, 0)).toBe(0)
    const half = (await seen([glow()], [wall(2 + 1e-3, 1)])).light(-0.02, 0) / free
    expect(half).toBeGreaterThan(0.4)
    expect(half).toBeLessThan(0.6)
    const share = (await seen([glow({ hidden: 40 })], [wall(0, 1)])).light(0, 0) / free
    expect(share).toBeGreaterThan(0.52)
    expect(share).toBeLessThan(0.68)
    const bulb = thing('bulb', { shape: primitive('sphere', { radius: 0.3 }), place: [0.5, 0, 0] })
    expect((await seen([glow({ follows: 'bulb' })], [bulb])).light(0.5, 0) / free).toBeGreaterThan(0.95)
  })
  it('covers nothing: with alpha it is light', async () => {
    const { at } = await seen([glow()], [], true)
    const [r, , , a] = at(0, 0)
    expect(a).toBeGreaterThan(0)
    expect(Math.round((r * a) / 255)).toBeLessThanOrEqual(a)
    expect(at(1.2, 0)).toEqual([0, 0, 0, 0])
  })
  it('goes along a path, as wide as it is asked for, and is hidden where it is behind', async () => {
    const path = thing('path', {
      shape: primitive('path', {
        points: [
          [-1.5, 0, 0],
          [1.5, 0, 0],
        ] as never,
        mode: 'straight' as never,
        ends: 'open' as never,
        pieces: 8,
      }), // prettier-ignore
    })
    const line = glow({ kind: 'line', along: 'path', width: 0.2, spread: 3, halo: 10 })
    const { light } = await seen([line], [path])
    for (const x of [-1.2, 0, 1.2]) expect(light(x, 0)).toBeGreaterThan(0.3)
    // The core is 0.2 m from side to side, where a bell of it has fallen to a seventh; the halo three times as wide.
    expect(light(0, 0.1) / light(0, 0)).toBeLessThan(0.35)
    expect(light(0, 0.35)).toBe(0)
    expect(light(1.7, 0)).toBe(0)
    const behind = await seen([line], [path, wall(1, 1, 2)])
    expect([behind.light(-0.5, 0) > 0.3, behind.light(0.8, 0)]).toEqual([true, 0])
    expect((await seen([glow({ kind: 'line', along: null })], [path])).light(0, 0)).toBe(0)
  })
})
describe('what a glow is stuck to', () => {
  it('has it at its own place, with objects turned, with lights and systems only moved', () => {
    const s = structuredClone(pictures.base)
    const turned = thing('arm', { shape: { kind: 'anchor' }, place: [1, 0, 0], rotate: [0, 0, 90] })
    s.objects.push(turned)
    s.lights[0] = { ...s.lights[0], place: [0, 3, 0] as Vec3 }
    const at = (o: Partial<GlowDoc>) => glowPlace(s, glow(o), 0, new Map(), [])
    expect(at({ place: [1, 2, 3] })).toEqual([1, 2, 3])
    expect(at({ follows: 'arm', place: [1, 0, 0] })?.map((v) => Math.round(v * 1e6) / 1e6)).toEqual([1, 1, 0])
    expect(at({ follows: s.lights[0].id, place: [0.5, 0, 0] })).toEqual([0.5, 3, 0])
    // Nobody lives there yet.
    expect(at({ follows: s.systems[0].id })).toBeNull()
  })
  it('flickers by its seed, smoothly, between none and all', () => {
    const row = Array.from({ length: 400 }, (_, i) => flickerAt(3, i / 20))
    expect(Math.min(...row)).toBeGreaterThanOrEqual(0)
    expect(Math.max(...row)).toBeLessThanOrEqual(1)
    expect(Math.max(...row) - Math.min(...row)).toBeGreaterThan(0.5)
    for (let i = 1; i < row.length; i++) expect(Math.abs(row[i] - row[i - 1])).toBeLessThan(0.1)
    expect(flickerAt(3, 1.25)).toBe(flickerAt(3, 1.25))
    expect(flickerAt(4, 1.25)).not.toBe(flickerAt(3, 1.25))
  })
})
