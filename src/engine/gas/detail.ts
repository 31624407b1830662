import { type Allocator, Block, DETAIL, DETAIL_ROOM_HEAD, type GAS_STEP, TILE, TILE_GRID_BYTES, TILE_GRIDS, writeRecord } from '../memory'
import { detailNoise } from './detailNoise'
import type { Field, Fields } from './fields'
import { placeOf } from './tiles'
import { type Cells, shared } from './window'

export interface DetailState {
  bytes: number
  /** Where the noise has gone, four floats a cell with the cells around. */
  gone: Float32Array
  /** By tile of the window. */
  blocks: ReadonlyMap<number, Float32Array>
}
/** Runs a step of the kernels; `table`: where what it reads or leaves by tile lies. */
export type RunDetail = (step: keyof typeof GAS_STEP, count: number, chunk: number, pointers?: { table?: number; ops?: number }) => void

/** Own steps go at most so many voxels; what goes further is led back by what the gas has. */
const MOST_VOXELS = 6
/**
 * The smallest eddies that a gas keeps are of about four cells; a wave of four cells along an axis differs from the mean of its six neighbours
 * by a third of its amplitude. Noise has its power around waves of 4.5 nodes; velocity goes by the cube root of the size (Kolmogorov 1941).
 */
const EDDY_CELLS = 4
const EDDY_SHARE = 3
const NOISE_NODES = 4.5
const FOUR = 16
/** Blocks that are kept for tiles to come. */
const SPARE = 64

/** Finer cells of a gas, by tiles of its window: blocks of them where the gas holds something, and grids of its cells that lead them. */
export class Detail {
  readonly record: number
  private readonly noise: number
  private readonly list: Block
  private readonly tables: Block[]
  private readonly room: Block
  private readonly marks: Block
  private readonly packed: Block
  /** Grids of four floats a cell of the window. */
  private grids: { moves: Field; gone: Field; next: Field; changes: Field } | null = null
  /** Density and flame as the step began. */
  private before: Field[] = []
  private readonly means: Block
  private window: Cells | null = null
  /** Block of each tile of the window that has one. */
  private blocks = new Map<number, number>()
  private spare: number[] = []
  private readonly blockFloats: number
  private readonly reach: number

  constructor(
    private heap: Allocator,
    private threads: number,
    private plan: { factor: number; strength(t: number): number; burns: boolean; dyes: number },
    private run: RunDetail,
  ) {
    const { factor, burns } = plan
    this.record = heap.take(DETAIL.bytes)
    ;[this.list, this.room, this.marks, this.packed, this.means] = Array.from({ length: 5 }, () => new Block(heap))
    this.tables = [new Block(heap), new Block(heap)]
    const noise = detailNoise()
    this.noise = heap.take(noise.byteLength)
    heap.f32(this.noise, noise.length).set(noise)
    const grids = burns ? 2 : 1
    this.blockFloats = grids * (TILE * factor) ** 3
    this.reach = factor * MOST_VOXELS
    // The finest band has a node of noise for each finer cell; a cell of the gas has none of what is finer than half of it.
    const perCell = factor > 2 ? [2, factor] : [2, 0]
    writeRecord(
      heap.view(),
      this.record,
      DETAIL,
      { factor, grids, noise: this.noise, reach: this.reach, bands: factor > 2 ? 2 : 1, perCell },
      {
        amplitudes: perCell.map((f) => (f ? EDDY_SHARE * (NOISE_NODES / f / EDDY_CELLS) ** (1 / 3) : 0)),
      },
    )
  }
  /** Takes another window; what both share is kept. Throws MemoryRefused, and has what it had then. */
  resize(fields: Fields): void {
    const made: Field[] = []
    try {
      for (let n = 0; n < 4; n++) made.push(this.grid(fields, FOUR))
      for (let n = 0; n < (this.plan.burns ? 2 : 1); n++) made.push(this.grid(fields, 4))
    } catch (error) {
      for (const f of made) this.heap.give(f.at)
      throw error
    }
    const [moves, gone, next, changes, ...began] = made
    for (const f of [moves, gone, next]) this.heap.f32(f.at, fields.floats * 4).fill(0)
    // Around the window nothing comes, and all is left.
    const unchanged = this.heap.f32(changes.at, fields.floats * 4)
    unchanged.fill(0)
    for (let n = 2; n < unchanged.length; n += 4) unchanged[n] = unchanged[n + 1] = 1
    const old = this.grids
    const before = this.window
    const { window } = fields
    if (before && old) {
      const blocks = new Map<number, number>()
      const shift = window.first.map((f, a) => (before.first[a] - f) / TILE)
      const dims = tilesOf(window)
      for (const [t, block] of this.blocks) {
        const at = placeOf(t, tilesOf(before)).map((x, a) => x + shift[a])
        if (at.every((x, a) => x >= 0 && x < dims[a])) blocks.set(at[0] + dims[0] * (at[1] + dims[1] * at[2]), block)
        else this.spare.push(block)
      }
      this.blocks = blocks
      this.copyGone(before, old.gone, fields, gone)
      this.giveGrids()
    }
    this.grids = { moves, gone, next, changes }
    this.before = began
    this.window = window
    this.floats = fields.floats
    writeRecord(this.heap.view(), this.record, DETAIL, { origin: window.first })
  }
  private floats = 0
  private copyGone(before: Cells, from: Field, fields: Fields, to: Field): void {
    const { first, count } = shared(before, fields.window)
    const row = before.count[0] + 2
    const a = this.heap.f32(to.at, fields.floats * 4)
    const b = this.heap.f32(from.at, this.floats * 4)
    for (let k = 0; k < count[2]; k++)
      for (let j = 0; j < count[1]; j++) {
        const [x, y, z] = first.map((f, n) => f - before.first[n] + 1)
        const p = x + (y + j) * row + (z + k) * row * (before.count[1] + 2)
        a.set(b.subarray(p * 4, (p + count[0]) * 4), fields.indexOf(first[0], first[1] + j, first[2] + k) * 4)
      }
  }
  private grid(fields: Fields, bytes: number): Field {
    const at = this.heap.take(fields.floats * bytes)
    return { at, first: at + (1 + fields.row + fields.slab) * bytes }
  }
  private giveGrids(): void {
    if (this.grids) for (const f of [...Object.values(this.grids), ...this.before]) this.heap.give(f.at)
    this.grids = null
    this.before = []
  }
  private describe(strength: number): void {
    const g = this.grids as NonNullable<typeof this.grids>
    writeRecord(
      this.heap.view(),
      this.record,
      DETAIL,
      { moves: g.moves.first, gone: g.gone.first, goneNext: g.next.first, changes: g.changes.first, strength },
      {
        before: [this.before[0].first, this.before[1]?.first ?? 0],
      },
    )
  }
  /** Remembers what there is before sources and burning change it. */
  begin(fields: Fields): void {
    if (!this.grids) return
    this.before.forEach((f, n) => this.heap.f32(f.at, fields.floats).set(this.heap.f32(fields.scalars[n * 3].at, fields.floats)))
  }
  /**
   * Does what has changed since to the finer cells, in tiles whose flag is set, and takes the velocity that the gas is about to be moved by.
   * Throws MemoryRefused.
   */
  stir(flags: Uint32Array, t: number): void {
    const g = this.grids
    if (!g || !this.window) return
    const [, ny, nz] = this.window.count
    for (let n = 0; n < flags.length; n++) {
      if (!flags[n] || this.blocks.has(n)) continue
      const at = this.block()
      this.heap.f32(at, this.blockFloats).fill(0)
      this.blocks.set(n, at)
    }
    this.describe(this.plan.strength(t))
    this.run('middles', (ny + 2) * (nz + 2), 32)
    this.run('stir', ny * nz, 32)
    ;[g.gone, g.next] = [g.next, g.gone]
    const list = [...this.blocks.keys()]
    this.lay(list, flags.length)
    this.run('gain', list.length, 2)
  }
  /** Carries the finer cells along, for the tiles whose flag is set, and brings them to what the gas has now. Throws MemoryRefused. */
  carry(flags: Uint32Array, t: number): void {
    if (!this.grids) return
    const list = [...flags.keys()].filter((n) => flags[n])
    const next = new Map<number, number>()
    try {
      for (const n of list) next.set(n, this.block())
      this.describe(this.plan.strength(t))
      this.lay(list, flags.length, next)
      this.run('carry', list.length, 1)
      this.run('match', list.length, 2)
    } catch (error) {
      // Stopped, or without memory: what was taken is at hand again.
      this.spare.push(...next.values())
      throw error
    }
    this.spare.push(...this.blocks.values())
    this.blocks = next
    // Some stay at hand: what there is goes on changing.
    while (this.spare.length > list.length + SPARE) this.heap.give(this.spare.pop() as number)
  }
  private block(): number {
    return this.spare.pop() ?? this.heap.take(this.blockFloats * 4)
  }
  /** Writes what the kernels work on: tiles, their blocks, room for each thread, and means of blocks of cells. */
  private lay(list: readonly number[], tiles: number, next: ReadonlyMap<number, number> = new Map()): void {
    const { heap } = this
    const around = tilesOf(this.window as Cells).map((n) => n * 2 + 2)
    const [row, slab] = [around[0], around[0] * around[1]]
    // Vectors read a little beyond.
    const floats = (slab * around[2] + 2) * 4
    const means = this.means.reserve(floats * 4)
    heap.f32(means, floats).fill(0)
    const wide = TILE * this.plan.factor + 2 * this.reach
    const roomBytes = DETAIL_ROOM_HEAD + (this.plan.burns ? 2 : 1) * wide ** 3 * 4 + 64
    writeRecord(
      heap.view(),
      this.record,
      DETAIL,
      { means: means + (1 + row + slab) * FOUR, meansRow: row, meansSlab: slab },
      { list: this.numbers(this.list, list), room: this.room.reserve(roomBytes * this.threads), roomBytes },
      {
        blocks: this.table(this.tables[0], this.blocks, tiles),
        blocksNext: this.table(this.tables[1], next, tiles),
      },
    )
  }
  private numbers(block: Block, values: readonly number[]): number {
    const at = block.reserve(Math.max(4, values.length * 4))
    this.heap.u32(at, values.length).set(values)
    return at
  }
  private table(block: Block, blocks: ReadonlyMap<number, number>, count: number): number {
    const at = block.reserve(count * 4)
    const words = this.heap.u32(at, count).fill(0)
    for (const [t, b] of blocks) words[t] = b
    return at
  }
  /**
   * The finer tiles of 8³ that hold something, as a frame keeps them: where each lies, in such tiles from the first cell of
   * the gas's room; and their data.
   */
  capture(room: readonly number[]): { tiles: number; data: ArrayBuffer } {
    const { window } = this
    if (!window || !this.blocks.size) return { tiles: 0, data: new ArrayBuffer(0) }
    const { factor } = this.plan
    const parts = factor ** 3
    const dims = tilesOf(window)
    const list = [...this.blocks.keys()].sort((a, b) => a - b)
    writeRecord(this.heap.view(), this.record, DETAIL, {
      list: this.numbers(this.list, list),
      blocks: this.table(this.tables[0], this.blocks, dims[0] * dims[1] * dims[2]),
    })
    const marks = this.marks.reserve(list.length * parts * 8)
    this.run('detailTiles', list.length, 1, { table: marks })
    const flags = this.heap.u32(marks, list.length * parts).slice()
    const kept = [...flags.keys()].filter((n) => flags[n])
    const bytes = kept.length * (TILE_GRIDS + this.plan.dyes) * TILE_GRID_BYTES
    const data = new ArrayBuffer(kept.length * 4 + bytes)
    const places = new Uint32Array(data, 0, kept.length)
    const which = this.heap.u32(marks, kept.length * 2)
    kept.forEach((n, i) => {
      const part = n % parts
      which[i * 2] = Math.floor(n / parts)
      which[i * 2 + 1] = part
      const inside = placeOf(part, [factor, factor, factor])
      const at = placeOf(list[Math.floor(n / parts)], dims).map((x, a) => (x + (window.first[a] - room[a]) / TILE) * factor + inside[a])
      places[i] = at[0] | (at[1] << 10) | (at[2] << 20)
    })
    if (kept.length) {
      const out = this.packed.reserve(bytes)
      this.run('detailPack', kept.length, 4, { table: marks, ops: out })
      new Uint8Array(data, kept.length * 4).set(new Uint8Array(this.heap.memory.buffer, out, bytes))
    }
    return { tiles: kept.length, data }
  }
  save(): DetailState | null {
    if (!this.grids) return null
    const gone = this.heap.f32(this.grids.gone.at, this.floats * 4).slice()
    const blocks = new Map([...this.blocks].map(([t, at]) => [t, this.heap.f32(at, this.blockFloats).slice()]))
    return { bytes: gone.byteLength + blocks.size * this.blockFloats * 4, gone, blocks }
  }
  /** Whether a state has blocks as these are: the gas may burn since, or be finer. Without them it begins from nothing. */
  fits(s: DetailState): boolean {
    return [...s.blocks.values()].every((floats) => floats.length === this.blockFloats)
  }
  /** After `resize` to the window that it was saved in. */
  restore(s: DetailState): void {
    if (!this.grids) return
    this.heap.f32(this.grids.gone.at, this.floats * 4).set(s.gone)
    for (const [t, floats] of s.blocks) {
      const at = this.block()
      this.heap.f32(at, this.blockFloats).set(floats)
      this.blocks.set(t, at)
    }
  }
  /** Has nothing any more. */
  clear(): void {
    this.giveGrids()
    for (const at of [...this.blocks.values(), ...this.spare]) this.heap.give(at)
    this.blocks.clear()
    this.spare = []
    this.window = null
  }
  /** Gives everything back. */
  dispose(): void {
    this.clear()
    for (const block of [this.list, this.room, this.marks, this.packed, this.means, ...this.tables]) block.free()
    this.heap.give(this.noise)
    this.heap.give(this.record)
  }
}
const tilesOf = ({ count }: Cells): number[] => count.map((n) => n / TILE)
