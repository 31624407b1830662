/** A record with typed arrays and buffers in it as one run of bytes: between our own processes only. Length of the JSON, the JSON, then the arrays. */
const KINDS = { f32: Float32Array, u32: Uint32Array, u16: Uint16Array, u8: Uint8Array } as const
type Kind = keyof typeof KINDS
interface Ref {
  $array: Kind | 'buffer'
  at: number
  length: number
}

export function pack(value: unknown): Uint8Array {
  const parts: Uint8Array[] = []
  let at = 0
  const json = JSON.stringify(value, (_key, v) => {
    const kind = v instanceof ArrayBuffer ? 'buffer' : (Object.keys(KINDS) as Kind[]).find((k) => v instanceof KINDS[k])
    if (!kind) return v
    const array = v instanceof ArrayBuffer ? new Uint8Array(v) : (v as Float32Array)
    // Each begins where any kind may begin.
    const bytes = new Uint8Array(array.buffer, array.byteOffset, array.byteLength)
    const ref: Ref = { $array: kind, at, length: array.length }
    parts.push(bytes)
    at += bytes.byteLength
    const pad = (4 - (at % 4)) % 4
    if (pad) parts.push(new Uint8Array(pad))
    at += pad
    return ref
  })
  const head = new TextEncoder().encode(json)
  const begin = 4 + head.length + ((4 - (head.length % 4)) % 4)
  const out = new Uint8Array(begin + at)
  new DataView(out.buffer).setUint32(0, head.length, true)
  out.set(head, 4)
  let o = begin
  for (const p of parts) {
    out.set(p, o)
    o += p.byteLength
  }
  return out
}
export function unpack<T>(bytes: Uint8Array): T {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true)
  const begin = 4 + length + ((4 - (length % 4)) % 4)
  return JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length)), (_key, v) => {
    if (!v || typeof v !== 'object' || !('$array' in v)) return v
    const { $array: kind, at, length: n } = v as Ref
    if (kind === 'buffer') return bytes.slice(begin + at, begin + at + n).buffer
    const made = new KINDS[kind](n)
    new Uint8Array(made.buffer).set(bytes.subarray(begin + at, begin + at + made.byteLength))
    return made
  })
}
