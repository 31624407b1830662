import { bad, type Read } from '../result'
import { Cursor, VdbDamage } from './cursor'
import { readGridHead, readHead } from './head'
import { TreeReader } from './tree'
import type { ValueType, VdbFile, VdbGridHead, VdbTree } from './types'

/** What a file of sparse grids holds, without its trees. Grids of a type that is not known are listed with a note. Never throws. */
export const openVdb = (bytes: Uint8Array): Read<VdbFile> => tried(() => open(bytes))
/** The tree of a grid; of one that shares it, that of the other. Never throws. */
export const readTree = (bytes: Uint8Array, file: VdbFile, grid: VdbGridHead): Read<VdbTree> =>
  tried(() => {
    const g = grid.sharedWith ? file.grids.find((x) => x.unique === grid.sharedWith) : grid
    if (!g) throw new VdbDamage(`the grid ${grid.name} shares the voxels of one that is not there: export it again`, grid.tree)
    if (!g.value) throw new VdbDamage(`the grid ${grid.name} holds ${g.type}, which is not read`, g.tree)
    return new TreeReader(new Cursor(bytes, g.tree), { ...g, value: g.value }).read()
  })

function tried<T>(read: () => T): Read<T> {
  try {
    return { ok: true, value: read(), notes: [] }
  } catch (error) {
    if (error instanceof VdbDamage) return bad(error.message, { byte: error.byte })
    if (error instanceof RangeError) return bad('more than there is memory for')
    throw error
  }
}
function open(bytes: Uint8Array): VdbFile {
  const c = new Cursor(bytes)
  const { grids: many, ...head } = readHead(c)
  const grids: VdbGridHead[] = []
  const notes: string[] = []
  for (let i = 0; i < many; i++) {
    const g = readGridHead(c, head.hasOffsets)
    grids.push(g)
    if (!g.value) notes.push(`the grid ${g.name} holds ${g.type}, which is not read`)
    if (!g.linear) notes.push(`the grid ${g.name} lies in a frustum, which is taken as straight: bake it into a box for its true place`)
    if (head.hasOffsets) c.at = g.end
    else if (!g.sharedWith && i + 1 < many) {
      // In a stream what follows begins where this one ends.
      if (!g.value) throw new VdbDamage(`what comes after the grid ${g.name} cannot be found: save the file with its offsets`, c.at)
      const reader = new Cursor(bytes, g.tree)
      new TreeReader(reader, { ...g, value: g.value as ValueType }).read()
      c.at = reader.at
    }
  }
  return { ...head, grids, notes }
}
