import { halfTable, VOLUME_TILE, type VolumeGrid, volumeGrids, volumeHalves, volumeTile } from '../frame'
import { invert, type Matrix, multiply } from '../math'
import { type Allocator, Arena, GAS, SCALAR_COUNT, writeRecord } from '../memory'
import { GAS_SCALARS, type GasDye, type StoredCopy } from '../plan'
import { insideOf } from './fields'
import type { GasGrid } from './gas'
import type { GasField } from './probe'
import { matrixOf, Sampler } from './sampler'
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
    const moving = copies.flatMap((c) => {
      const grid = c.velocity ? c.volume.read(c.velocity) : null
      const out = grid?.channels === 3 ? multiply(c.matrix, matrixOf(grid)) : null
      const back = out && invert(out)
      return grid && back ? [{ grid, back, turn: c.matrix }] : []
    })
    if (moving.length) this.move(moving, places)
    this.describe()
  }
  private move(
    moving: readonly { grid: Parameters<typeof Sampler.of>[0]; back: Matrix; turn: Matrix }[],
    places: readonly (readonly number[])[],
  ): void {
    const { low, voxel } = this
    const toShot = Float64Array.from([voxel, 0, 0, low[0] + voxel / 2, 0, voxel, 0, low[1] + voxel / 2, 0, 0, voxel, low[2] + voxel / 2])
    for (const { grid, back, turn } of moving) {
      const m = multiply(back, toShot)
      const sampler = Sampler.of(grid)
      for (const [a, name] of (['u', 'v', 'w'] as const).entries()) {
        const to = this.grids.has(name) ? this.arena.f32((this.grids.get(name) as Grid).at, this.floats) : this.take(name)
        const [p, q, r] = [turn[a * 4], turn[a * 4 + 1], turn[a * 4 + 2]]
        for (const tile of places)
          for (let i = 0; i < VOLUME_TILE ** 3; i++) {
            // Each component lies on the lower face of its cell.
            const x = tile[0] * 8 + (i & 7) - (a === 0 ? 0.5 : 0)
            const y = tile[1] * 8 + ((i >> 3) & 7) - (a === 1 ? 0.5 : 0)
            const z = tile[2] * 8 + (i >> 6) - (a === 2 ? 0.5 : 0)
            const gx = m[0] * x + m[1] * y + m[2] * z + m[3]
            const gy = m[4] * x + m[5] * y + m[6] * z + m[7]
            const gz = m[8] * x + m[9] * y + m[10] * z + m[11]
            const v =
              (p === 0 ? 0 : p * sampler.at(gx, gy, gz, 0)) +
              (q === 0 ? 0 : q * sampler.at(gx, gy, gz, 1)) +
              (r === 0 ? 0 : r * sampler.at(gx, gy, gz, 2))
            if (v !== 0) to[this.indexOf(tile, i)] += v
          }
      }
    }
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
    writeRecord(this.arena.view(), this.record, GAS, {
      ...{ voxel: this.voxel, low: this.low, dims: this.window?.count ?? [0, 0, 0], row: this.row, slab: this.slab },
      velocity: (['u', 'v', 'w'] as const).map(at),
      scalars: Array.from({ length: SCALAR_COUNT }, (_, n) => at(GAS_SCALARS[n])),
    })
  }
  dispose(): void {
    this.grids.clear()
    this.arena.dispose()
  }
}
