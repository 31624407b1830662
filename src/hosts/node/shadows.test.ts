import { beforeAll, describe, expect, it } from 'vitest'
import { primitive, thing } from '../../acts/testing/things'
import type { LightDoc, Shot, Vec3 } from '../../shot'
import { Pictures, pixels } from './testing/pictures'
import { linear } from './testing/screen'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [256, 144]
const ABOVE = 8
/** Metres of the floor that the picture is wide. */
const WIDE = 4
const light = (o: Partial<LightDoc>): LightDoc => ({
  ...pictures.base.lights[0],
  ...{ id: 'lamp', kind: 'spot', colour: [1, 1, 1] as Vec3, strength: 30, angle: 40, edge: 0, shadow: true, size: 0, follows: null },
  ...o,
})
/**
 * A floor from straight above, through a lens that shows so much of it, with lights and a sheet whose edge lies along Z at X = 0, so high above.
 * Gives the light of the floor along X, in its middle.
 */
async function floor(lights: LightDoc[], high: number, catches = false, change: (s: Shot) => void = () => {}) {
  const renderer = await pictures.shown((s: Shot) => {
    s.systems = []
    s.forces = []
    s.layers[0].finish = []
    s.surroundings = { colour: catches ? [0.2, 0.2, 0.2] : [0, 0, 0], light: [0, 0, 0] }
    s.lights = lights
    const plain = thing('floor', { shape: { kind: 'plane', size: 40, endless: false } })
    const white = { ...plain.material, colour: [1, 1, 1] as Vec3, roughness: 1, metal: 0, glow: [0, 0, 0] as Vec3, catches }
    // Seen by no ray of the camera: it looks from below the sheet.
    const sheet = thing('sheet', { shape: primitive('box', { width: 6, height: 0.01, depth: 12 }), place: [-3, high, 0] })
    s.objects = [{ ...plain, material: white }, sheet]
    s.cameras[0] = { ...s.cameras[0], place: [0, 0.5, 0.0001], aim: [0, 0, 0], lens: (18 * 0.5) / (WIDE / 2) }
    change(s)
  })
  const { data, channels } = pixels((await renderer.render(2, { width: WIDTH, height: HEIGHT, transparent: false })).png)
  return Array.from({ length: WIDTH }, (_, x) => linear(data[((HEIGHT / 2) * WIDTH + x) * channels]))
}
/** How far apart a tenth and nine tenths of the light lie along X, m. */
function edge(row: number[]): number {
  const most = Math.max(...row.slice(WIDTH - 40))
  const at = (share: number) => {
    const i = row.findIndex((v) => v >= share * most)
    return i - (row[i] - share * most) / (row[i] - row[i - 1])
  }
  return ((at(0.9) - at(0.1)) / WIDTH) * WIDE
}
/** Of a disc: the area beyond a chord is a tenth where it lies 0.687 of the radius from the middle. */
const TENTH = 0.687

describe('shadows', () => {
  it('and bumps are left out only where something nearer hides them: with a gap, a slope, and something open and something clear before it', async () => {
    const made = (clear: boolean) => (s: Shot) => {
      s.systems = []
      s.layers[0].finish = []
      s.surroundings = { colour: [0.1, 0.1, 0.1], light: [0.2, 0.2, 0.2] }
      s.lights = [
        light({ kind: 'sun', place: [4, 6, 5], aim: [0, 0, 0], strength: 3, size: 3 }),
        light({ id: 'other', kind: 'point', place: [-2, 3, 3], size: 0.2 }),
      ]
      const plain = thing('floor', { shape: { kind: 'plane', size: 40, endless: false } })
      const material = { ...plain.material, colour: [0.8, 0.6, 0.4] as Vec3, roughness: 0.8, bumps: 0.02, bumpSize: 0.2 }
      const box = (id: string, place: Vec3, width: number, more: object = {}) =>
        thing(id, { shape: primitive('box', { width, height: 1.4, depth: 0.4 }), place, rotate: [0, 20, 5], material, ...more })
      s.objects = [
        { ...plain, material },
        ...[0, 1, 2, 3].map((k) => box(`back${k}`, [-2 + 1.3 * k, 0.8, -2], 1.2)),
        ...[0, 1].map((k) => box(`front${k}`, [-0.8 + 1.25 * k, 0.6, 0], 1.2)),
        thing('open', { shape: primitive('tube', { radius: 0.4, height: 1 }), place: [1.7, 0.5, 0.5], rotate: [60, 0, 0], material }),
        ...(clear ? [box('glass', [0, 0.8, 1], 1.5, { material: { ...material, transmission: 90, thickness: 0.1 } })] : []),
      ]
      s.cameras[0] = { ...s.cameras[0], place: [0, 1.4, 5], aim: [0, 0.6, 0], lens: 30, aperture: null }
    }
    for (const clear of [false, true]) {
      const by = async (march: 'kernels' | 'shader') => {
        const renderer = await pictures.shown(made(clear))
        return pixels((await renderer.render(2, { width: WIDTH, height: HEIGHT, transparent: false, march })).png).data
      }
      const [known, unknown] = [await by('kernels'), await by('shader')]
      const off = known.map((v, i) => Math.abs(v - unknown[i]))
      expect(new Set(known).size).toBeGreaterThan(40)
      expect(off.filter((d) => d > 2).length / off.length).toBeLessThan(0.001)
    }
  })
  it('are as soft as the disc of a spot is large, by how high what shades hangs', async () => {
    const spot = (size: number) => light({ place: [0, ABOVE, 0], aim: [0, 0, 0], size })
    for (const [size, high] of [
      [0.3, 2],
      [0.3, 4],
      [0.6, 2],
    ]) {
      const half = (size * high) / (ABOVE - high)
      const wide = edge(await floor([spot(size)], high)) / (2 * TENTH * half)
      expect(wide).toBeGreaterThan(0.8)
      expect(wide).toBeLessThan(1.2)
    }
    // One that has none is as sharp as its map is fine.
    expect(edge(await floor([spot(0)], 2))).toBeLessThan(0.1)
  })
  it('of a point all around it, and of an area by a disc as large', async () => {
    const point = (size: number) => light({ kind: 'point', place: [0, ABOVE, 0], size })
    const width = (size: number) => (2 * TENTH * size * 2) / (ABOVE - 2)
    const round = edge(await floor([point(0.4)], 2)) / width(0.4)
    expect(round).toBeGreaterThan(0.8)
    expect(round).toBeLessThan(1.2)
    expect(edge(await floor([point(0)], 2))).toBeLessThan(0.15)
    const area = light({ kind: 'area', place: [0, ABOVE, 0], aim: [0, 0, 0.0001], width: 0.7, height: 0.7 })
    const flat = edge(await floor([area], 2)) / width(0.7 / Math.sqrt(Math.PI))
    expect(flat).toBeGreaterThan(0.75)
    expect(flat).toBeLessThan(1.25)
    // Under the sheet nothing of either is left; an area that throws none lights it.
    expect((await floor([area], 2))[20]).toBeLessThan(0.01)
    expect((await floor([{ ...area, shadow: false }], 2))[20]).toBeGreaterThan(0.1)
    // Beside a point that stands first in the list, the area is still shaded by its own middle.
    const other = { ...point(0), id: 'first', place: [40, 1, 0] as Vec3, strength: 0.001 }
    const beside = await floor([other, area], 2)
    expect(edge(beside) / width(0.7 / Math.sqrt(Math.PI))).toBeGreaterThan(0.75)
  })
  it('of a sun by its angle', async () => {
    const sun = light({ kind: 'sun', place: [0, 20, 0.001], aim: [0, 0, 0], strength: 1, size: 5 })
    const half = Math.tan((5 * Math.PI) / 180) * 2
    const wide = edge(await floor([sun], 2))
    expect(wide / (2 * TENTH * half)).toBeGreaterThan(0.8)
    expect(wide / (2 * TENTH * half)).toBeLessThan(1.2)
  })
  it('do not darken what shades nothing: a floor in slanting light is lit as without', async () => {
    const slanting = (o: Partial<LightDoc>) => light({ place: [6, 3, 0], aim: [0, 0, 0], angle: 50, ...o })
    const away = (s: Shot) => void (s.objects = s.objects.slice(0, 1))
    for (const kind of ['spot', 'point'] as const)
      for (const size of [0, 0.5]) {
        const [shaded, none] = [
          await floor([slanting({ kind, size })], 2, false, away),
          await floor([slanting({ kind, shadow: false })], 2, false, away),
        ]
        for (let x = 20; x < WIDTH - 20; x += 8) expect(Math.abs(shaded[x] / none[x] - 1)).toBeLessThan(0.03)
      }
  })
  it('are thrown by several lights, each of its own light; with a catcher as far as each lights it', async () => {
    // One from the right, one from the left, each half of the light: shade of the one, of both, of none.
    const [a, b] = [-4, 4].map((x, i) =>
      light({ id: `lamp ${i}`, kind: 'sun', place: [x, 4, 0.001], aim: [0, 0, 0], strength: 1, size: 0 }),
    )
    const one = (s: Shot) =>
      void (s.objects[1] = { ...s.objects[1], shape: primitive('box', { width: 1, height: 0.01, depth: 12 }), place: [0, 1, 0] })
    const row = await floor([a, b], 1, false, one)
    const at = (x: number) => row[Math.round((0.5 + x / WIDE) * WIDTH)]
    // From −X the light goes to +X: the strip at a height of 1 shades half a metre about ±1.
    const lit = at(0)
    expect(at(-1) / lit).toBeGreaterThan(0.45)
    expect(at(-1) / lit).toBeLessThan(0.55)
    expect(at(1) / lit).toBeGreaterThan(0.45)
    expect(at(1) / lit).toBeLessThan(0.55)
    const both = await floor([a, b, ...[a, b].map((l) => ({ ...l, id: `${l.id} again`, shadow: false }))], 1, true, one)
    const caught = (x: number) => both[Math.round((0.5 + x / WIDE) * WIDTH)]
    // Four lights alike, of which each shadow takes one: three quarters of what is behind are left.
    expect(caught(1) / caught(0)).toBeGreaterThan(0.68)
    expect(caught(1) / caught(0)).toBeLessThan(0.82)
  })
  it('and light reach whom they are meant for: shares of objects, and what shades nothing in one light', async () => {
    const sun = (o: Partial<LightDoc> = {}) => light({ kind: 'sun', place: [0, 20, 0.001], aim: [0, 0, 0], strength: 1, ...o })
    const mean = (row: number[]) => row.slice(WIDTH / 2 + 40).reduce((a, b) => a + b, 0) / (WIDTH / 2 - 40)
    const all = await floor([sun({ shadow: false })], 2)
    const part = await floor([sun({ shadow: false, shares: [{ of: 'floor', share: 25, shadow: true }] })], 2)
    expect(mean(part) / mean(all)).toBeCloseTo(0.25, 1)
    // Of two lights the one is told from the other, whichever of them throws shadows and comes first in the shader.
    const other = { ...sun({ shadow: false, strength: 1 }), id: 'other', shares: [{ of: 'floor', share: 0, shadow: true }] }
    const both = await floor([other, sun()], 2)
    const alone = await floor([sun()], 2)
    for (let x = 0; x < WIDTH; x += 16) expect(both[x]).toBeCloseTo(alone[x], 2)
    // The sheet shades the left half; where it shades nothing the floor is lit all over.
    const through = await floor([sun({ shares: [{ of: 'sheet', share: 100, shadow: false }] })], 2)
    expect(alone[40]).toBeLessThan(0.02)
    expect(through[40] / through[WIDTH - 40]).toBeCloseTo(1, 1)
    // And as before when it does again.
    expect((await floor([sun()], 2))[40]).toBeLessThan(0.02)
  })
})
