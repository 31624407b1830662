import { bad, LIMITS, type Read } from '../result'
import type { LightPicture } from './light'

const COMPRESSIONS = ['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB']
/** Rows that a chunk has, by compression. */
const ROWS = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256]
export const looksLikeExr = (b: Uint8Array): boolean => b[0] === 0x76 && b[1] === 0x2f && b[2] === 0x31 && b[3] === 0x01

interface Header {
  size: [width: number, height: number]
  compression: number
  channels: string[]
  tiled: boolean
  /** The first byte after it. */
  end: number
}
/** What the header of a file of one part says; a text names what is wrong. */
function headerOf(b: Uint8Array, v: DataView): Header | string {
  const flags = v.getUint32(4, true)
  if (flags & 0x1800) return 'an EXR file of several parts or with deep pixels; save it with one flat part'
  let at = 8
  const word = (): string => {
    const end = b.indexOf(0, at)
    if (end < 0 || end - at > 255) throw new Error(`the header is damaged at byte ${at}`)
    const found = String.fromCharCode(...b.subarray(at, end))
    at = end + 1
    return found
  }
  const h: Header = { size: [0, 0], compression: -1, channels: [], tiled: (flags & 0x200) !== 0, end: 0 }
  for (let name = word(); name; name = word()) {
    word()
    const bytes = v.getUint32(at, true)
    const begin = at + 4
    if (begin + bytes > b.byteLength) return 'an EXR file that stops within its header: copy it again'
    if (name === 'compression') h.compression = b[begin]
    if (name === 'dataWindow')
      h.size = [0, 4].map((k) => v.getInt32(begin + 8 + k, true) - v.getInt32(begin + k, true) + 1) as Header['size']
    if (name === 'channels')
      for (at = begin; b[at] !== 0 && at < begin + bytes; at += 16) {
        h.channels.push(word())
      }
    at = begin + bytes
  }
  h.end = at
  return h
}
/**
 * An OpenEXR picture: one part, in rows or tiles, half or float, every compression of the open format. Its colours are those of the channels R,
 * G, B or Y, and A; others are left aside. The numbers are read by three.js; what is asked of the file before, its size, its
 * channels and where its chunks lie, is asked here, so that a broken one is refused with the place.
 */
export async function readExr(b: Uint8Array): Promise<Read<LightPicture>> {
  const v = new DataView(b.buffer, b.byteOffset, b.byteLength)
  const h = headerOf(b, v)
  if (typeof h === 'string') return bad(h)
  const [width, height] = h.size
  if (!(width > 0 && height > 0) || width * height > LIMITS.pixels)
    return bad(`an EXR picture of ${width} × ${height} pixels; make it at most 64 million`)
  if (!COMPRESSIONS[h.compression]) return bad(`an EXR picture in the unknown compression ${h.compression}; save it with ZIP`)
  if (!h.channels.some((c) => /^(R|G|B|Y)$/.test(c)))
    return bad(`an EXR picture without the channels R, G and B, or Y; it has ${h.channels.slice(0, 8).join(', ').slice(0, 80) || 'none'}`)
  if (!h.tiled) {
    const chunks = Math.ceil(height / ROWS[h.compression])
    if (h.end + chunks * 8 > b.byteLength)
      return bad('an EXR file that stops within the list of its rows: copy it again', { byte: b.byteLength })
    for (let k = 0; k < chunks; k++) {
      const at = Number(v.getBigUint64(h.end + 8 * k, true))
      if (at < h.end + chunks * 8 || at + 8 > b.byteLength || at + 8 + v.getUint32(at + 4, true) > b.byteLength)
        return bad(`an EXR file whose rows from ${k * ROWS[h.compression] + 1} on are not in it: it was cut off; copy it again`, {
          byte: Math.min(at, b.byteLength),
        })
    }
  }
  const { EXRLoader } = await import('three/addons/loaders/EXRLoader.js')
  const read = new EXRLoader().parse(b.buffer.slice(b.byteOffset, b.byteOffset + b.byteLength) as ArrayBuffer) as unknown as {
    width: number
    height: number
    data: Uint16Array
    /** 1023: four numbers a pixel; 1028: one. */
    format: number
  }
  return { ok: true, value: upright(read, h.channels.includes('A')), notes: [] }
}
/** Top row first, four numbers a pixel, and nothing that is no number: for light a pixel without end is as bright as a half can be. */
function upright(
  { width, height, data, format }: { width: number; height: number; data: Uint16Array; format: number },
  hasAlpha: boolean,
): LightPicture {
  const each = format === 1023 ? 4 : 1
  const out = new Uint16Array(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((height - 1 - y) * width + x) * each
      const to = (y * width + x) * 4
      for (let k = 0; k < 3; k++) out[to + k] = finite(data[from + (each === 4 ? k : 0)])
      out[to + 3] = each === 4 && hasAlpha ? finite(data[from + 3]) : 0x3c00
    }
  return { width, height, data: out }
}
const finite = (h: number): number => ((h & 0x7c00) !== 0x7c00 ? h : h & 0x3ff ? 0 : (h & 0x8000) | 0x7bff)
