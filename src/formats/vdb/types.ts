/** Rows of a matrix from places in the grid to the world, for row vectors: the fourth row is the translation. */
export type GridMatrix = readonly (readonly number[])[]
export const VALUE_TYPES = ['float', 'double', 'int32', 'int64', 'bool', 'mask', 'vec3s', 'vec3d', 'vec3i'] as const
export type ValueType = (typeof VALUE_TYPES)[number]
/** Numbers of a value. */
export const channelsOf = (t: ValueType): number => (t.startsWith('vec3') ? 3 : 1)

/** A grid as the head of a file describes it. */
export interface VdbGridHead {
  name: string
  /** As the file tells it from others of the same name. */
  unique: string
  /** As the file has it. */
  type: string
  /** null: a type that is not known. */
  value: ValueType | null
  /** Stored in 16 bits. */
  half: boolean
  /** The grid whose tree it shares. */
  sharedWith: string
  kind: 'fog volume' | 'level set' | 'staggered' | 'unknown'
  compression: number
  metadata: Readonly<Record<string, string | number | boolean | number[]>>
  map: string
  matrix: GridMatrix
  /** Whether the map is a matrix; a frustum is not. */
  linear: boolean
  /** Where its tree begins, and the byte behind the grid; 0: to be found by reading on. */
  tree: number
  end: number
}
export interface VdbFile {
  version: number
  metadata: VdbGridHead['metadata']
  hasOffsets: boolean
  grids: VdbGridHead[]
  /** What could not be used, in words. */
  notes: string[]
}
/** A block of one value. Level 1: 8³ voxels, 2: 128³, 3: 4096³. */
export interface VdbTile {
  level: 1 | 2 | 3
  origin: [number, number, number]
  value: number[]
  active: boolean
}
/** Voxels of a leaf, 8³; z goes fastest. */
export const LEAF_VOXELS = 512
/** What a grid holds. */
export interface VdbTree {
  channels: 1 | 3
  background: number[]
  /** Of the leaves: where each begins, xyz; 64 bytes of bits that say which voxels are active; and their values, `channels` numbers a voxel. */
  count: number
  origins: Int32Array
  masks: Uint8Array
  values: Float32Array
  tiles: VdbTile[]
}
