import { decode as decodePng } from 'fast-png'
import jpeg from 'jpeg-js'
import { power } from '../../engine'
import { LIMITS } from '../result'
import { fromHalf, type LightPicture } from './light'

/** How bright a picture is, 0 to 255 for black to white as light, row by row from the top. */
export interface Brightness {
  width: number
  height: number
  data: Uint8Array
}
/** Longer sides are averaged down to this: an amount of a surface needs no more. */
const LONGEST = 512
/** Light of an sRGB value of 0 to 255. */
const LINEAR = Float64Array.from({ length: 256 }, (_, i) => (i / 255 <= 0.04045 ? i / 255 / 12.92 : power((i / 255 + 0.055) / 1.055, 2.4)))

/** Decodes a PNG or JPEG, in plain code, so that every host gets the same; null for what cannot be decoded. */
export function brightnessOf(bytes: Uint8Array, type: string): Brightness | null {
  try {
    const image = type === 'image/png' ? png(bytes) : type === 'image/jpeg' ? jpegOf(bytes) : null
    return image && smaller(image)
  } catch {
    return null
  }
}
/** Of a picture of light, in which white is 1. */
export function brightnessOfLight({ width, height, data }: LightPicture): Brightness {
  const light = (o: number, k: number) => fromHalf(data[o + k])
  return smaller({
    width,
    height,
    at: (i) => Math.max(0, Math.min(1, 0.2126 * light(4 * i, 0) + 0.7152 * light(4 * i, 1) + 0.0722 * light(4 * i, 2))),
  })
}
interface Pixels {
  width: number
  height: number
  /** light, 0 to 1, of a pixel */
  at(i: number): number
}
const luma = (r: number, g: number, b: number) => 0.2126 * LINEAR[r] + 0.7152 * LINEAR[g] + 0.0722 * LINEAR[b]
const NEEDED = ['IHDR', 'PLTE', 'tRNS', 'IDAT', 'IEND']
/** A PNG's chunks that make its pixels. Profiles and texts may unfold to any size, and say nothing about brightness. */
function pixelsOnly(bytes: Uint8Array): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const parts = [bytes.subarray(0, 8)]
  for (let at = 8; at + 12 <= bytes.byteLength; ) {
    const end = at + 12 + view.getUint32(at)
    if (NEEDED.includes(String.fromCharCode(...bytes.subarray(at + 4, at + 8))))
      parts.push(bytes.subarray(at, Math.min(end, bytes.byteLength)))
    at = end
  }
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0))
  let to = 0
  for (const p of parts) {
    out.set(p, to)
    to += p.length
  }
  return out
}
function png(bytes: Uint8Array): Pixels | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.byteLength < 24 || view.getUint32(16) * view.getUint32(20) > LIMITS.pixels) return null
  const { width, height, data, channels, depth, palette } = decodePng(pixelsOnly(bytes))
  const byte = (v: number) => (depth === 16 ? v >> 8 : depth < 8 && !palette ? Math.round((v * 255) / (2 ** depth - 1)) : v)
  return {
    width,
    height,
    at(i) {
      const o = i * channels
      if (palette) {
        const [r, g, b] = palette[data[o]]
        return luma(r, g, b)
      }
      const alpha = channels === 2 || channels === 4 ? byte(data[o + channels - 1]) / 255 : 1
      return alpha * (channels < 3 ? LINEAR[byte(data[o])] : luma(byte(data[o]), byte(data[o + 1]), byte(data[o + 2])))
    },
  }
}
function jpegOf(bytes: Uint8Array): Pixels {
  const { width, height, data } = jpeg.decode(bytes, { useTArray: true, maxResolutionInMP: LIMITS.pixels / 1e6, maxMemoryUsageInMB: 512 })
  return { width, height, at: (i) => luma(data[i * 4], data[i * 4 + 1], data[i * 4 + 2]) }
}
function smaller(p: Pixels): Brightness {
  const k = Math.max(1, Math.ceil(Math.max(p.width, p.height) / LONGEST))
  const width = Math.max(1, Math.floor(p.width / k)),
    height = Math.max(1, Math.floor(p.height / k))
  const data = new Uint8Array(width * height)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let sum = 0
      let n = 0
      for (let v = y * k; v < Math.min(p.height, (y + 1) * k); v++)
        for (let u = x * k; u < Math.min(p.width, (x + 1) * k); u++, n++) sum += p.at(v * p.width + u)
      data[y * width + x] = Math.round((sum / n) * 255)
    }
  }
  return { width, height, data }
}
