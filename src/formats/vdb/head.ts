import { grouped } from '../../shot'
import { type Cursor, VdbDamage } from './cursor'
import { type GridMatrix, VALUE_TYPES, type ValueType, type VdbFile, type VdbGridHead } from './types'

const MAGIC = [0x20, 0x42, 0x44, 0x56, 0, 0, 0, 0]
const OLDEST = 222
const NEWEST = 224
/** Bytes that the shortest grid takes: names, places, flags, a transform. */
const LEAST_GRID = 60
const LEAST_METADATA = 12
/** Numbers of a map, by its name. */
const MAPS: Readonly<Record<string, number>> = {
  UniformScaleMap: 15,
  ScaleMap: 15,
  UniformScaleTranslateMap: 18,
  ScaleTranslateMap: 18,
  TranslationMap: 3,
  AffineMap: 16,
  UnitaryMap: 16,
}
const KINDS = ['fog volume', 'level set', 'staggered'] as const

export const looksLikeVdb = (b: Uint8Array): boolean => b.length >= 8 && MAGIC.every((v, i) => b[i] === v)

/** Before grids: what kind of file it is, and of which version. Throws VdbDamage. */
export function readHead(c: Cursor): Omit<VdbFile, 'grids' | 'notes'> & { grids: number } {
  if (!looksLikeVdb(c.bytes)) c.damaged('not a VDB file: its first bytes are others')
  c.skip(8)
  const version = c.u32()
  if (version < OLDEST || version > NEWEST)
    throw new VdbDamage(`a VDB file of version ${version}; save it anew as version ${OLDEST} to ${NEWEST}`, 8)
  c.skip(8)
  const hasOffsets = c.u8() !== 0
  c.skip(36)
  const metadata = readMetadata(c)
  const grids = c.u32()
  if (grids * LEAST_GRID > c.bytes.length) c.damaged(`${grouped(grids)} grids, more than the file has room for: it is damaged`)
  return { version, hasOffsets, metadata, grids }
}
/** A grid up to its tree. Throws VdbDamage. */
export function readGridHead(c: Cursor, hasOffsets: boolean): VdbGridHead {
  const [unique, type, sharedWith] = [c.text(), c.text(), c.text()]
  const at = c.at
  const [grid, , end] = [c.i64(), c.i64(), c.i64()]
  if (hasOffsets) {
    if (grid < c.at || end < grid || end > c.bytes.length)
      throw new VdbDamage(`the grid ${nameOf(unique)} is said to lie from byte ${grid} to ${end}: the file is damaged or cut off`, at)
    c.at = grid
  }
  const compression = c.u32()
  if (compression > 7) c.damaged(`a compression of number ${compression} of the grid ${nameOf(unique)}; save it with zip or blosc`)
  const metadata = readMetadata(c)
  const map = readMap(c)
  const m = /^Tree_(\w+?)_5_4_3(_HalfFloat)?$/.exec(type)
  const value = VALUE_TYPES.find((v) => v === m?.[1]) ?? null
  return {
    ...{ name: nameOf(unique), unique, type, sharedWith, compression, metadata, ...map },
    value: value as ValueType | null,
    half: !!m?.[2],
    kind: KINDS.find((k) => k === metadata.class) ?? 'unknown',
    tree: c.at,
    end: hasOffsets ? end : 0,
  }
}
/** Names that occur twice have a number behind a separator. */
const nameOf = (unique: string): string => unique.split('\x1e')[0]

function readMetadata(c: Cursor): VdbGridHead['metadata'] {
  const out: Record<string, string | number | boolean | number[]> = {}
  const many = c.u32()
  if (many * LEAST_METADATA > c.bytes.length) c.damaged('more notes than the file has room for: it is damaged')
  for (let i = 0; i < many; i++) {
    const [name, type, size] = [c.text(), c.text(), c.u32()]
    const end = c.skip(size) + size
    c.at = end - size
    const value = valueOf(c, type, size)
    if (value !== null) out[name] = value
    c.at = end
  }
  return out
}
function valueOf(c: Cursor, type: string, size: number): string | number | boolean | number[] | null {
  const many = (n: number, wide: number, read: () => number) => (size === n * wide ? Array.from({ length: n }, read) : null)
  const one = (wide: number, read: () => number) => many(1, wide, read)?.[0] ?? null
  switch (type) {
    case 'string':
      return new TextDecoder().decode(c.take(size))
    case 'bool':
      return size === 1 ? c.u8() !== 0 : null
    case 'int32':
      return one(4, c.i32)
    case 'int64':
      return one(8, () => c.i64())
    case 'float':
      return one(4, c.f32)
    case 'double':
      return one(8, c.f64)
    case 'vec3i':
      return many(3, 4, c.i32)
    case 'vec3s':
      return many(3, 4, c.f32)
    case 'vec3d':
      return many(3, 8, c.f64)
    default:
      return null
  }
}
function readMap(c: Cursor): { map: string; matrix: GridMatrix; linear: boolean } {
  const at = c.at
  const map = c.text()
  if (map === 'NonlinearFrustumMap') {
    c.skip(8 * 8)
    return { map, matrix: readMap(c).matrix, linear: false }
  }
  const many = MAPS[map]
  if (many === undefined) throw new VdbDamage(`a transform of the kind “${map.slice(0, 40)}”; save the grid with a plain matrix`, at)
  const d = Array.from({ length: many }, c.f64)
  if (!d.every(Number.isFinite)) throw new VdbDamage('a transform that is not a number: the file is damaged', at)
  if (many === 16) return { map, matrix: [0, 4, 8, 12].map((r) => d.slice(r, r + 4)), linear: true }
  const moves = map.endsWith('TranslateMap') || map === 'TranslationMap'
  const scale = map === 'TranslationMap' ? [1, 1, 1] : d.slice(moves ? 3 : 0, moves ? 6 : 3)
  const by = moves ? d.slice(0, 3) : [0, 0, 0]
  return {
    map,
    matrix: [
      [scale[0], 0, 0, 0],
      [0, scale[1], 0, 0],
      [0, 0, scale[2], 0],
      [...by, 1],
    ],
    linear: true,
  }
}
