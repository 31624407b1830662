import { fromLz4, toLz4 } from './lz4'

/** Bytes before what a chunk holds: versions, flags, bytes of a number, then plain bytes, those of a block and those of the chunk. */
const HEADER = 16
const SHUFFLED = 1
const STORED = 2
const ONE_STREAM = 16
const LZ4 = 1
/** Blocks with fewer numbers than this are never split by bytes. */
const LEAST_SPLIT = 128

/** Takes a chunk apart (Alted's Blosc, version 1 of its format, LZ4 within) that must hold `wanted` bytes. Returns what is wrong, or the bytes. */
export function fromBlosc(b: Uint8Array, wanted: number): Uint8Array | string {
  if (b.length < HEADER) return `a blosc chunk of ${b.length} bytes`
  const view = new DataView(b.buffer, b.byteOffset, b.byteLength)
  const [flags, wide] = [b[2], b[3]]
  const [plain, block] = [view.getUint32(4, true), view.getUint32(8, true)]
  if (plain !== wanted) return `a blosc chunk of ${plain} bytes where ${wanted} belong`
  if (flags & STORED) return b.length >= HEADER + plain ? b.subarray(HEADER, HEADER + plain) : 'a blosc chunk that is cut off'
  if (flags >> 5 !== LZ4) return `a blosc chunk of codec ${flags >> 5}; save it with LZ4 or zip`
  if (!block || !wide) return 'a blosc chunk without blocks'
  const out = new Uint8Array(plain)
  const blocks = Math.ceil(plain / block)
  if (HEADER + 4 * blocks > b.length) return 'a blosc chunk that is cut off'
  for (let i = 0; i < blocks; i++) {
    let p = view.getInt32(HEADER + 4 * i, true)
    const length = Math.min(block, plain - i * block)
    const whole = flags & ONE_STREAM || length !== block || wide > 16 || block / wide < LEAST_SPLIT
    const streams = whole ? 1 : wide
    const part = length / streams
    const to = out.subarray(i * block, i * block + length)
    const apart = flags & SHUFFLED && wide > 1 ? new Uint8Array(length) : to
    for (let k = 0; k < streams; k++) {
      if (p < 0 || p + 4 > b.length) return 'a blosc chunk that is cut off'
      const n = view.getInt32(p, true)
      p += 4
      if (n < 0 || p + n > b.length) return 'a blosc chunk that is cut off'
      const into = apart.subarray(k * part, (k + 1) * part)
      if (n === part) into.set(b.subarray(p, p + n))
      else if (fromLz4(b.subarray(p, p + n), into) !== part) return 'a blosc chunk that does not come apart'
      p += n
    }
    if (apart === to) continue
    const numbers = Math.floor(length / wide)
    for (let j = 0; j < wide; j++) for (let q = 0, o = j; q < numbers; q++, o += wide) to[o] = apart[j * numbers + q]
    for (let q = numbers * wide; q < length; q++) to[q] = apart[q]
  }
  return out
}

/** Of the numbers of a chunk, as every known writer of such files says it, however wide they are. */
const WIDE = 4
let apart = new Uint8Array(0)
let packed = new Uint8Array(0)
/** One chunk of one block, its bytes sorted by their place in their number; null where it gains nothing. */
export function toBlosc(b: Uint8Array): Uint8Array | null {
  const n = b.length
  if (apart.length < n) {
    apart = new Uint8Array(n)
    packed = new Uint8Array(n + 64)
  }
  const numbers = Math.floor(n / WIDE)
  for (let j = 0; j < WIDE; j++) for (let q = 0, o = j; q < numbers; q++, o += WIDE) apart[j * numbers + q] = b[o]
  for (let q = numbers * WIDE; q < n; q++) apart[q] = b[q]
  const size = toLz4(apart.subarray(0, n), packed, n - HEADER - 8)
  if (size < 0 || size >= n) return null
  const out = new Uint8Array(HEADER + 8 + size)
  const view = new DataView(out.buffer)
  out.set([2, 1, SHUFFLED | ONE_STREAM | (LZ4 << 5), WIDE])
  for (const [i, v] of [n, n, out.length, HEADER + 4, size].entries()) view.setUint32(4 + 4 * i, v, true)
  out.set(packed.subarray(0, size), HEADER + 8)
  return out
}
