import { Block, runJob } from './blocks'
import type { Columns } from './columns'
import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { GRID, GRID_COLUMNS, JOB, JOB_COUNT_CELLS, JOB_NEIGHBOURS, JOB_SORT_CELLS, PASS, PASSES } from './layout'
import type { PassWanted } from './ops'
import { Volumes } from './volumes'

/** Cells are this much wider than the radius, so that rounding cannot hide a neighbour. */
const WIDER = 1.0001
const CHUNK = 256

/** Who is near whom among the particles of one system at one moment. Blocks are kept from moment to moment. */
export class Grid {
  readonly record: number
  private job: number
  private blocks: Block[]
  constructor(
    private heap: Heap,
    private host: KernelHost,
    private scratch: number,
    private sortedColumns = GRID_COLUMNS,
  ) {
    this.record = heap.take(GRID.bytes)
    this.job = heap.take(JOB.bytes)
    this.blocks = [0, 1, 2, 3, 4].map(() => new Block(heap))
  }
  /** Builds it over all particles for neighbours up to a radius in metres. Throws MemoryRefused. */
  build(columns: Columns, radius: number): void {
    const n = columns.count
    const [cell, order, start, hist, sorted] = this.blocks
    const g = this.record
    const stride = Math.ceil((n + 8) / 4) * 16
    const parts = n > 16384 ? this.host.team.threads : 1
    // The box of all: low corner, then high, for a moment where the pointers go.
    const low = [0, 0, 0],
      high = [0, 0, 0]
    if (n) {
      this.host.exports.spanOf(columns.table, n, g)
      const v = this.heap.view()
      for (let a = 0; a < 3; a++) {
        low[a] = v.getFloat32(g + a * 4, true)
        high[a] = v.getFloat32(g + 12 + a * 4, true)
      }
    }
    const width = Math.max(radius * WIDER, 1e-9)
    const dims = low.map((l, a) => Math.min(1 << 24, Math.floor((high[a] - l) / width) + 1))
    const most = Math.max(64, 2 * n)
    let repeats = 0
    while (dims[0] * dims[1] * dims[2] > most) {
      const a = dims.indexOf(Math.max(...dims))
      dims[a] = Math.max(4, dims[a] >> 1)
      repeats |= 1 << a
    }
    const cells = dims[0] * dims[1] * dims[2]
    const pointers: [number, number][] = [
      [GRID.cell, cell.room(n * 4 + 16)],
      [GRID.order, order.room(n * 4 + 16)],
      [GRID.start, start.room((cells + 1) * 4)],
      [GRID.hist, hist.room(cells * parts * 4)],
      [GRID.sorted, sorted.room(stride * this.sortedColumns)],
      [GRID.columns, columns.table],
      [GRID.count, n],
      [GRID.parts, parts],
      [GRID.stride, stride],
      [GRID.repeats, repeats],
      [GRID.cells, cells],
    ]
    const v = this.heap.view()
    for (const [at, word] of pointers) v.setUint32(g + at, word, true)
    for (let a = 0; a < 3; a++) {
      v.setFloat32(g + GRID.low + a * 4, low[a], true)
      v.setInt32(g + GRID.dims + a * 4, dims[a], true)
    }
    v.setFloat32(g + GRID.inverse, 1 / width, true)
    const all = parts > 1
    runJob(this.heap, this.host, this.job, this.scratch, { kind: JOB_COUNT_CELLS, record: g, count: parts, chunk: 1, all })
    this.host.exports.sumCells(g)
    runJob(this.heap, this.host, this.job, this.scratch, { kind: JOB_SORT_CELLS, record: g, count: parts, chunk: 1, all })
  }
  /** The particles alone, without cells: for what goes by their order. */
  name(columns: Columns): void {
    const v = this.heap.view()
    v.setUint32(this.record + GRID.columns, columns.table, true)
    v.setUint32(this.record + GRID.count, columns.count, true)
    for (let a = 0; a < 3; a++) v.setInt32(this.record + GRID.dims + a * 4, 1, true)
  }
  dispose(): void {
    for (const b of this.blocks) b.free()
    this.heap.give(this.record)
    this.heap.give(this.job)
  }
}

/**
 * What all systems of one World share at a moment: passes over neighbours, with grids for all that ask for the same radius, and volumes.
 */
export class Neighbourhood {
  readonly volumes: Volumes
  private pool: Grid[] = []
  private used = 0
  private now = new Map<string, Grid>()
  private job: number
  private record: number
  constructor(
    private heap: Heap,
    private host: KernelHost,
    private scratch: number,
  ) {
    this.job = heap.take(JOB.bytes)
    this.record = heap.take(PASS.bytes)
    this.volumes = new Volumes(heap, host, scratch)
  }
  /** Forgets the grids of the moment before; volumes stay while they stay the same. */
  begin(): void {
    this.now.clear()
    this.used = 0
    this.volumes.begin()
  }
  private grid(key: string, make: (g: Grid) => void): Grid {
    const known = this.now.get(key)
    if (known) return known
    if (this.used === this.pool.length) this.pool.push(new Grid(this.heap, this.host, this.scratch))
    const g = this.pool[this.used++]
    make(g)
    this.now.set(key, g)
    return g
  }
  /**
   * Fills `out` for all particles that ask. Bytes from one of its columns to the next come back, and how many had too many neighbours; null
   * when it was asked to stop.
   */
  pass(p: PassWanted, asking: Columns, asked: Columns, key: string, own: boolean, out: Block): { stride: number; crowded: number } | null {
    const n = asking.count
    const stride = Math.ceil((n + 8) / 4) * 16
    const at = out.room(stride * p.columns)
    const radius = Math.min(p.radius, 1e6)
    const grid =
      p.kind === 'ordered' ? this.grid(`${key} all`, (g) => g.name(asked)) : this.grid(`${key} ${radius}`, (g) => g.build(asked, radius))
    const v = this.heap.view()
    const r = this.record
    v.setUint32(r + PASS.grid, grid.record, true)
    v.setUint32(r + PASS.kind, PASSES.indexOf(p.kind), true)
    v.setUint32(r + PASS.out, at, true)
    v.setUint32(r + PASS.stride, stride, true)
    v.setUint32(r + PASS.asking, asking.table, true)
    v.setUint32(r + PASS.count, n, true)
    v.setUint32(r + PASS.own, own && p.kind !== 'ordered' ? 1 : 0, true)
    p.words.forEach((word, i) => v.setFloat32(r + PASS.words + i * 4, word, true))
    return runJob(this.heap, this.host, this.job, this.scratch, { kind: JOB_NEIGHBOURS, record: r, count: n, chunk: CHUNK, all: n > CHUNK })
      ? { stride, crowded: this.heap.view().getUint32(this.job + JOB.crowded, true) }
      : null
  }
  dispose(): void {
    for (const g of this.pool) g.dispose()
    this.pool = []
    this.heap.give(this.job)
    this.heap.give(this.record)
    this.volumes.dispose()
  }
}
