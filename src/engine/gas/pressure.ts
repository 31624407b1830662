import { type Allocator, GAS, LEVEL, writeRecord } from '../memory'
import type { Field, Fields } from './fields'

/** Runs a step of the kernels over so many rows, planes or slabs. */
export type RunStep = (step: 'relax' | 'seam' | 'restrict' | 'prolong' | 'worst' | 'weigh', count: number, chunk: number) => void

interface Level {
  dims: readonly number[]
  record: number
  floats: number
  pressure: Field
  right: Field
  inverse: Field
  fluid: Field | null
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
  private level(dims: readonly number[], nth: number): Level {
    const [nx, ny, nz] = dims
    const row = nx + 2
    const slab = row * (ny + 2)
    const floats = slab * (nz + 2) + 16
    const take = (): Field => {
      const at = this.heap.take(floats * 4)
      return { at, first: at + (1 + row + slab) * 4 }
    }
    const l: Level = {
      ...{ dims, record: this.heap.take(LEVEL.bytes), floats, pressure: take(), right: take(), inverse: take() },
      ...{ fluid: null, slabs: nx * ny * nz < FEW ? 1 : 2 * Math.ceil(nz / (2 * SLAB)) },
    }
    writeRecord(this.heap.view(), l.record, LEVEL, {
      ...{ dims, row, slab, pressure: l.pressure.first, right: l.right.first, inverse: l.inverse.first, fluid: 0 },
      ...{ thick: Math.ceil(nz / l.slabs), sweeps: 1, coarser: 0 },
      // From the middle of a cell 2ⁿ wide to half a finest one beyond its side; and the line through that of the coarser cell there.
      ...{ edge: 2 ** (nth + 1) / (2 ** nth + 1), beyond: (4 * (2 ** nth + 1)) / (2 ** (nth + 1) + 1) - 3 },
    })
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
      if (fluid) {
        if (i === 0) l.fluid = fluid
        else l.fluid = this.coarser(this.levels[i - 1], l)
      }
      writeRecord(this.heap.view(), l.record, LEVEL, { fluid: l.fluid?.first ?? 0 })
      this.at(l)
      this.run('weigh', l.dims[2], 4)
    })
    this.at(this.levels[0])
  }
  /** A coarse cell holds gas where one of its eight does. */
  private coarser(fine: Level, l: Level): Field {
    const [nx, ny, nz] = l.dims
    const row = nx + 2
    const slab = row * (ny + 2)
    const at = l.fluid?.at ?? this.heap.take(l.floats * 4)
    const out = this.heap.f32(at, l.floats)
    out.fill(1)
    const from = this.heap.f32((fine.fluid as Field).at, fine.floats)
    const fRow = 2 * nx + 2
    const fSlab = fRow * (2 * ny + 2)
    for (let k = 0; k < nz; k++)
      for (let j = 0; j < ny; j++)
        for (
          let i = 0, o = 1 + (j + 1) * row + (k + 1) * slab, p = 1 + (2 * j + 1) * fRow + (2 * k + 1) * fSlab;
          i < nx;
          i++, o++, p += 2
        ) {
          const a = from[p] + from[p + 1] + from[p + fRow] + from[p + fRow + 1]
          const b = from[p + fSlab] + from[p + fSlab + 1] + from[p + fSlab + fRow] + from[p + fSlab + fRow + 1]
          out[o] = a + b > 0 ? 1 : 0
        }
    return { at, first: at + (1 + row + slab) * 4 }
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
    for (const [i, l] of this.levels.entries()) {
      for (const f of [l.pressure, l.right, l.inverse]) this.heap.give(f.at)
      if (i > 0 && l.fluid) this.heap.give(l.fluid.at)
      this.heap.give(l.record)
    }
    this.heap.give(this.table)
    this.levels = []
  }
}
