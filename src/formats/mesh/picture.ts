import type { Mesh } from '../../engine'
import { grouped } from '../../shot'
import { brightnessOf, brightnessOfLight } from '../image/brightness'
import { looksLikeExr, readExr } from '../image/exr'
import { looksLikeHdr, readHdr } from '../image/hdr'
import { fitting, LIGHT_TYPE } from '../image/light'
import { bad, type Read } from '../result'

export type PictureType = 'image/png' | 'image/jpeg' | 'image/webp'
/** The name of the one part of a plate. */
const PLATE = 'picture'
/** Longer sides than this are more than a graphics side takes. */
const MOST_SIDE = 8192

const text = (b: Uint8Array, at: number, n: number) => String.fromCharCode(...b.subarray(at, at + n))
/** By the first bytes. */
export function sniffPicture(b: Uint8Array): PictureType | null {
  if (b.byteLength >= 8 && b[0] === 0x89 && text(b, 1, 3) === 'PNG') return 'image/png'
  if (b.byteLength >= 4 && b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff) return 'image/jpeg'
  if (b.byteLength >= 16 && text(b, 0, 4) === 'RIFF' && text(b, 8, 4) === 'WEBP') return 'image/webp'
  return null
}
type Size = [width: number, height: number]
/** Width and height from the header; null where there is none. */
function sizeOf(b: Uint8Array, type: PictureType): Size | null {
  const v = new DataView(b.buffer, b.byteOffset, b.byteLength)
  if (type === 'image/png') return b.byteLength >= 24 ? [v.getUint32(16), v.getUint32(20)] : null
  if (type === 'image/jpeg') return jpegSize(v)
  const kind = text(b, 12, 4)
  // Of the extended form, of lossless and of lossy ones (RFC 9649).
  if (kind === 'VP8X' && b.byteLength >= 30) return [(v.getUint32(24, true) & 0xffffff) + 1, (v.getUint32(26, true) >>> 8) + 1]
  if (kind === 'VP8L' && b.byteLength >= 25) {
    const bits = v.getUint32(21, true)
    return [(bits & 0x3fff) + 1, ((bits >>> 14) & 0x3fff) + 1]
  }
  return kind === 'VP8 ' && b.byteLength >= 30 ? [v.getUint16(26, true) & 0x3fff, v.getUint16(28, true) & 0x3fff] : null
}
/** From the frame header, the first of its kind (ITU-T T.81, B.2.2). */
function jpegSize(v: DataView): Size | null {
  for (let at = 2; at + 9 <= v.byteLength; ) {
    if (v.getUint8(at) !== 0xff) return null
    const marker = v.getUint8(at + 1)
    if (marker === 0xff) {
      at++
      continue
    }
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) return [v.getUint16(at + 7), v.getUint16(at + 5)]
    at += 2 + v.getUint16(at + 2)
  }
  return null
}
/**
 * A PNG, JPEG or WebP as a plate that stands upright and faces +Z about its middle: its longer side is a metre. `shown`: without how bright it
 * is where, for which it is decoded.
 */
export function readPicture(bytes: Uint8Array, type: PictureType, shown = false): Read<Mesh> {
  const name = type.slice(6).toUpperCase()
  const size = sizeOf(bytes, type)
  if (!size?.every((n) => n > 0)) return bad(`a ${name} that is damaged at its beginning: save it anew`, { byte: bytes.byteLength })
  if (Math.max(...size) > MOST_SIDE)
    return bad(`a ${name} of ${grouped(size[0])} × ${grouped(size[1])} pixels; make it at most ${grouped(MOST_SIDE)} on a side`)
  const brightness = shown ? null : brightnessOf(bytes, type)
  // WebP is decoded by the browser alone.
  if (!brightness && !shown && type !== 'image/webp') return bad(`a ${name} that cannot be decoded: save it anew`)
  return { ok: true, notes: [], value: plate(size, { type, data: bytes.slice(), brightness, cut: true }) }
}
function plate(size: Size, texture: Omit<NonNullable<Mesh['textures']>[number], 'part'>): Mesh {
  const [w, h] = size.map((n) => n / Math.max(...size) / 2)
  return {
    positions: Float32Array.from([-w, -h, 0, w, -h, 0, w, h, 0, -w, h, 0]),
    normals: Float32Array.from([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
    uv: Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0]),
    indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    parts: [{ name: PLATE, firstTriangle: 0, triangleCount: 2 }],
    textures: [{ part: PLATE, ...texture }],
  }
}
export const looksLikeLight = (b: Uint8Array): boolean => looksLikeHdr(b) || looksLikeExr(b)
/** A picture of light, HDR or EXR, as such a plate. It may as well be all that is around: then nothing of the plate counts but its picture. */
export async function readLight(bytes: Uint8Array): Promise<Read<Mesh>> {
  const r = looksLikeHdr(bytes) ? readHdr(bytes) : await readExr(bytes)
  if (!r.ok) return r
  const { picture, halved } = fitting(r.value)
  const { width, height, data } = picture
  return {
    ok: true,
    notes: halved ? [`averaged down from ${r.value.width} to ${width} pixels across`] : [],
    value: plate([width, height], {
      ...{ type: LIGHT_TYPE, data: new Uint8Array(data.buffer), size: [width, height] },
      ...{ brightness: brightnessOfLight(picture), cut: true },
    }),
  }
}
