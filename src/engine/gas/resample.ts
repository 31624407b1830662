import { VOLUME_TILE } from '../frame'
import type { StoredGrid } from '../geometry'
import { apply, invert, type Matrix, multiply } from '../math'
import type { StoredAmount, StoredCopy } from '../plan'
import { matrixOf, Sampler } from './sampler'

export const CELLS = VOLUME_TILE ** 3
/** Tiles of a frame at most: 134 million voxels, a gigabyte of a gas with heat and flame. */
export const MOST_TILES = 262_144
/** Bits of a coordinate of a tile. */
export const BITS = 10
/** What a copy may bring. */
export type Quantity = keyof StoredCopy['amounts']
/** Its low corner, m, and its size in tiles. */
export interface Room {
  low: readonly number[]
  dims: readonly number[]
}
/**
 * The room about all copies: its low corner, and its size in tiles. Its voxels lie as the samples of the first grid do, so that a copy that is
 * neither turned nor scaled is taken as it is.
 */
export function roomOf(copies: readonly StoredCopy[], voxel: number): { low: number[]; dims: number[]; cut: boolean } | null {
  const from = [Infinity, Infinity, Infinity]
  const to = [-Infinity, -Infinity, -Infinity]
  let anchor: number[] | null = null
  for (const { volume, matrix, amounts } of copies)
    for (const name of new Set(Object.values(amounts).map((a) => a?.grid ?? ''))) {
      const grid = volume.read(name)
      if (!grid?.count || grid.channels !== 1) continue
      const m = multiply(matrix, matrixOf(grid))
      anchor ??= [...apply(m, 0, 0, 0)]
      const box = Sampler.of(grid).box
      for (let c = 0; c < 8; c++) {
        const p = apply(m, ...([0, 1, 2].map((a) => ((c >> a) & 1 ? box.high[a] : box.low[a])) as [number, number, number]))
        for (let a = 0; a < 3; a++) {
          from[a] = Math.min(from[a], p[a])
          to[a] = Math.max(to[a], p[a])
        }
      }
    }
  if (!anchor) return null
  const edge = anchor.map((v) => v - voxel / 2)
  const first = from.map((v, a) => Math.floor((v - edge[a]) / voxel / VOLUME_TILE + 1e-6))
  const dims = to.map((v, a) => Math.floor((v - edge[a]) / voxel / VOLUME_TILE + 1e-6) - first[a] + 1)
  const most = 1 << BITS
  return {
    low: first.map((v, a) => edge[a] + v * VOLUME_TILE * voxel),
    dims: dims.map((n) => Math.min(most, n)),
    cut: dims.some((n) => n > most),
  }
}
/** Tiles of the room into which a leaf reaches, half a sample beyond its own. */
function touched(grid: StoredGrid, back: Matrix, dims: readonly number[]): Set<number> {
  const out = new Set<number>()
  for (let n = 0; n < grid.count; n++) {
    const from = [Infinity, Infinity, Infinity]
    const to = [-Infinity, -Infinity, -Infinity]
    for (let c = 0; c < 8; c++) {
      const corner = [0, 1, 2].map((a) => grid.origins[n * 3 + a] + ((c >> a) & 1 ? VOLUME_TILE : -1))
      const p = apply(back, corner[0], corner[1], corner[2])
      for (let a = 0; a < 3; a++) {
        from[a] = Math.min(from[a], p[a])
        to[a] = Math.max(to[a], p[a])
      }
    }
    const first = from.map((v) => Math.max(0, Math.floor(Math.ceil(v) / VOLUME_TILE)))
    const last = to.map((v, a) => Math.min(dims[a] - 1, Math.floor(Math.floor(v) / VOLUME_TILE)))
    for (let z = first[2]; z <= last[2]; z++)
      for (let y = first[1]; y <= last[1]; y++) for (let x = first[0]; x <= last[0]; x++) out.add(x | (y << BITS) | (z << (2 * BITS)))
  }
  return out
}
/** Where a tile lies in its room, by its key. */
export const tileAt = (key: number): [number, number, number] => {
  const last = (1 << BITS) - 1
  return [key & last, (key >> BITS) & last, key >> (2 * BITS)]
}
/** Adds a grid to the voxels of a tile; of heat the most counts. */
function add(sums: Float32Array, key: number, grid: StoredGrid, m: Matrix, { times, less = 0 }: StoredAmount, most: boolean): void {
  const sampler = Sampler.of(grid)
  const last = (1 << BITS) - 1
  const [ox, oy, oz] = [key & last, (key >> BITS) & last, key >> (2 * BITS)].map((v) => v * VOLUME_TILE)
  for (let i = 0; i < CELLS; i++) {
    const x = ox + (i & 7)
    const y = oy + ((i >> 3) & 7)
    const z = oz + (i >> 6)
    const v =
      sampler.at(m[0] * x + m[1] * y + m[2] * z + m[3], m[4] * x + m[5] * y + m[6] * z + m[7], m[8] * x + m[9] * y + m[10] * z + m[11]) *
        times -
      less
    if (!(v > 0)) continue
    sums[i] = most ? Math.max(sums[i], v) : sums[i] + v
  }
}
/** What copies put into the voxels of a room: by the key of each tile, for each of `quantities` the numbers of its voxels, x first. */
export function resample(
  copies: readonly StoredCopy[],
  quantities: readonly Quantity[],
  room: Room & { cut?: boolean },
  voxel: number,
): { tiles: Map<number, (Float32Array | undefined)[]>; cut: boolean } {
  const { low, dims } = room
  // Places are counted from the middle of the first voxel.
  const toShot = Float64Array.from([voxel, 0, 0, low[0] + voxel / 2, 0, voxel, 0, low[1] + voxel / 2, 0, 0, voxel, low[2] + voxel / 2])
  const toRoom = invert(toShot) as Matrix
  const tiles = new Map<number, (Float32Array | undefined)[]>()
  let cut = !!room.cut
  for (const copy of copies) {
    const grids = new Map<string, { grid: StoredGrid; into: Matrix; reaches: Set<number> } | null>()
    const gridOf = (name: string) => {
      const known = grids.get(name)
      if (known !== undefined) return known
      const grid = copy.volume.read(name)
      const out = grid?.channels === 1 ? multiply(copy.matrix, matrixOf(grid)) : null
      const back = out && invert(out)
      const made = grid && out && back ? { grid, into: multiply(back, toShot), reaches: touched(grid, multiply(toRoom, out), dims) } : null
      grids.set(name, made)
      return made
    }
    for (const [at, quantity] of quantities.entries()) {
      const amount = copy.amounts[quantity]
      const g = amount && gridOf(amount.grid)
      if (!g) continue
      for (const key of g.reaches) {
        let sums = tiles.get(key)
        if (!sums) {
          if (tiles.size >= MOST_TILES) {
            cut = true
            continue
          }
          sums = []
          tiles.set(key, sums)
        }
        const to = sums[at] ?? new Float32Array(CELLS)
        sums[at] = to
        add(to, key, g.grid, g.into, amount, quantity === 'temperature')
      }
    }
  }
  return { tiles, cut }
}
