import { deflateSync } from 'node:zlib'
import { toHalf } from './light'

/** One channel of a picture, top row first: `data` has a value a pixel. `R`, `layer.R`, `depth.Z`. */
export interface ExrChannel {
  name: string
  type: 'half' | 'float' | 'uint'
  data: Float32Array | Uint32Array
}
const TYPES = { uint: 0, half: 1, float: 2 } as const
const BYTES = { uint: 4, half: 2, float: 4 } as const
/** Rows that a chunk of ZIP has. */
const ROWS = 16
const LONGEST_NAME = 31

/** What is endlessly far stays so. */
const halfOf = (v: number): number => (Math.abs(v) === Number.POSITIVE_INFINITY ? (v < 0 ? 0xfc00 : 0x7c00) : toHalf(v))
/** Names by the order of their bytes, as the format wants channels: capitals first. */
const byBytes = (a: ExrChannel, b: ExrChannel): number => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0)

/** The rows of a chunk, row by row and channel by channel. */
function rowsOf(channels: readonly ExrChannel[], width: number, y0: number, y1: number): Uint8Array {
  const perPixel = channels.reduce((s, c) => s + BYTES[c.type], 0)
  const out = new Uint8Array(perPixel * width * (y1 - y0))
  const v = new DataView(out.buffer)
  let at = 0
  for (let y = y0; y < y1; y++)
    for (const c of channels)
      for (let x = 0; x < width; x++) {
        const value = c.data[y * width + x]
        if (c.type === 'half') v.setUint16(at, halfOf(value), true)
        else if (c.type === 'float') v.setFloat32(at, value, true)
        else v.setUint32(at, value, true)
        at += BYTES[c.type]
      }
  return out
}
/** Every other byte apart, each as the difference from the one before, and then zlib; the plain rows where that is not smaller. */
function zipped(plain: Uint8Array): Uint8Array {
  const n = plain.length
  const apart = new Uint8Array(n)
  const half = (n + 1) >> 1
  for (let i = 0; i < n; i++) apart[(i >> 1) + (i & 1 ? half : 0)] = plain[i]
  for (let i = n - 1; i > 0; i--) apart[i] = apart[i] - apart[i - 1] + 128
  const small = deflateSync(apart, { level: 4 })
  return small.length < n ? small : plain
}
/**
 * An OpenEXR file of one part in rows, ZIP: light as it is, premultiplied where it has alpha. `within`: where its pixels lie in a larger picture. Throws for names that the format cannot hold and for
 * channels that are not as large as the picture.
 */
export function writeExr(
  width: number,
  height: number,
  list: readonly ExrChannel[],
  attributes: Readonly<Record<string, string>> = {},
  within: { left: number; top: number; width: number; height: number } = { left: 0, top: 0, width, height },
): Uint8Array {
  const channels = [...list].sort(byBytes)
  for (const [i, c] of channels.entries()) {
    if (!c.name || c.name.length > 255 || !/^[\x20-\x7e]+$/.test(c.name)) throw new Error(`“${c.name}” cannot be the name of a channel`)
    if (channels[i - 1]?.name === c.name) throw new Error(`two channels are called ${c.name}`)
    if (c.data.length !== width * height) throw new Error(`${c.name} has ${c.data.length} values for ${width}x${height} pixels`)
  }
  const long = [...channels.map((c) => c.name), ...Object.keys(attributes)].some((n) => n.length > LONGEST_NAME)
  const head: Uint8Array[] = []
  const push = (size: number, fill: (v: DataView) => void) => {
    const b = new Uint8Array(size)
    fill(new DataView(b.buffer))
    head.push(b)
  }
  const text = (s: string, ended = true) => head.push(Uint8Array.from([...s].map((x) => x.charCodeAt(0)).concat(ended ? [0] : [])))
  const attribute = (name: string, type: string, size: number, fill: (v: DataView) => void) => {
    text(name)
    text(type)
    push(4, (v) => v.setUint32(0, size, true))
    push(size, fill)
  }
  push(8, (v) => {
    v.setUint32(0, 0x01312f76, true)
    v.setUint32(4, 2 | (long ? 0x400 : 0), true)
  })
  const size = channels.reduce((s, c) => s + c.name.length + 17, 1)
  attribute('channels', 'chlist', size, (v) => {
    let at = 0
    for (const c of channels) {
      for (const x of c.name) v.setUint8(at++, x.charCodeAt(0))
      at++
      v.setInt32(at, TYPES[c.type], true)
      v.setInt32(at + 8, 1, true)
      v.setInt32(at + 12, 1, true)
      at += 16
    }
  })
  attribute('compression', 'compression', 1, (v) => v.setUint8(0, 3))
  const { left, top } = within
  const box = (name: string, corners: readonly number[]) =>
    attribute(name, 'box2i', 16, (v) => corners.forEach((x, i) => void v.setInt32(i * 4, x, true)))
  box('dataWindow', [left, top, left + width - 1, top + height - 1])
  box('displayWindow', [0, 0, within.width - 1, within.height - 1])
  attribute('lineOrder', 'lineOrder', 1, () => {})
  attribute('pixelAspectRatio', 'float', 4, (v) => v.setFloat32(0, 1, true))
  attribute('screenWindowCenter', 'v2f', 8, () => {})
  attribute('screenWindowWidth', 'float', 4, (v) => v.setFloat32(0, 1, true))
  for (const [name, value] of Object.entries(attributes)) {
    const bytes = new TextEncoder().encode(value)
    attribute(name, 'string', bytes.length, (v) => bytes.forEach((b, i) => void v.setUint8(i, b)))
  }
  head.push(new Uint8Array(1))
  const chunks: Uint8Array[] = []
  for (let y = 0; y < height; y += ROWS) chunks.push(zipped(rowsOf(channels, width, y, Math.min(height, y + ROWS))))
  const begin = head.reduce((s, b) => s + b.length, 0)
  const out = new Uint8Array(begin + chunks.length * 8 + chunks.reduce((s, c) => s + 8 + c.length, 0))
  let at = 0
  for (const b of head) {
    out.set(b, at)
    at += b.length
  }
  const v = new DataView(out.buffer)
  let where = begin + chunks.length * 8
  for (const [i, c] of chunks.entries()) {
    v.setBigUint64(begin + i * 8, BigInt(where), true)
    v.setInt32(where, top + i * ROWS, true)
    v.setUint32(where + 4, c.length, true)
    out.set(c, where + 8)
    where += 8 + c.length
  }
  return out
}
/** The four channels of a picture of RGBA, with a name before them or none. */
export const rgbaChannels = (rgba: Float32Array, type: 'half' | 'float', layer = '', alpha = true): ExrChannel[] =>
  [...(alpha ? 'RGBA' : 'RGB')].map((c, k) => ({
    name: layer ? `${layer}.${c}` : c,
    type,
    data: Float32Array.from({ length: rgba.length / 4 }, (_, i) => rgba[i * 4 + k]),
  }))
