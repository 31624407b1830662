// LZ4 blocks (Collet 2011, block format): literals, then a match within what is there already.

const MIN_MATCH = 4
/** A match may not begin in the last twelve bytes, and the last five are literals. */
const LAST_START = 12
const LAST_LITERALS = 5

/** Fills `dst` from a block; returns the bytes written, or −1 where the block does not fit into it. */
export function fromLz4(src: Uint8Array, dst: Uint8Array): number {
  let [s, d] = [0, 0]
  const long = (n: number): number => {
    if (n !== 15) return n
    let all = n
    let x = 255
    while (x === 255) {
      if (s >= src.length) return -1
      x = src[s++]
      all += x
    }
    return all
  }
  while (s < src.length) {
    const token = src[s++]
    const literals = long(token >> 4)
    if (literals < 0 || s + literals > src.length || d + literals > dst.length) return -1
    for (let i = 0; i < literals; i++) dst[d + i] = src[s + i]
    s += literals
    d += literals
    if (s >= src.length) return d
    if (s + 2 > src.length) return -1
    const back = src[s] | (src[s + 1] << 8)
    s += 2
    const match = long(token & 15) + MIN_MATCH
    if (match < MIN_MATCH || back === 0 || back > d || d + match > dst.length) return -1
    // Byte by byte: a match may run into what it writes.
    for (const end = d + match; d < end; d++) dst[d] = dst[d - back]
  }
  return d
}

const HASH_BITS = 12
const table = new Int32Array(1 << HASH_BITS)
/** One greedy pass. Returns the bytes written to `dst`, or −1 where it does not get smaller than `most`. */
export function toLz4(src: Uint8Array, dst: Uint8Array, most: number): number {
  table.fill(-1)
  const n = src.length
  let [s, d, from] = [0, 0, 0]
  const length = (v: number): void => {
    for (let left = v - 15; left >= 0; left -= 255) dst[d++] = Math.min(left, 255)
  }
  const literals = (to: number, match: number): boolean => {
    const many = to - from
    if (d + many + many / 255 + 16 > most) return false
    dst[d++] = (Math.min(many, 15) << 4) | Math.min(match, 15)
    if (many >= 15) length(many)
    for (let i = from; i < to; i++) dst[d++] = src[i]
    return true
  }
  const end = n - LAST_START
  while (s < end) {
    const word = src[s] | (src[s + 1] << 8) | (src[s + 2] << 16) | (src[s + 3] << 24)
    const h = Math.imul(word, -1640531535) >>> (32 - HASH_BITS)
    const before = table[h]
    table[h] = s
    const same =
      before >= 0 &&
      s - before < 65536 &&
      src[before] === src[s] &&
      src[before + 1] === src[s + 1] &&
      src[before + 2] === src[s + 2] &&
      src[before + 3] === src[s + 3]
    if (!same) {
      s++
      continue
    }
    let m = MIN_MATCH
    while (s + m < n - LAST_LITERALS && src[before + m] === src[s + m]) m++
    if (!literals(s, m - MIN_MATCH)) return -1
    dst[d++] = (s - before) & 255
    dst[d++] = (s - before) >> 8
    if (m - MIN_MATCH >= 15) length(m - MIN_MATCH)
    s += m
    from = s
  }
  return literals(n, 0) ? d : -1
}
