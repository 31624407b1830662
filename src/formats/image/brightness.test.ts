import { encode } from 'fast-png'
import jpeg from 'jpeg-js'
import { describe, expect, it } from 'vitest'
import { brightnessOf } from './brightness'

/** Left half black, right half white, one row of mid grey at the bottom. */
const pixels = (w: number, h: number, channels: number): Uint8Array => {
  const out = new Uint8Array(w * h * channels)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < channels; c++) out[(y * w + x) * channels + c] = c === 3 ? 255 : y === h - 1 ? 128 : x < w / 2 ? 0 : 255
  return out
}
describe('the brightness of a picture', () => {
  it.each([1, 3, 4] as const)('PNG with %i channels: as light, from the top', (channels) => {
    const b = brightnessOf(encode({ width: 8, height: 4, data: pixels(8, 4, channels), channels, depth: 8 }), 'image/png')
    expect([b?.width, b?.height]).toEqual([8, 4])
    // 128 of 255 is a light of 0.2159.
    expect([b?.data[0], b?.data[7], b?.data[31]]).toEqual([0, 255, 55])
  })
  it('JPEG, nearly', () => {
    const data = jpeg.encode({ width: 16, height: 16, data: pixels(16, 16, 4) }, 95).data
    const b = brightnessOf(new Uint8Array(data), 'image/jpeg')
    expect(b?.data[0]).toBeLessThan(6)
    expect(b?.data[15]).toBeGreaterThan(246)
  })
  it('a large picture is averaged down, what is none is null', () => {
    const b = brightnessOf(encode({ width: 1024, height: 2, data: pixels(1024, 2, 3), channels: 3, depth: 8 }), 'image/png')
    expect([b?.width, b?.height]).toEqual([512, 1])
    expect(b?.data[0]).toBe(Math.round(0.2159 * 127.5))
    expect(brightnessOf(new Uint8Array([1, 2, 3]), 'image/png')).toBeNull()
    expect(brightnessOf(new Uint8Array(40), 'image/jpeg')).toBeNull()
    expect(brightnessOf(new Uint8Array(40), 'image/webp')).toBeNull()
    // A claim of billions of pixels is not believed.
    const huge = encode({ width: 2, height: 2, data: pixels(2, 2, 3), channels: 3, depth: 8 })
    new DataView(huge.buffer, huge.byteOffset).setUint32(16, 0x7fffffff)
    expect(brightnessOf(huge, 'image/png')).toBeNull()
  })
})
