import { AIR_KELVIN, halfTable, VOLUME_TILE, type VolumeGrid, type VolumePart, volumeGrids, volumeHalves, volumeTile } from '../../engine'
import { toHalf } from '../image/light'
import type { TreeOut } from './treeWriter'
import { LEAF_VOXELS } from './types'
import { type VdbGridOut, type VdbOut, writeVdb } from './write'

/** Under which names grids of a gas are written. */
export const GRID_NAMES: Readonly<Record<VolumeGrid, string>> = {
  density: 'density',
  temperature: 'temperature',
  flame: 'flame',
  dyeA: 'dye_a',
  dyeB: 'dye_b',
}
/** m/s, three numbers a voxel. */
export const VELOCITY_NAME = 'vel'
export const VDB_GRIDS: readonly string[] = [...Object.values(GRID_NAMES), VELOCITY_NAME]
/** Where a voxel of a tile, x first, lies in a leaf, z first. */
const TO_LEAF = Uint16Array.from({ length: LEAF_VOXELS }, (_, i) => {
  const [x, y, z] = [i & 7, (i >> 3) & 7, i >> 6]
  return (x << 6) | (y << 3) | z
})
/** Halves that are zero of either sign are nothing. */
const SIGN = 0x7fff

/**
 * A grid of a gas as a tree: what is not zero is active. Temperatures, K over the air in the product, are absolute, and known where there is
 * gas of any kind.
 */
function treeOf(part: VolumePart, grid: VolumeGrid): TreeOut {
  const hot = grid === 'temperature'
  const kept: number[] = []
  const masks = new Uint8Array(part.tiles * 64)
  const values = new Uint16Array(part.tiles * LEAF_VOXELS)
  const all = hot ? volumeGrids(part) : [grid]
  for (let n = 0; n < part.tiles; n++) {
    const at = kept.length
    let any = false
    for (const g of all) {
      const from = volumeHalves(part, n, g)
      for (let i = 0; i < LEAF_VOXELS; i++) {
        if (!(from[i] & SIGN)) continue
        const to = TO_LEAF[i]
        masks[at * 64 + (to >> 3)] |= 1 << (to & 7)
        any = true
      }
    }
    if (!any) continue
    const from = volumeHalves(part, n, grid)
    const of = halfTable()
    for (let i = 0; i < LEAF_VOXELS; i++) values[at * LEAF_VOXELS + TO_LEAF[i]] = hot ? toHalf(of[from[i]] + AIR_KELVIN) : from[i]
    kept.push(n)
  }
  const origins = Int32Array.from(kept.flatMap((n) => volumeTile(part, n).map((v) => v * VOLUME_TILE)))
  const background = [hot ? AIR_KELVIN : 0]
  return { channels: 1, background, count: kept.length, origins, masks, values, tiles: [] }
}
/** Velocities of a gas, m/s, at places in the shot, xyz each. */
export type VelocityAt = (places: Float32Array) => Float32Array
/** How it moves, where there is gas of any kind. */
function velocityTree(part: VolumePart, at: VelocityAt): TreeOut {
  const { masks, origins, count } = treeOf(part, 'temperature')
  const values = new Float32Array(count * LEAF_VOXELS * 3)
  const places = new Float32Array(LEAF_VOXELS * 3)
  for (let n = 0; n < count; n++) {
    for (let i = 0; i < LEAF_VOXELS; i++)
      for (const [a, own] of [i >> 6, (i >> 3) & 7, i & 7].entries())
        places[i * 3 + a] = part.low[a] + (origins[n * 3 + a] + own + 0.5) * part.voxel
    const found = at(places)
    for (let i = 0; i < LEAF_VOXELS; i++)
      if ((masks[n * 64 + (i >> 3)] >> (i & 7)) & 1) values.set(found.subarray(i * 3, i * 3 + 3), (n * LEAF_VOXELS + i) * 3)
  }
  return { channels: 3, background: [0, 0, 0], count, origins, masks, values, tiles: [] }
}
/** Grids of a gas that hold anything, by the names of `wanted`, or all; its velocity where that is to be had. */
export function gasGrids(part: VolumePart, wanted?: readonly string[], velocity?: VelocityAt): VdbGridOut[] {
  const is = (name: string) => !wanted || wanted.includes(name)
  const grids = volumeGrids(part)
    .filter((g) => is(GRID_NAMES[g]))
    .map((g): VdbGridOut => ({ name: GRID_NAMES[g], kind: g === 'temperature' ? 'unknown' : 'fog volume', tree: treeOf(part, g) }))
  const moves: VdbGridOut[] =
    velocity && is(VELOCITY_NAME)
      ? [{ name: VELOCITY_NAME, kind: 'unknown', vector: 'contravariant relative', tree: velocityTree(part, velocity) }]
      : []
  return [...grids, ...moves].filter((g) => g.tree.count > 0 || g.name === GRID_NAMES.density)
}
/** 36 letters that are always the same for the same text. */
function uuidOf(text: string): string {
  const words = [1, 2, 3, 4].map((seed) => {
    let h = Math.imul(seed, 0x9e3779b1) >>> 0
    for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193) >>> 0
    return h.toString(16).padStart(8, '0')
  })
  return words.join('').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5')
}
/** A frame of a gas as a file. The middle of the voxel 0, 0, 0 lies half a voxel within its low corner. */
export function gasVdb(
  part: VolumePart,
  o: { grids?: readonly string[]; velocity?: VelocityAt; frame: number; rate: number; name: string } & Pick<
    VdbOut,
    'half' | 'packing' | 'deflate'
  >,
): Uint8Array {
  return writeVdb({
    grids: gasGrids(part, o.grids, o.velocity),
    voxel: part.voxel,
    origin: part.low.map((v) => v + part.voxel / 2) as [number, number, number],
    half: o.half,
    packing: o.packing,
    ...(o.deflate ? { deflate: o.deflate } : {}),
    metadata: { frame: o.frame, frames_per_second: o.rate, element: o.name },
    uuid: uuidOf(`${part.element} ${o.name} ${o.frame} ${part.tiles} ${part.voxel}`),
  })
}
