import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { inspectAsset, readMesh } from '..'
import { readExr } from './exr'
import { readHdr } from './hdr'
import { fitting, fromHalf, type LightPicture, lightAround, lightOf, toHalf } from './light'

const folder = join(import.meta.dirname, 'samples')
const file = (name: string) => new Uint8Array(readFileSync(join(folder, name)))
const text = (s: string) => Uint8Array.from(s, (c) => c.charCodeAt(0))
function valueOf<T>(r: { ok: true; value: T } | { ok: false; problem: { message: string } }): T {
  if (!r.ok) throw new Error(r.problem.message)
  return r.value
}
const at = (p: LightPicture, x: number, y: number) => [0, 1, 2, 3].map((k) => fromHalf(p.data[(y * p.width + x) * 4 + k]))
const filled = (width: number, height: number, of: (x: number, y: number) => number[]): LightPicture => ({
  width,
  height,
  data: Uint16Array.from({ length: width * height * 4 }, (_, i) => toHalf(of((i >> 2) % width, Math.floor((i >> 2) / width))[i & 3] ?? 1)),
})

describe('16-bit floats', () => {
  it('every one is its own nearest, and between two the nearer is taken, a tie going to the even one', () => {
    let wrong = 0
    for (let h = 0; h < 0x7c00; h++) {
      const [a, b] = [fromHalf(h), fromHalf(Math.min(h + 1, 0x7bff))]
      if (toHalf(a) !== h || toHalf(-a) !== (h === 0 ? 0 : h | 0x8000)) wrong++
      if (toHalf(a + (b - a) * 0.49) !== h || (b > a && toHalf((a + b) / 2) !== (h & 1 ? h + 1 : h))) wrong++
    }
    expect(wrong).toBe(0)
  })
  it('what is larger becomes the largest, and what is no number nothing', () => {
    expect([1e9, Number.POSITIVE_INFINITY, -1e9, Number.NaN].map((v) => fromHalf(toHalf(v)))).toEqual([65504, 65504, -65504, 0])
  })
})

describe('pictures of light', () => {
  // What the library that made the files says of them: shared/exchange/samples/expected.json.
  const pixels: [number, number, number[]][] = [
    [0, 0, [0.0105285645, 0.004737854, 0.00105285645, 0]],
    [48, 30, [4.6015625, 1.87011719, 0.459960938, 1]],
    [95, 53, [0.014289856, 0.00642776489, 0.00142860413, 0]],
    [40, 20, [1.39453125, 0.569824219, 0.139404297, 0.865722656]],
  ]
  it.each(readdirSync(folder).filter((n) => n.startsWith('lantern_half')))('%s has the very numbers that its maker says', async (name) => {
    const p = valueOf(await readExr(file(name)))
    expect([p.width, p.height]).toEqual([96, 54])
    for (const [x, y, rgba] of pixels) at(p, x, y).forEach((v, k) => expect(v).toBeCloseTo(rgba[k], 6))
  })
  it('of 32-bit numbers beside depths, ids and layers the colours are taken, to half precision', async () => {
    const p = valueOf(await readExr(file('lantern_passes_zips.exr')))
    expect([p.width, p.height]).toEqual([96, 54])
    const [r, g, b, a] = at(p, 48, 30)
    expect([r / 4.6, g / 1.87, b / 0.46].every((v) => Math.abs(v - 1) < 2 ** -10)).toBe(true)
    expect(a).toBe(1)
  })
  it('an HDR of runs, row by row from the top', () => {
    const p = valueOf(readHdr(file('quay_night.hdr')))
    expect([p.width, p.height]).toEqual([128, 64])
    const expected: [number, number, number[]][] = [
      [0, 0, [0.0197753906, 0.0249023438, 0.0598144531]],
      [48, 30, [0.0610351562, 0.0495605469, 0.0598144531]],
    ]
    for (const [x, y, rgb] of expected) rgb.forEach((v, k) => expect(at(p, x, y)[k]).toBeCloseTo(v, 6))
    let most = 0
    const mean = [0, 0, 0]
    for (let i = 0; i < 128 * 64; i++)
      for (let k = 0; k < 3; k++) {
        most = Math.max(most, fromHalf(p.data[i * 4 + k]))
        mean[k] += fromHalf(p.data[i * 4 + k]) / 8192
      }
    expect(most).toBe(39)
    mean.forEach((v, k) => expect(v).toBeCloseTo([0.0727815628, 0.0684125721, 0.103452235][k], 5))
  })
  it('an HDR without runs, with old repeats, bottom up and from the right, and with its exposure taken back', () => {
    const head = '#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n'
    // 128 / 256 with the exponent 128 is a half.
    const [red, green, twice] = ['\x80\0\0\x80', '\0\x80\0\x80', '\x01\x01\x01\x02']
    const plain = valueOf(readHdr(text(`${head}\n-Y 2 +X 3\n${red}${twice}${green}${green}${red}`)))
    expect([0, 1, 2].map((x) => at(plain, x, 0)[0])).toEqual([0.5, 0.5, 0.5])
    expect([0, 1, 2].map((x) => at(plain, x, 1)[1])).toEqual([0.5, 0.5, 0])
    const turned = valueOf(readHdr(text(`${head}EXPOSURE=2\n\n+Y 2 -X 2\n${red}${green}${green}${green}`)))
    expect([at(turned, 1, 1)[0], at(turned, 0, 1)[1], at(turned, 1, 0)[0]]).toEqual([0.25, 0.25, 0])
  })
  it('broken ones are refused with what is wrong and where', async () => {
    const cut = await readMesh(file('broken_truncated.exr'))
    expect(cut).toMatchObject({ ok: false, problem: { message: expect.stringMatching(/rows from \d+ on are not in it.*copy it again/) } })
    const hdr = file('quay_night.hdr')
    for (let n = 12; n < hdr.length; n += 97) {
      const r = await readMesh(hdr.subarray(0, n))
      expect(r.ok, `cut at ${n}`).toBe(false)
    }
    const exr = file('lantern_half_zip.exr')
    for (let n = 4; n < exr.length; n += 1013) {
      const r = await readMesh(exr.slice(0, n))
      expect(r.ok, `cut at ${n}`).toBe(false)
    }
    const huge = await readMesh(text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 100000 +X 200000\n'))
    expect(huge).toMatchObject({ ok: false, problem: { message: expect.stringContaining('100000') } })
    const xyz = await readMesh(text('#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 2 +X 2\n'))
    expect(xyz).toMatchObject({ ok: false, problem: { message: expect.stringContaining('32-bit_rle_xyze') } })
  })
})

describe('light from all around', () => {
  it('of even surroundings is their radiance, above and below', () => {
    const { above, below } = lightAround(filled(64, 32, () => [0.5, 2, 0.25]))
    for (const half of [above, below]) half.forEach((v, k) => expect(v).toBeCloseTo([0.5, 2, 0.25][k], 4))
  })
  it('of a sky that brightens with the sine of the height is two thirds of its zenith, and of a dark ground nothing', () => {
    const { above, below } = lightAround(filled(16, 512, (_, y) => Array(3).fill(Math.max(0, Math.sin((0.5 - (y + 0.5) / 512) * Math.PI)))))
    // ∫ sin φ · 2 sin φ cos φ dφ
    expect(above[1]).toBeCloseTo(2 / 3, 3)
    expect(below[1]).toBe(0)
  })
  it('is said when a file is brought in, and a wide one is averaged down without losing light', async () => {
    const r = await inspectAsset(file('quay_night.hdr'))
    const facts = valueOf(r)
    expect(facts.light?.size).toEqual([128, 64])
    expect(facts.light?.above[2]).toBeGreaterThan(0.05)
    const wide = filled(8192, 8, (x) => [x % 2, 1, 0])
    const { picture, halved } = fitting(wide)
    expect([picture.width, picture.height, halved]).toEqual([4096, 4, 1])
    expect(at(picture, 17, 2)).toEqual([0.5, 1, 0, 1])
    const mesh = valueOf(await readMesh(file('lantern_half_piz.exr')))
    expect(lightOf(mesh.textures?.[0] as never)?.width).toBe(96)
  })
})
