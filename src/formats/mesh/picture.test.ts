import { encode } from 'fast-png'
import jpeg from 'jpeg-js'
import { describe, expect, it } from 'vitest'
import { inspectAsset, readMesh } from '..'

const png = (width: number, height: number) =>
  encode({ width, height, data: new Uint8Array(width * height * 4).fill(200), channels: 4, depth: 8 })
/** The beginning of a WebP file of a kind, with what stands behind the first chunk's name and length. */
const webp = (kind: string, rest: number[]) =>
  Uint8Array.from(
    [...'RIFF']
      .map((c) => c.charCodeAt(0))
      .concat(
        [0, 0, 0, 0],
        [...`WEBP${kind}`].map((c) => c.charCodeAt(0)),
        [0, 0, 0, 0],
        rest,
      ),
  )
const sides = async (bytes: Uint8Array) => {
  const r = await readMesh(bytes)
  if (!r.ok) throw new Error(r.problem.message)
  const p = r.value.positions
  return [p[3] - p[0], p[7] - p[1]]
}

describe('a picture as a plate', () => {
  it('is as wide as it is high, its longer side a metre, upright, with its upper left at 0, 0', async () => {
    const r = await readMesh(png(64, 16))
    if (!r.ok) throw new Error(r.problem.message)
    const { positions, uv, normals, textures, parts, indices } = r.value
    expect([...positions]).toEqual([-0.5, -0.125, 0, 0.5, -0.125, 0, 0.5, 0.125, 0, -0.5, 0.125, 0])
    expect([...(uv ?? [])]).toEqual([0, 1, 1, 1, 1, 0, 0, 0])
    expect([...(normals ?? [])].filter((_, i) => i % 3 === 2)).toEqual([1, 1, 1, 1])
    expect(indices).toHaveLength(6)
    expect(await inspectAsset(png(64, 16))).toMatchObject({ ok: true, value: { kind: 'mesh', plate: true, tinted: true } })
    expect(textures).toMatchObject([{ part: parts[0].name, type: 'image/png', brightness: { width: 64, height: 16 } }])
  })
  it('takes the size from the headers of JPEG and of all three kinds of WebP', async () => {
    const data = jpeg.encode({ width: 20, height: 40, data: new Uint8Array(3200).fill(90) }, 80).data
    expect(await sides(new Uint8Array(data))).toEqual([0.5, 1])
    const close = (a: number, b: number) => [expect.closeTo(a, 6), expect.closeTo(b, 6)]
    expect(await sides(webp('VP8X', [0, 0, 0, 0, 99, 0, 0, 49, 0, 0]))).toEqual(close(1, 0.5))
    // 300 by 100: fourteen bits each, less one.
    const bits = 299 | (99 << 14)
    expect(await sides(webp('VP8L', [0x2f, bits & 255, (bits >> 8) & 255, (bits >> 16) & 255, bits >> 24]))).toEqual(close(1, 1 / 3))
    expect(await sides(webp('VP8 ', [0, 0, 0, 0x9d, 1, 0x2a, 100, 0, 200, 0]))).toEqual(close(0.5, 1))
  })
  it.each([
    ['cut in its header', png(8, 8).subarray(0, 20), /^a PNG that is damaged at its beginning/],
    ['cut in its pixels', png(64, 64).subarray(0, 60), /^a PNG that cannot be decoded: save it anew/],
    [
      'a JPEG without a frame',
      Uint8Array.from([0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0, 0, 0, 0]),
      /^a JPEG that is damaged at its beginning/,
    ],
    ['a WebP of nothing', webp('XXXX', new Array(20).fill(0)), /^a WEBP that is damaged at its beginning/],
    [
      'one that is too large',
      webp('VP8X', [0, 0, 0, 0, 255, 255, 0, 49, 0, 0]),
      /^a WEBP of 65,536 × 50 pixels; make it at most 8,192 on a side/,
    ],
  ])('%s is refused, with what to do', async (_, bytes, message) => {
    const r = await readMesh(bytes)
    expect(r.ok ? 'read' : r.problem.message).toMatch(message)
  })
})
