import { type Allocator, Block, GAS, type GAS_STEP, TILE, TILE_GRID_BYTES, writeRecord } from '../memory'
import type { Fields } from './fields'
import { cellsOfTiles, markTiles, placeOf, spread } from './tiles'
import type { Cells } from './window'

interface Flags {
  flags: Uint32Array
  dims: number[]
}
/** What the tiles of a gas hold. */
export class TileTable {
  private readonly table: Block
  private readonly packed: Block
  private readonly busy: Block
  private known: (Flags & { of: Fields }) | null = null

  constructor(
    private heap: Allocator,
    private record: number,
    /** Grids of a record of the frame. */
    private grids: number,
    private run: (step: keyof typeof GAS_STEP, count: number, chunk: number) => void,
  ) {
    this.table = new Block(heap)
    this.packed = new Block(heap)
    this.busy = new Block(heap)
  }
  /** What was found out of the tiles does not hold any more. */
  forget(): void {
    this.known = null
  }
  /** What each tile of the window holds, x first: a bit for each scalar, none where there is too little to be seen of all. */
  flags(f: Fields): Flags {
    if (this.known?.of !== f) this.known = { of: f, ...this.find(f) }
    return this.known
  }
  private find(f: Fields): Flags {
    const dims = f.window.count.map((n) => n / TILE)
    const n = dims[0] * dims[1] * dims[2]
    f.describe(this.record, false)
    writeRecord(this.heap.view(), this.record, GAS, { table: this.table.reserve(n * 4) })
    this.run('tiles', dims[1] * dims[2], 4)
    return { flags: this.heap.u32(this.table.at, n).slice(), dims }
  }
  /** The cells that hold something. */
  held(f: Fields): Cells | null {
    const { flags, dims } = this.flags(f)
    return cellsOfTiles(flags, dims, f.window)
  }
  /** Marks the tiles to which what there is may come in a step of at most `reach` tiles. Returns those that hold something, or into which it comes. */
  markBusy(f: Fields, fed: readonly Cells[], reach: number): Uint32Array {
    const { flags, dims } = this.find(f)
    this.forget()
    // What comes in may be too little to be seen at first, and must add up.
    for (const c of fed) markTiles(flags, dims, c, f.window)
    const bytes = spread(Uint8Array.from(flags), dims, reach)
    const at = this.busy.reserve(bytes.length)
    new Uint8Array(this.heap.memory.buffer, at, bytes.length).set(bytes)
    writeRecord(this.heap.view(), this.record, GAS, { busy: at })
    return flags
  }
  /** The tiles that hold something, as half floats, and where each lies, in tiles from the first cell of the gas's room. */
  capture(f: Fields, room: readonly number[]): { tiles: number; data: ArrayBuffer } {
    const { flags, dims } = this.flags(f)
    const kept = [...flags.keys()].filter((t) => flags[t])
    const { first } = f.window
    const bytes = kept.length * this.grids * TILE_GRID_BYTES
    const data = new ArrayBuffer(kept.length * 4 + bytes)
    const places = new Uint32Array(data, 0, kept.length)
    kept.forEach((t, n) => {
      const at = placeOf(t, dims).map((x, a) => x + (first[a] - room[a]) / TILE)
      places[n] = at[0] | (at[1] << 10) | (at[2] << 20)
    })
    if (kept.length) {
      const table = this.table.reserve(kept.length * 4)
      const out = this.packed.reserve(bytes)
      this.heap.u32(table, kept.length).set(kept)
      writeRecord(this.heap.view(), this.record, GAS, { table, ops: out })
      this.run('pack', kept.length, 8)
      new Uint8Array(data, kept.length * 4).set(new Uint8Array(this.heap.memory.buffer, out, bytes))
    }
    return { tiles: kept.length, data }
  }
}
