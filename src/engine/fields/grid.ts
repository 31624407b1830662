import { Block, type Columns, GRID, GRID_COLUMNS, JOB, type Machine, runJob, writeRecord } from '../memory'

/** Cells are this much wider than the radius, so that rounding cannot hide a neighbour. */
const WIDER = 1.0001
/** Fewer particles than this are sorted on one thread. */
const FEW = 16384

/** Who is near whom among the particles of one system at one moment. Blocks are kept from moment to moment. */
export class Grid {
  readonly record: number
  private job: number
  private cell: Block
  private order: Block
  private start: Block
  private hist: Block
  private sorted: Block
  constructor(
    private machine: Machine,
    private sortedColumns = GRID_COLUMNS,
  ) {
    const { heap } = machine
    this.record = heap.take(GRID.bytes)
    this.job = heap.take(JOB.bytes)
    ;[this.cell, this.order, this.start, this.hist, this.sorted] = Array.from({ length: 5 }, () => new Block(heap))
  }
  /**
   * Builds it over all particles for neighbours up to a radius in metres; `velocities`: with copies of these, too. Throws MemoryRefused, and
   * Stopped.
   */
  build(columns: Columns, radius: number, velocities = true): void {
    const { heap, host } = this.machine
    const n = columns.count
    const g = this.record
    const stride = Math.ceil((n + 8) / 4) * 16
    const parts = n > FEW ? host.team.threads : 1
    // The box of all: low corner, then high, for a moment where the pointers go.
    const low = [0, 0, 0]
    const high = [0, 0, 0]
    if (n) {
      host.exports.spanOf(columns.table, n, g)
      const box = heap.f32(g, 6)
      low.splice(0, 3, ...box.subarray(0, 3))
      high.splice(0, 3, ...box.subarray(3, 6))
    }
    const width = Math.max(radius * WIDER, 1e-9)
    const dims = low.map((l, a) => Math.min(1 << 24, Math.floor((high[a] - l) / width) + 1))
    const maxCells = Math.max(64, 2 * n)
    let repeats = 0
    while (dims[0] * dims[1] * dims[2] > maxCells) {
      const a = dims.indexOf(Math.max(...dims))
      dims[a] = Math.max(4, dims[a] >> 1)
      repeats |= 1 << a
    }
    const cells = dims[0] * dims[1] * dims[2]
    const blocks = {
      cell: this.cell.reserve(n * 4 + 16),
      order: this.order.reserve(n * 4 + 16),
      start: this.start.reserve((cells + 1) * 4),
      hist: this.hist.reserve(cells * parts * 4),
      sorted: this.sorted.reserve(stride * this.sortedColumns),
    }
    const shape = { count: n, parts, stride, repeats, cells, low, dims, inverse: 1 / width, velocities: velocities ? 1 : 0 }
    writeRecord(heap.view(), g, GRID, blocks, shape, { columns: columns.table })
    const all = parts > 1
    runJob(this.machine, this.job, { kind: 'countCells', record: g, count: parts, chunk: 1, all })
    host.exports.sumCells(g)
    runJob(this.machine, this.job, { kind: 'sortCells', record: g, count: parts, chunk: 1, all })
  }
  /** The particles alone, without cells: for what goes by their order. */
  list(columns: Columns): void {
    writeRecord(this.machine.heap.view(), this.record, GRID, { columns: columns.table, count: columns.count, dims: [1, 1, 1] })
  }
  /** One of the sorted columns. */
  column(i: number, count: number): Float32Array {
    const { heap } = this.machine
    const v = heap.view()
    const stride = v.getUint32(this.record + GRID.stride, true)
    return heap.f32(v.getUint32(this.record + GRID.sorted, true) + i * stride, count)
  }
  dispose(): void {
    for (const b of [this.cell, this.order, this.start, this.hist, this.sorted]) b.free()
    this.machine.heap.give(this.record)
    this.machine.heap.give(this.job)
  }
}
