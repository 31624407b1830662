/** A sparse grid of numbers as a file has it: leaves of 8³ samples, which lie at whole places of the grid. */
export interface StoredGrid {
  channels: 1 | 3
  /** From places of the grid to the file's own space: four rows of three, for row vectors; the fourth is the translation. */
  matrix: readonly (readonly number[])[]
  count: number
  /** Where each leaf begins, xyz; multiples of 8. */
  origins: Int32Array
  /** 512 samples a leaf, `channels` numbers each, z fastest. What no leaf holds is nothing. */
  values: Float32Array
}
/** What is known of a grid without reading it. */
export interface StoredGridFacts {
  name: string
  channels: 1 | 3
  kind: 'fog volume' | 'level set' | 'staggered' | 'unknown'
}
/** Grids that a file holds, read as they are asked for. */
export interface StoredVolume {
  readonly grids: readonly StoredGridFacts[]
  /** null: there is none of the name, or it cannot be read. */
  read(name: string): StoredGrid | null
}
