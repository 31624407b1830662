import { deflateSync } from 'node:zlib'

const TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
  return c
})
function crc(bytes: Uint8Array): number {
  let c = 0xffffffff
  for (let i = 0; i < bytes.length; i++) c = TABLE[(c ^ bytes[i]) & 255] ^ (c >>> 8)
  return (c ^ 0xffffffff) >>> 0
}
function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + data.length)
  const v = new DataView(out.buffer)
  v.setUint32(0, data.length)
  for (let i = 0; i < 4; i++) out[4 + i] = type.charCodeAt(i)
  out.set(data, 8)
  v.setUint32(8 + data.length, crc(out.subarray(4, 8 + data.length)))
  return out
}

/**
 * 8-bit sRGB PNG (ISO/IEC 15948) from rows of straight-alpha RGBA, top row first. Filter “up” on every row: fast, and good on dark
 * pictures.
 */
export function writePng(width: number, height: number, rgba: Uint8Array, alpha: boolean): Uint8Array {
  if (rgba.length !== width * height * 4) throw new Error(`${rgba.length} bytes are not ${width}x${height} RGBA`)
  const channels = alpha ? 4 : 3
  const stride = width * channels
  const raw = new Uint8Array((stride + 1) * height)
  const row = new Uint8Array(stride)
  const above = new Uint8Array(stride)
  for (let y = 0; y < height; y++) {
    const from = y * width * 4
    if (alpha) row.set(rgba.subarray(from, from + stride))
    else
      for (let x = 0; x < width; x++) {
        row[x * 3] = rgba[from + x * 4]
        row[x * 3 + 1] = rgba[from + x * 4 + 1]
        row[x * 3 + 2] = rgba[from + x * 4 + 2]
      }
    const o = y * (stride + 1)
    raw[o] = 2
    for (let i = 0; i < stride; i++) raw[o + 1 + i] = row[i] - above[i]
    above.set(row)
  }
  const head = new Uint8Array(13)
  const v = new DataView(head.buffer)
  v.setUint32(0, width)
  v.setUint32(4, height)
  head[8] = 8
  head[9] = alpha ? 6 : 2
  const parts = [
    new Uint8Array([137, 80, 78, 71, 13, 10, 26, 10]),
    chunk('IHDR', head),
    chunk('sRGB', new Uint8Array([0])),
    chunk('IDAT', deflateSync(raw, { level: 4 })),
    chunk('IEND', new Uint8Array(0)),
  ]
  const out = new Uint8Array(parts.reduce((s, p) => s + p.length, 0))
  let at = 0
  for (const p of parts) {
    out.set(p, at)
    at += p.length
  }
  return out
}
