import { halfTable, VOLUME_TILE, type VolumeGrid, volumeGrids, volumeHalves, volumeTile } from '../frame'
import { type Allocator, Arena, GAS, SCALAR_COUNT, writeRecord } from '../memory'
import { GAS_SCALARS, type GasDye, type StoredCopy } from '../plan'
import { insideOf } from './fields'
import type { GasGrid } from './gas'
import type { GasField } from './probe'
import { StoredVelocity } from './storedVelocity'
import type { Cells } from './window'

/** What copies put into voxels: the corner of their room, its size in tiles, and the tiles that hold something, as frames keep them. */
export interface Held {
  low: number[]
  dims: number[]
  tiles: number
  data: ArrayBuffer
}
interface Grid {
  at: number
  first: number
}
/**
 * What files hold, dense, as the kernels of particles read a gas that flows: velocities on the faces of its cells, and what it holds. Velocities
 * turn and scale with their copy; where copies overlap they add up.
 */
export class StoredAir implements GasField {
  readonly record: number
  /** Of what is in it. */
  key: string | null = null
  window: Cells | null = null
  low: readonly number[] = [0, 0, 0]
  private readonly arena: Arena
  private grids = new Map<GasGrid, Grid>()
  private row = 0
  private slab = 0
  private floats = 0

  constructor(
    heap: Allocator,
    readonly voxel: number,
  ) {
    this.arena = new Arena(heap)
    this.record = this.arena.take(GAS.bytes)
    this.describe()
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  grid(name: GasGrid): Float32Array {
    const g = this.grids.get(name)
    if (!g || !this.window) return new Float32Array(0)
    return insideOf(this.arena.f32(g.at, this.floats), this.window.count, this.row, this.slab)
  }
  /** There is nothing, for a key. */
  clear(key: string | null): void {
    for (const { at } of this.grids.values()) this.arena.give(at)
    this.grids.clear()
    this.window = null
    this.key = key
    this.describe()
  }
  /** Throws MemoryRefused. */
  fill(key: string, copies: readonly StoredCopy[], held: Held, dyes: readonly GasDye[]): void {
    this.clear(key)
    if (!held.tiles) return
    const [nx, ny, nz] = held.dims.map((n) => n * VOLUME_TILE)
    this.window = { first: [0, 0, 0], count: [nx, ny, nz] }
    this.low = held.low
    this.row = nx + 2
    this.slab = this.row * (ny + 2)
    // Vectors read a little beyond the last row.
    this.floats = this.slab * (nz + 2) + 16
    const part = { kind: 'volume', element: '', voxel: this.voxel, ...held, ...(dyes.length ? { dyes } : {}) } as const
    const of = halfTable()
    const places = Array.from({ length: held.tiles }, (_, n) => volumeTile(part, n))
    for (const name of volumeGrids(part)) {
      const to = this.take(name)
      places.forEach((tile, n) => {
        const from = volumeHalves(part, n, name as VolumeGrid)
        for (let i = 0; i < from.length; i++) if (from[i]) to[this.indexOf(tile, i)] = of[from[i]]
      })
    }
    const velocity = new StoredVelocity(copies, held.low, this.voxel)
    if (!velocity.isEmpty)
      for (const [axis, name] of (['u', 'v', 'w'] as const).entries()) {
        const to = this.take(name)
        for (const tile of places)
          velocity.over(tile, axis, (i, v) => {
            to[this.indexOf(tile, i)] += v
          })
      }
    this.describe()
  }
  private indexOf(tile: readonly number[], i: number): number {
    const [x, y, z] = [tile[0] * 8 + (i & 7), tile[1] * 8 + ((i >> 3) & 7), tile[2] * 8 + (i >> 6)]
    return 1 + x + (1 + y) * this.row + (1 + z) * this.slab
  }
  private take(name: GasGrid): Float32Array {
    const at = this.arena.take(this.floats * 4)
    this.grids.set(name, { at, first: at + (1 + this.row + this.slab) * 4 })
    return this.arena.f32(at, this.floats).fill(0)
  }
  private describe(): void {
    const at = (name: GasGrid) => this.grids.get(name)?.first ?? 0
    writeRecord(
      this.arena.view(),
      this.record,
      GAS,
      { voxel: this.voxel, low: this.low, dims: this.window?.count ?? [0, 0, 0], row: this.row, slab: this.slab },
      {
        velocity: (['u', 'v', 'w'] as const).map(at),
        scalars: Array.from({ length: SCALAR_COUNT }, (_, n) => at(GAS_SCALARS[n])),
      },
    )
  }
  dispose(): void {
    this.grids.clear()
    this.arena.dispose()
  }
}
