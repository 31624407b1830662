import { describe, expect, it } from 'vitest'
import type { TuftView, UnderTufts } from '..'
import { fromHalf, painted, seen, toHalf, tuft } from './testing/tuftLists'

/** Odd: the kernel takes two by two pixels at once. */
const [width, height] = [97, 61]
const view = (depth: Float32Array): TuftView => ({ width, height, across: 1, upwards: width / height, shiftX: 0, shiftY: 0, depth })
const each = (of: (x: number, y: number) => number) =>
  Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)))
const halves = (of: (x: number, y: number) => readonly number[]) =>
  Uint16Array.from(Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width))).flat(), toHalf)
const at = (picture: Uint16Array, x: number, y: number) =>
  Array.from(picture.subarray((y * width + x) * 4, (y * width + x) * 4 + 4), fromHalf)
/** Where the middle of a pixel is, and more pixels on, −1 to 1. */
const ndc = (x: number, size: number, more = 0) => (2 * (x + 0.5 + more)) / size - 1
const rest = [0.25, 0.125, 0.0625]
const key = [0.5, 0.75, 1]
/**
 * What is left of a light that shines down from 8 m, over 8 × 8 m around the middle: less the farther to the right and the lower, evenly, so that
 * what lies between texels is known; a quarter of a texel from its edges all is left.
 */
const [wide, deep] = [16, 5]
const leftAt = (u: number, depth: number) => 0.9 - 0.4 * u - 0.05 * depth
const front = {
  ...{ width: wide, height: wide, depths: deep, from: 0, step: 2 },
  left: Uint16Array.from({ length: wide * wide * deep }, (_, i) =>
    toHalf(leftAt(((i % wide) + 0.5) / wide, 2 * Math.floor(i / wide ** 2))),
  ),
}
const rows = [0.25, 0, 0, 0, 0, 0, 0.25, 0, 0, 0, 0, 1, 0, -1, 0, 8]
const under = (o: Partial<UnderTufts> & { alpha?: number } = {}): UnderTufts => ({
  picture: {},
  read: () => ({ rest: halves(() => [...rest, o.alpha ?? 1]), key: halves(() => [...key, 1]) }),
  left: { front, rows, within: [0.05, 0.05, 0.95, 0.95] },
  ...{
    eye: [0, 0, 4],
    ahead: [0, 0, -1],
    right: [1, 0, 0],
    up: [0, height / width, 0],
    near: 0.1,
    far: 100,
    middle: [0, 0],
    behind: [0, 0, 0, 1],
  },
  ...o,
})
const placeOf = (x: number, y: number, z: number) => [z * ndc(x, width), z * (height / width) * ndc(y, height), 4 - z]
/** What of the light is left at a pixel that is seen so far away. */
function shade(x: number, y: number, z: number): number {
  const [px, py, pz] = placeOf(x, y, z)
  const [u, v] = [px / 8 + 0.5, pz / 8 + 0.5]
  const inside = u > 0.05 && u < 0.95 && v > 0.05 && v < 0.95 && 8 - py > 0
  return inside ? leftAt(u, Math.min(8, 8 - py)) : 1
}
/** Depths of a plane in x, y and z: z = 1 ÷ (a + b x + c y), from so many pixels beside the middles. */
const plane =
  (off: readonly number[] = [0, 0]) =>
  (x: number, y: number) =>
    1 / (0.25 + 0.05 * ndc(x, width, off[0]) - 0.08 * ndc(y, height, off[1]))
const nobody = seen([tuft({ radius: 0 })])
const only = (depth: Float32Array, u: UnderTufts) => painted((p) => p.picture(nobody, view(depth), u).slice())

describe('what lies under tufts', () => {
  it('is a picture without its key light, and of that as much as is left where each pixel is', async () => {
    const picture = await only(each(plane()), under())
    let [shaded, whole] = [0, 0]
    // The outermost have no neighbours to say that they lie on a plane.
    for (let y = 1; y < height - 1; y++)
      for (let x = 1; x < width - 1; x++) {
        const part = shade(x, y, plane()(x, y))
        if (part < 1) shaded++
        else whole++
        at(picture, x, y).forEach((v, c) => expect(Math.abs(v - (c < 3 ? rest[c] + part * key[c] : 1))).toBeLessThan(0.002))
      }
    expect(shaded).toBeGreaterThan(1000)
    expect(whole).toBeGreaterThan(100)
  })
  it('is the same where depths are known beside the middles of pixels', async () => {
    const off = [0.125, 0.375] as const
    const [a, b] = [await only(each(plane()), under()), await only(each(plane([-off[0], -off[1]])), under({ middle: off }))]
    for (let y = 1; y < height - 1; y++)
      for (let x = 1; x < width - 1; x++) at(b, x, y).forEach((v, c) => expect(Math.abs(v - at(a, x, y)[c])).toBeLessThan(0.002))
  })
  it('shows what lies behind everything through what is clear in it, and none of it where it covers', async () => {
    const behind = [0.5, 0.25, 1, 0.5] as const
    const picture = await only(
      each(() => 0),
      under({ left: null, alpha: 0.75, behind }),
    )
    const wanted = [...rest.map((v, c) => v + key[c] + 0.25 * behind[c]), 0.75 + 0.25 * 0.5]
    at(picture, 40, 30).forEach((v, c) => expect(v).toBeCloseTo(wanted[c], 2))
    const bare = await only(
      each(() => 0),
      under({ behind, read: () => ({ rest: halves(() => [...rest, 1]), key: null }) }),
    )
    at(bare, 96, 60).forEach((v, c) => expect(v).toBeCloseTo([...rest, 1][c], 3))
  })
  it('is as dark as the darker side along an edge, and as the nearest thing where a lit pixel has no depth', async () => {
    const [near, far] = [3, 5]
    const edge = await only(
      each((x) => (x < 72 ? near : far)),
      under(),
    )
    for (const [x, y] of [
      [71, 20],
      [72, 41],
    ]) {
      const part = Math.min(shade(x, y, near), shade(x, y, far))
      expect(Math.abs(shade(x, y, near) - shade(x, y, far))).toBeGreaterThan(0.02)
      at(edge, x, y).forEach((v, c) => expect(Math.abs(v - (c < 3 ? rest[c] + part * key[c] : 1))).toBeLessThan(0.002))
    }
    const hole = await only(
      each((x, y) => (x > 30 ? 0 : y % 2 ? near : 3.5)),
      under(),
    )
    at(hole, 31, 20).forEach((v, c) => expect(Math.abs(v - (c < 3 ? rest[c] + shade(31, 20, near) * key[c] : 1))).toBeLessThan(0.002))
  })
  it('is seen through tufts as much as they leave of it, and is not read again while it is the same picture', async () => {
    const some = seen([tuft({ thickness: 1 }), tuft({ head: [1.5, 0.5, -6], thickness: 0.4 })])
    const depth = each(() => 40)
    let reads = 0
    const u = under({ left: null, alpha: 0.5, behind: [0, 0, 0, 0] })
    const counted = {
      ...u,
      read: () => {
        reads++
        return u.read()
      },
    }
    const [tufts, base, both, again] = await painted((p) => [
      p.picture(some, view(depth)).slice(),
      p.picture(nobody, view(depth), counted).slice(),
      p.picture(some, view(depth), counted).slice(),
      p.picture(some, view(depth), { ...counted, picture: {} }).slice(),
    ])
    expect(reads).toBe(2)
    expect(again).toEqual(both)
    for (let y = 0; y < height; y += 3)
      for (let x = 0; x < width; x++) {
        const [t, b] = [at(tufts, x, y), at(base, x, y)]
        at(both, x, y).forEach((v, c) => expect(Math.abs(v - (t[c] + (1 - t[3]) * b[c]))).toBeLessThan(0.002))
      }
    expect(at(tufts, 48, 30)[3]).toBeGreaterThan(0.5)
  })
  it('is the same on one to four threads', async () => {
    const some = seen([tuft({}), tuft({ head: [1.5, 0.5, -6] })])
    const by = (threads: number) => painted((p) => p.picture(some, view(each(plane())), under()).slice(), threads)
    const one = await by(1)
    for (const threads of [2, 3, 4]) expect(await by(threads)).toEqual(one)
  })
})
