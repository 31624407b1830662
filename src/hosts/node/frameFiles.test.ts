import { describe, expect, it } from 'vitest'
import { demoShot } from '../../acts/testing/shots'
import { filesOf } from './frameFiles'
import { pixels } from './testing/pictures'

const [WIDTH, HEIGHT] = [8, 6]
const bytes = (a: Float32Array | Uint32Array) => new Uint8Array(a.buffer)
const formats = { png: true, png16: false, exr: true, exrType: 'float', passes: [] } as const
/** A picture whose red says the column and whose green says the row. */
const got = new Map<string, Uint8Array>([
  ['screen', Uint8Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) => [(i >> 2) % WIDTH, Math.floor((i >> 2) / WIDTH), 0, 255][i & 3])],
  ['light', bytes(Float32Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) => (i >> 2) / 10))],
  ['depth', bytes(Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => i))],
])
/** The corners of a box of a file's header: attributes are name, type, length and value. */
function box(exr: Uint8Array, name: string): number[] {
  const at = Buffer.from(exr).indexOf(`${name}\0box2i\0`) + name.length + 1 + 6 + 4
  return Array.from({ length: 4 }, (_, i) => Buffer.from(exr).readInt32LE(at + i * 4))
}

describe('files of a part of a picture', () => {
  const region = { left: 3, top: 2, width: 4, height: 2 }
  const files = filesOf(demoShot(), got, { width: WIDTH, height: HEIGHT, transparent: false, region }, formats)
  it('are as large as the part, and hold what was there', () => {
    const png = files.find((f) => f.kind === 'png')?.bytes as Uint8Array
    const view = new DataView(png.buffer, png.byteOffset)
    expect([view.getUint32(16), view.getUint32(20)]).toEqual([4, 2])
    const { data, channels } = pixels(png)
    for (let y = 0; y < 2; y++)
      for (let x = 0; x < 4; x++) expect([...data.subarray((y * 4 + x) * channels, (y * 4 + x) * channels + 2)]).toEqual([3 + x, 2 + y])
  })
  it('of EXR say where in the whole it lies', () => {
    const exr = files.find((f) => f.kind === 'exr')?.bytes as Uint8Array
    expect(box(exr, 'dataWindow')).toEqual([3, 2, 6, 3])
    expect(box(exr, 'displayWindow')).toEqual([0, 0, WIDTH - 1, HEIGHT - 1])
    const whole = filesOf(demoShot(), got, { width: WIDTH, height: HEIGHT, transparent: false }, formats).find((f) => f.kind === 'exr')
    expect(box(whole?.bytes as Uint8Array, 'dataWindow')).toEqual([0, 0, WIDTH - 1, HEIGHT - 1])
  })
})
