import { type Allocator, GAS, LEVEL, writeRecord } from '../memory'
import type { Field, Fields } from './fields'

/** Runs a step of the kernels over so many rows, planes or slabs. */
export type RunStep = (step: 'relax' | 'seam' | 'restrict' | 'prolong' | 'worst' | 'weigh' | 'faces', count: number, chunk: number) => void

interface Level {
  dims: readonly number[]
  record: number
  floats: number
  pressure: Field
  right: Field
  inverse: Field
  /** Floats before its first cell. */
  first: number
  faces: Field[]
  slabs: number
}
/** Divergence is taken down to this share of what there was; and cycles that it may take: behind what is solid they get slow. */
const ENOUGH = 0.95e-3
const MOST_CYCLES = 24
const LAST_SWEEPS = 24
/** Planes that one thread relaxes in a go, at most; they are shared out in even numbers. Of fewer cells than this one thread does all. */
const SLAB = 16
const FEW = 16384

/** The grids of the pressure, each half as fine as the one before, down to the last that halves evenly. */
export class Pressure {
  private levels: Level[] = []
  private table: number
  cycles = 0

  constructor(
    private heap: Allocator,
    private fields: Fields,
    private record: number,
    private run: RunStep,
  ) {
    this.table = heap.take(4 * Math.max(64, fields.window.count[2]))
    let dims: readonly number[] = fields.window.count
    while (true) {
      this.levels.push(this.level(dims, this.levels.length))
      if (dims.some((n) => n % 2) || Math.min(...dims) <= 4) break
      dims = dims.map((n) => n / 2)
    }
    this.levels.forEach((l, i) => {
      const coarser = this.levels[i + 1]?.record ?? 0
      writeRecord(heap.view(), l.record, LEVEL, { coarser })
    })
  }
  private take(floats: number, first: number): Field {
    const at = this.heap.take(floats * 4)
    return { at, first: at + first * 4 }
  }
  private level(dims: readonly number[], nth: number): Level {
    const [nx, ny, nz] = dims
    const row = nx + 2
    const slab = row * (ny + 2)
    const floats = slab * (nz + 2) + 16
    const take = () => this.take(floats, 1 + row + slab)
    const l: Level = {
      ...{ dims, record: this.heap.take(LEVEL.bytes), floats, pressure: take(), right: take(), inverse: take() },
      ...{ first: 1 + row + slab, faces: [], slabs: nx * ny * nz < FEW ? 1 : 2 * Math.ceil(nz / (2 * SLAB)) },
    }
    writeRecord(
      this.heap.view(),
      l.record,
      LEVEL,
      { dims, row, slab, pressure: l.pressure.first, right: l.right.first, inverse: l.inverse.first, fluid: 0 },
      { thick: Math.ceil(nz / l.slabs), sweeps: 1, coarser: 0 }, // From the middle of a cell 2ⁿ wide to half a finest one beyond its side; and the line through that of the coarser cell there.
      { edge: 2 ** (nth + 1) / (2 ** nth + 1), beyond: (4 * (2 ** nth + 1)) / (2 ** (nth + 1) + 1) - 3 },
    )
    return l
  }
  private at(l: Level): void {
    writeRecord(this.heap.view(), this.record, GAS, { level: l.record })
  }
  /** Begins with the finest grid: what divergence is written to, with the largest of each plane in the table. */
  begin(): void {
    this.at(this.levels[0])
    writeRecord(this.heap.view(), this.record, GAS, { table: this.table })
  }
  /** No pressure, so that a projection only puts what is solid in its place. */
  rest(): void {
    const l = this.levels[0]
    this.heap.f32(l.pressure.at, l.floats).fill(0)
    this.at(l)
  }
  /** Counts the neighbours of every cell, anew when something solid has moved. */
  weigh(): void {
    const { fluid } = this.fields
    this.levels.forEach((l, i) => {
      if (fluid && i > 0 && !l.faces.length) l.faces = [0, 1, 2].map(() => this.take(l.floats, l.first))
      const faces = fluid && i > 0 ? l.faces.map((f) => f.first) : [0, 0, 0]
      const finer = this.levels[i - 1]?.record ?? 0
      writeRecord(this.heap.view(), l.record, LEVEL, { fluid: i === 0 && fluid ? fluid.first : 0, faces, finer })
      this.at(l)
      if (faces[0]) this.run('faces', l.dims[2], 4)
      this.run('weigh', l.dims[2], 4)
    })
    this.at(this.levels[0])
  }
  /** Solves for the right side that stands in the finest grid. Returns what is left of it, as a share. */
  solve(): number {
    const finest = this.levels[0]
    const start = this.largest(finest)
    let now = start
    for (this.cycles = 0; now > ENOUGH * start && this.cycles < MOST_CYCLES; this.cycles++) {
      this.cycle(0)
      now = this.worst(finest)
    }
    this.at(finest)
    return start > 0 ? now / start : 0
  }
  private worst(l: Level): number {
    this.at(l)
    writeRecord(this.heap.view(), this.record, GAS, { table: this.table })
    this.run('worst', l.dims[2], 4)
    return this.largest(l)
  }
  private largest(l: Level): number {
    return this.heap.f32(this.table, l.dims[2]).reduce((a, b) => Math.max(a, b), 0)
  }
  private relax(l: Level, sweeps: number): void {
    this.at(l)
    if (l.slabs === 1) {
      writeRecord(this.heap.view(), l.record, LEVEL, { sweeps })
      this.run('relax', 1, 1)
      return
    }
    for (let n = 0; n < sweeps; n++) {
      this.run('relax', l.slabs, 1)
      this.run('seam', l.slabs, 1)
    }
  }
  private cycle(i: number): void {
    const l = this.levels[i]
    const coarser = this.levels[i + 1]
    if (!coarser) {
      this.relax(l, LAST_SWEEPS)
      return
    }
    this.relax(l, 2)
    this.run('restrict', coarser.dims[2], 4)
    this.cycle(i + 1)
    this.at(l)
    this.run('prolong', l.dims[2], 4)
    this.relax(l, 2)
  }
  dispose(): void {
    for (const l of this.levels) {
      for (const f of [l.pressure, l.right, l.inverse, ...l.faces]) this.heap.give(f.at)
      this.heap.give(l.record)
    }
    this.heap.give(this.table)
    this.levels = []
  }
}
