import { bad, LIMITS, type Read } from '../result'
import { type LightPicture, toHalf } from './light'

const text = (b: Uint8Array, from: number, to: number) => String.fromCharCode(...b.subarray(from, to))
export const looksLikeHdr = (b: Uint8Array): boolean => text(b, 0, 10) === '#?RADIANCE' || text(b, 0, 6) === '#?RGBE'

/** Halfs of every mantissa with every exponent: a picture has millions of pixels, and only so many values. */
let table: Uint16Array | null = null
const halfs = (): Uint16Array => {
  table ??= Uint16Array.from({ length: 65536 }, (_, i) => {
    const e = i >> 8
    return e === 0 ? 0 : toHalf((i & 255) * 2 ** (e - 136))
  })
  return table
}
/**
 * A Radiance picture (Ward 1991): shared exponents, plain or in runs, in any of the orders of rows and columns that stand upright. EXPOSURE
 * lines are taken back, so that light is as it was.
 */
export function readHdr(b: Uint8Array): Read<LightPicture> {
  let at = 0
  let scale = 1
  const line = (): string | null => {
    const end = b.indexOf(10, at)
    if (end < 0 || end - at > 4096) return null
    const found = text(b, at, end).replace(/\r$/, '')
    at = end + 1
    return found
  }
  for (let n = 0; ; n++) {
    const l = line()
    if (l === null || n > 1000) return bad('an HDR picture whose header has no end: save it anew', { byte: at })
    if (l === '') break
    const format = /^FORMAT\s*=\s*(\S+)/.exec(l)
    if (format && format[1] !== '32-bit_rle_rgbe')
      return bad(`an HDR picture in ${format[1].slice(0, 40)}; save it as 32-bit_rle_rgbe`, { byte: at - l.length - 1 })
    const exposure = /^EXPOSURE\s*=\s*(\S+)/.exec(l)
    if (exposure && Number(exposure[1]) > 0) scale *= Number(exposure[1])
  }
  const sizes = line()
  const m = sizes === null ? null : /^([-+])Y\s+(\d+)\s+([-+])X\s+(\d+)\s*$/.exec(sizes)
  if (!m) return bad('an HDR picture without a size in rows of pixels (-Y height +X width): save it upright', { byte: at })
  const [height, width] = [Number(m[2]), Number(m[4])]
  if (width * height === 0 || width * height > LIMITS.pixels)
    return bad(`an HDR picture of ${width} × ${height} pixels; make it at most 64 million`, { byte: at })
  const data = new Uint16Array(width * height * 4)
  const half = halfs()
  const row = new Uint8Array(width * 4)
  for (let y = 0; y < height; y++) {
    const next =
      width >= 8 && width <= 32767 && b[at] === 2 && b[at + 1] === 2 && !(b[at + 2] & 128) ? runs(b, at, row, width) : plain(b, at, row)
    if (typeof next !== 'number')
      return bad(`an HDR picture that ends or breaks off in row ${y + 1} of ${height}: ${next.why}`, { byte: next.byte })
    at = next
    const to = m[1] === '-' ? y : height - 1 - y
    for (let x = 0; x < width; x++) {
      const o = (to * width + (m[3] === '+' ? x : width - 1 - x)) * 4
      const e = row[3 * width + x] << 8
      for (let k = 0; k < 3; k++)
        data[o + k] = scale === 1 ? half[e | row[k * width + x]] : toHalf((row[k * width + x] * 2 ** ((e >> 8) - 136)) / scale)
      data[o + 3] = 0x3c00
    }
  }
  return { ok: true, value: { width, height, data }, notes: [] }
}
type Broken = { byte: number; why: string }
/** Four planes, each in runs. Returns where the next row begins. */
function runs(b: Uint8Array, start: number, row: Uint8Array, width: number): number | Broken {
  if (((b[start + 2] << 8) | b[start + 3]) !== width) return { byte: start + 2, why: 'it says another width' }
  let at = start + 4
  for (let k = 0; k < 4; k++)
    for (let x = 0; x < width; ) {
      const n = b[at]
      const run = n > 128 ? n - 128 : n
      if (!(at + (n > 128 ? 2 : 1 + run) <= b.byteLength)) return { byte: b.byteLength, why: 'the file stops there' }
      if (run === 0 || x + run > width) return { byte: at, why: 'a run is longer than the row' }
      if (n > 128) row.fill(b[at + 1], k * width + x, k * width + x + run)
      else row.set(b.subarray(at + 1, at + 1 + run), k * width + x)
      at += n > 128 ? 2 : 1 + run
      x += run
    }
  return at
}
/** Pixels one by one; of 1, 1, 1 the last pixel again, as often as the exponent says, by powers of 256 when one follows another. */
function plain(b: Uint8Array, start: number, row: Uint8Array): number | Broken {
  const width = row.length / 4
  let at = start
  let shift = 0
  for (let x = 0; x < width; at += 4) {
    if (at + 4 > b.byteLength) return { byte: b.byteLength, why: 'the file stops there' }
    if (b[at] === 1 && b[at + 1] === 1 && b[at + 2] === 1) {
      const n = b[at + 3] << shift
      if (x === 0 || n > width - x) return { byte: at, why: 'a pixel is repeated beyond the row' }
      for (let k = 0; k < 4; k++) row.fill(row[k * width + x - 1], k * width + x, k * width + x + n)
      x += n
      shift += 8
    } else {
      for (let k = 0; k < 4; k++) row[k * width + x] = b[at + k]
      x++
      shift = 0
    }
  }
  return at
}
