import { type ColumnName, WORD_COLUMNS } from '../memory'
import { GAS_DYES, type GasDye, type KeptColumn } from '../plan'

/** What of a particle a frame keeps, in order. */
export const POINT_COLUMNS = ['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'seed', 'id', 'phase'] as const satisfies ColumnName[]
const ORIENTATION = ['qx', 'qy', 'qz', 'qw'] as const satisfies ColumnName[]
/**
 * Of a system that has them also their unit quaternions, the factor on their size, since which age they are in
 * their phase and after which, and the colour that they took over. */
export const MORE_POINT_COLUMNS = [...ORIENTATION, 'size', 'phaseStart', 'phaseFrom', 'tint'] as const satisfies ColumnName[]
/** What a frame keeps of them only where a look asks: where each was emitted, its last contact (speed 0: none yet), how many it descends from, its spin. */
export const KEPT_POINT_COLUMNS = [
  'sx',
  'sy',
  'sz',
  'touchedAge',
  'touchSpeed',
  'generation',
  'wx',
  'wy',
  'wz',
] as const satisfies KeptColumn[]
export const ALL_POINT_COLUMNS = [...POINT_COLUMNS, ...MORE_POINT_COLUMNS, ...KEPT_POINT_COLUMNS] as const
export type PointColumn = (typeof ALL_POINT_COLUMNS)[number]

/** Particles of one system. `data` holds the columns one behind the other, `count` words each. */
export interface PointsPart {
  kind: 'points'
  element: string
  count: number
  /** Of MORE_POINT_COLUMNS those that it has, and of KEPT_POINT_COLUMNS those that were asked for. */
  more?: readonly PointColumn[]
  data: ArrayBuffer
}
/** Where an object is that the simulation moves: own space to the shot, three rows of four. */
export interface PlacePart {
  kind: 'place'
  element: string
  matrix: number[]
  /** Its middle, in the shot; how that moves, m/s, and how it rotates about it, rad/s. */
  motion?: { middle: number[]; velocity: number[]; spin: number[] }
}
/**
 * Lines of points behind particles, of one act. A strip goes from its end to its head. `data` holds, one behind the other, where the points of
 * each strip begin (one word more than strips), the columns of strips, `strips` words each, and those of points, `points` words each.
 */
export interface StripsPart {
  kind: 'strips'
  element: string
  /** Id of the act whose they are. */
  act: string
  strips: number
  points: number
  /** Whether behind all that `data` holds a word for each strip: the colour that its particle took over. */
  tinted?: boolean
  /** Whether points have normals too: how their particle lay. */
  turned?: boolean
  data: ArrayBuffer
}
/**
 * A gas: tiles of 8³ voxels that hold something. `data` holds where each lies, in tiles from the low corner of all that the gas may have
 * (x, y and z in ten bits each), and behind them, tile by tile, density, temperature (K over the air), flame and its dyes as half floats, x first.
 */
export interface VolumePart {
  kind: 'volume'
  element: string
  /** The dyes that it holds; without: none. */
  dyes?: readonly GasDye[]
  /** m */
  voxel: number
  low: number[]
  tiles: number
  data: ArrayBuffer
}
/** Those that every gas has come first. */
export const VOLUME_GRIDS = ['density', 'temperature', 'flame', ...GAS_DYES] as const
export type VolumeGrid = (typeof VOLUME_GRIDS)[number]
export const VOLUME_TILE = 8
const TILE_CELLS = VOLUME_TILE ** 3
/** Where a tile lies, in tiles. */
export function volumeTile(part: VolumePart, n: number): [number, number, number] {
  const at = new Uint32Array(part.data, 0, part.tiles)[n]
  return [at & 1023, (at >> 10) & 1023, (at >> 20) & 1023]
}
/** The grids of each of its tiles, in their order. */
export const volumeGrids = ({ dyes }: VolumePart): readonly VolumeGrid[] => [...VOLUME_GRIDS.slice(0, -GAS_DYES.length), ...(dyes ?? [])]
const NOTHING = new Uint16Array(TILE_CELLS)
/** The half floats of one grid of a tile; zeros of one that it does not hold. */
export function volumeHalves(part: VolumePart, n: number, grid: VolumeGrid): Uint16Array {
  const grids = volumeGrids(part)
  const nth = grids.indexOf(grid)
  return nth < 0 ? NOTHING : new Uint16Array(part.data, part.tiles * 4 + (n * grids.length + nth) * TILE_CELLS * 2, TILE_CELLS)
}
/** Whose it is, and how much of its opacity is left when that one is gone. */
export const STRIP_COLUMNS = ['id', 'seed', 'phase', 'age', 'life', 'fade'] as const
/** Metres; how far along it is, 0 at the head and 1 at the end; and metres from where the strip began. */
export const STRIP_POINT_COLUMNS = ['px', 'py', 'pz', 'along', 'metres'] as const
export type StripColumn = (typeof STRIP_COLUMNS)[number]
/** Behind them, of a part that is turned: the way that the own Y of the particle pointed there. */
export const STRIP_NORMAL_COLUMNS = ['nx', 'ny', 'nz'] as const
const ALL_STRIP_POINT_COLUMNS = [...STRIP_POINT_COLUMNS, ...STRIP_NORMAL_COLUMNS] as const
export type StripPointColumn = (typeof ALL_STRIP_POINT_COLUMNS)[number]
const STRIP_WORD_COLUMNS: ReadonlySet<string> = new Set(['id', 'seed', 'phase'])
/** Where the points of each strip begin, and behind them how many there are. */
export const stripOffsets = (part: StripsPart): Uint32Array => new Uint32Array(part.data, 0, part.strips + 1)
export function stripColumn(part: StripsPart, name: StripColumn): Float32Array | Uint32Array {
  const at = (part.strips + 1 + STRIP_COLUMNS.indexOf(name) * part.strips) * 4
  return STRIP_WORD_COLUMNS.has(name) ? new Uint32Array(part.data, at, part.strips) : new Float32Array(part.data, at, part.strips)
}
export function stripPoints(part: StripsPart, name: StripPointColumn): Float32Array {
  const at = (part.strips * (STRIP_COLUMNS.length + 1) + 1 + ALL_STRIP_POINT_COLUMNS.indexOf(name) * part.points) * 4
  return new Float32Array(part.data, at, part.points)
}
/** The colours that the particles of strips took over, as tintOf packs them; null: none did. */
export const stripTints = (part: StripsPart): Uint32Array | null =>
  part.tinted ? new Uint32Array(part.data, stripWords(part.strips, part.points, part.turned) * 4, part.strips) : null
/** Words of the data of a part with so many, without tints. */
export const stripWords = (strips: number, points: number, turned = false): number =>
  strips * (STRIP_COLUMNS.length + 1) + 1 + points * (turned ? ALL_STRIP_POINT_COLUMNS : STRIP_POINT_COLUMNS).length
/** What a frame is made of: a closed union, so that every reader says what it does with each kind. */
export type Part = PointsPart | PlacePart | StripsPart | VolumePart
export type PartOf<K extends Part['kind']> = Extract<Part, { kind: K }>

/** For the default of a switch over kinds of part: a kind that is not handled does not compile. */
export function unknownPart(part: never): never {
  throw new Error(`no reader for a part of kind ${(part as Part).kind}`)
}
export function partsOf<K extends Part['kind']>(parts: readonly Part[], kind: K): PartOf<K>[] {
  return parts.filter((p): p is PartOf<K> => p.kind === kind)
}
/** Of one part among the parts of a frame: an element may leave several kinds, and of strips several acts. */
export const partKey = (part: Part): string => `${part.kind} ${part.element}${part.kind === 'strips' ? ` ${part.act}` : ''}`
/** The part of an element of one kind, if it has one. */
export function partOf<K extends Part['kind']>(parts: readonly Part[] | undefined, kind: K, element: string): PartOf<K> | undefined {
  return parts?.find((p): p is PartOf<K> => p.kind === kind && p.element === element)
}
export const columnsOfPart = (part: PointsPart): readonly PointColumn[] => (part.more ? [...POINT_COLUMNS, ...part.more] : POINT_COLUMNS)
export const hasColumn = (part: PointsPart, name: PointColumn): boolean => columnsOfPart(part).includes(name)
export function pointColumn(part: PointsPart, name: PointColumn): Float32Array | Uint32Array {
  const nth = columnsOfPart(part).indexOf(name)
  const at = nth * part.count * 4
  if (nth < 0) throw new Error(`the particles of ${part.element} have no ${name}`)
  return WORD_COLUMNS.has(name) ? new Uint32Array(part.data, at, part.count) : new Float32Array(part.data, at, part.count)
}
export function partBytes(part: Part): number {
  switch (part.kind) {
    case 'points':
    case 'strips':
    case 'volume':
      return part.data.byteLength
    case 'place':
      return 160
    default:
      return unknownPart(part)
  }
}
/** A copy whose buffers may be handed over to another thread, and these buffers. */
export function copyPart(part: Part): { part: Part; buffers: ArrayBuffer[] } {
  switch (part.kind) {
    case 'points':
    case 'strips':
    case 'volume': {
      const data = part.data.slice(0)
      return { part: { ...part, data }, buffers: [data] }
    }
    case 'place':
      return { part: structuredClone(part), buffers: [] }
    default:
      return unknownPart(part)
  }
}
