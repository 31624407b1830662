import { inflateSync } from 'node:zlib'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { writePng } from './png'

/** A reader of its own for the files we write: chunks with their checks, filter "up" undone. */
function read(png: Uint8Array): { width: number; height: number; channels: number; pixels: Uint8Array; chunks: string[] } {
  const v = new DataView(png.buffer, png.byteOffset)
  expect([...png.subarray(0, 8)]).toEqual([137, 80, 78, 71, 13, 10, 26, 10])
  const chunks: string[] = []
  let data = new Uint8Array(0)
  let head: DataView | null = null
  for (let at = 8; at < png.length; ) {
    const length = v.getUint32(at)
    const type = String.fromCharCode(...png.subarray(at + 4, at + 8))
    chunks.push(type)
    let c = 0xffffffff
    for (const b of png.subarray(at + 4, at + 8 + length)) {
      c ^= b
      for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
    }
    expect((c ^ 0xffffffff) >>> 0).toBe(v.getUint32(at + 8 + length))
    if (type === 'IHDR') head = new DataView(png.buffer, png.byteOffset + at + 8, length)
    if (type === 'IDAT') data = new Uint8Array(inflateSync(png.subarray(at + 8, at + 8 + length)))
    at += 12 + length
  }
  const h = head as DataView
  const width = h.getUint32(0),
    height = h.getUint32(4),
    channels = h.getUint8(9) === 6 ? 4 : 3
  const stride = width * channels
  const pixels = new Uint8Array(stride * height)
  for (let y = 0; y < height; y++) {
    expect(data[y * (stride + 1)]).toBe(2)
    for (let i = 0; i < stride; i++)
      pixels[y * stride + i] = (data[y * (stride + 1) + 1 + i] + (y ? pixels[(y - 1) * stride + i] : 0)) & 255
  }
  return { width, height, channels, pixels, chunks }
}
describe('writing PNG', () => {
  it('keeps every pixel, with and without alpha (property)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 24 }),
        fc.integer({ min: 1, max: 24 }),
        fc.boolean(),
        fc.integer(),
        (width, height, alpha, seed) => {
          const rgba = Uint8Array.from({ length: width * height * 4 }, (_, i) => (Math.imul(i + 1, seed | 1) >>> 13) & 255)
          const p = read(writePng(width, height, rgba, alpha))
          expect([p.width, p.height, p.channels]).toEqual([width, height, alpha ? 4 : 3])
          expect([...p.pixels]).toEqual([...rgba].filter((_, i) => alpha || i % 4 !== 3))
        },
      ),
    )
  })
  it('says that it is sRGB, in the order of the standard', () => {
    expect(read(writePng(2, 2, new Uint8Array(16), true)).chunks).toEqual(['IHDR', 'sRGB', 'IDAT', 'IEND'])
  })
  it('refuses pixels that are not of the size', () => {
    expect(() => writePng(2, 2, new Uint8Array(15), true)).toThrow('15 bytes are not 2x2 RGBA')
  })
})
