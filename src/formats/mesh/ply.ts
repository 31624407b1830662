import { type Mesh, power } from '../../engine'
import { grouped } from '../../shot'
import { bad, LIMITS, type Read } from '../result'

const SIZES: Record<string, number> = {
  char: 1,
  int8: 1,
  uchar: 1,
  uint8: 1,
  short: 2,
  int16: 2,
  ushort: 2,
  uint16: 2,
  int: 4,
  int32: 4,
  uint: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
}
interface Property {
  name: string
  type: string
  /** Of a list: the type of its length. */
  count: string | null
}
interface Element {
  name: string
  count: number
  properties: Property[]
}
interface Header {
  format: 'ascii' | 'binary_little_endian' | 'binary_big_endian'
  elements: Element[]
  /** Byte where the data begins, and its line. */
  at: number
  line: number
}

/** What cannot be in the bytes that follow: no file is believed in how much it holds. */
function impossible(elements: readonly Element[], format: Header['format'], bytesLeft: number): string | null {
  let least = 0
  for (const e of elements) {
    if (e.count && !e.properties.length) return `the element ${e.name} has no properties, but claims ${e.count} of them`
    // A word of text is a letter and what parts it from the next.
    const bytes = e.properties.reduce((sum, p) => sum + (format === 'ascii' ? 2 : SIZES[p.count ?? p.type]), 0)
    least += e.count * bytes
  }
  // A file that is merely cut short is read to the place where it ends, which is what a person wants to know.
  return least > 65536 + 8 * bytesLeft
    ? `cut short: the header claims ${elements
        .map((e) => `${e.count} × ${e.name}`)
        .join(', ')
        .slice(0, 120)}, but only ${bytesLeft} bytes follow`
    : null
}
function readHeader(bytes: Uint8Array): Header | ReturnType<typeof bad> {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 65536))
  const end = /^end_header\r?\n/m.exec(text)
  if (!end) return bad('the header has no “end_header”; is the file cut short?')
  const lines = text.slice(0, end.index).split(/\r?\n/)
  let format: Header['format'] | null = null
  const elements: Element[] = []
  for (const [i, raw] of lines.entries()) {
    const w = raw.trim().split(/\s+/)
    const line = i + 1
    if (w[0] === 'format') {
      if (w[1] !== 'ascii' && w[1] !== 'binary_little_endian' && w[1] !== 'binary_big_endian')
        return bad(`format “${w[1]}” is not known`, { line })
      format = w[1]
    } else if (w[0] === 'element') {
      const count = Number(w[2])
      if (!Number.isInteger(count) || count < 0) return bad(`element ${w[1]} says “${w[2]}” instead of how many there are`, { line })
      elements.push({ name: w[1], count, properties: [] })
    } else if (w[0] === 'property') {
      const list = w[1] === 'list'
      const p: Property = list ? { count: w[2], type: w[3], name: w[4] } : { count: null, type: w[1], name: w[2] }
      if (!SIZES[p.type] || (p.count !== null && !SIZES[p.count]))
        return bad(`“${raw.trim().slice(0, 60)}” has a type that is not known`, { line })
      if (!elements.length) return bad('a property before any element', { line })
      elements[elements.length - 1].properties.push(p)
    }
  }
  if (!format) return bad('the header does not say its format')
  const problem = impossible(elements, format, bytes.byteLength - end.index - end[0].length)
  if (problem) return bad(problem)
  return { format, elements, at: end.index + end[0].length, line: lines.length + 1 }
}
/** One number after another, from words or from bytes; null at the end of the data. */
type Next = (type: string) => number | null
function numbers(bytes: Uint8Array, h: Header): { next: Next; where: () => { byte?: number; line?: number } } {
  if (h.format === 'ascii') {
    const text = new TextDecoder().decode(bytes.subarray(h.at))
    const word = /\S+/g
    let read = 0
    const next = () => {
      const m = word.exec(text)
      read = m ? word.lastIndex : text.length
      return m ? Number(m[0]) : null
    }
    return { next, where: () => ({ line: h.line + (text.slice(0, read).match(/\n/g)?.length ?? 0) }) }
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const little = h.format === 'binary_little_endian'
  let at = h.at
  const next: Next = (type) => {
    const size = SIZES[type]
    if (at + size > bytes.byteLength) return null
    const o = at
    at += size
    switch (type) {
      case 'char':
      case 'int8':
        return view.getInt8(o)
      case 'uchar':
      case 'uint8':
        return view.getUint8(o)
      case 'short':
      case 'int16':
        return view.getInt16(o, little)
      case 'ushort':
      case 'uint16':
        return view.getUint16(o, little)
      case 'int':
      case 'int32':
        return view.getInt32(o, little)
      case 'uint':
      case 'uint32':
        return view.getUint32(o, little)
      case 'float':
      case 'float32':
        return view.getFloat32(o, little)
      default:
        return view.getFloat64(o, little)
    }
  }
  return { next, where: () => ({ byte: at }) }
}

const CHANNELS = ['red', 'green', 'blue']
/** Light of an sRGB value. */
const linear = (v: number): number => (v <= 0.04045 ? Math.max(0, v) / 12.92 : power((v + 0.055) / 1.055, 2.4))
/** PLY, text or binary: vertices with or without normals, faces with any number of corners (fans). What else it holds is named. */
export function readPly(bytes: Uint8Array): Read<Mesh> {
  const h = readHeader(bytes)
  if ('ok' in h) return h
  const vertex = h.elements.find((e) => e.name === 'vertex')
  const face = h.elements.find((e) => e.name === 'face')
  if (!vertex || !['x', 'y', 'z'].every((n) => vertex.properties.some((p) => p.name === n && p.count === null)))
    return bad('it has no vertices with x, y and z')
  if (!face?.count) return bad('it has no faces; a cloud of points alone is not a mesh')
  if (vertex.count > LIMITS.vertices || face.count > LIMITS.triangles)
    return bad(`too large: ${grouped(vertex.count)} vertices and ${grouped(face.count)} faces`)
  const hasNormals = ['nx', 'ny', 'nz'].every((n) => vertex.properties.some((p) => p.name === n && p.count === null))
  const tinted = ['red', 'green', 'blue'].every((n) => vertex.properties.some((p) => p.name === n && p.count === null))
  const tint = tinted ? new Float32Array(vertex.count * 3) : null
  const taken = new Set([
    'x',
    'y',
    'z',
    ...(tinted ? ['red', 'green', 'blue'] : []),
    ...(hasNormals ? ['nx', 'ny', 'nz'] : []),
    'vertex_indices',
    'vertex_index',
  ])
  const left = h.elements.flatMap((e) =>
    e === vertex || e === face ? e.properties.filter((p) => !taken.has(p.name)).map((p) => p.name) : [`the element ${e.name}`],
  )
  const { next, where } = numbers(bytes, h)
  const positions = new Float32Array(vertex.count * 3)
  const normals = hasNormals ? new Float32Array(vertex.count * 3) : null
  const indices: number[] = []
  const cut = (e: Element, i: number) => bad(`cut short: ${e.name} ${i + 1} of ${e.count} is missing or not whole`, where())
  for (const e of h.elements) {
    for (let i = 0; i < e.count; i++) {
      for (const p of e.properties) {
        if (p.count !== null) {
          const n = next(p.count)
          if (n === null || !Number.isInteger(n) || n < 0) return cut(e, i)
          const list: number[] = []
          for (let k = 0; k < n; k++) {
            const x = next(p.type)
            if (x === null) return cut(e, i)
            list.push(x)
          }
          if (e !== face || (p.name !== 'vertex_indices' && p.name !== 'vertex_index')) continue
          for (const x of list)
            if (!Number.isInteger(x) || x < 0 || x >= vertex.count)
              return bad(`face ${i + 1} names vertex ${x}, but there are ${vertex.count}`, where())
          for (let k = 2; k < n; k++) indices.push(list[0], list[k - 1], list[k])
          if (indices.length / 3 > LIMITS.triangles) return bad(`more than ${grouped(LIMITS.triangles)} triangles`, where())
          continue
        }
        const x = next(p.type)
        if (x === null) return cut(e, i)
        if (e !== vertex) continue
        const channel = tint ? CHANNELS.indexOf(p.name) : -1
        if (tint && channel >= 0 && Number.isFinite(x)) {
          // Whole numbers are shares of their largest, encoded for a screen; decimals are light.
          const maximum = SIZES[p.type] === 1 ? 255 : SIZES[p.type] === 2 ? 65535 : 1
          tint[i * 3 + channel] = maximum > 1 ? linear(x / maximum) : Math.max(0, x)
        }
        const a = 'xyz'.indexOf(p.name)
        const b = p.name.length === 2 && p.name[0] === 'n' ? 'xyz'.indexOf(p.name[1]) : -1
        if (a >= 0 || (normals && b >= 0)) {
          if (!Number.isFinite(x)) return bad(`vertex ${i + 1} is not a finite number`, where())
          if (a >= 0) positions[i * 3 + a] = x
          else if (normals) normals[i * 3 + b] = x
        }
      }
    }
  }
  if (!indices.length) return bad('none of its faces has three corners')
  return {
    ok: true,
    value: { positions, normals, indices: new Uint32Array(indices), parts: [], ...(tint ? { colours: tint } : {}) },
    notes: left.length ? [`not taken over: ${[...new Set(left)].join(', ')}`] : [],
  }
}
