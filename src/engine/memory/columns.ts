import { COLUMNS, CORE_COLUMNS, type ColumnName, WORD_COLUMNS } from './columnNames'
import type { Allocator } from './heap'

/** Columns in which nothing is not zero: what they are equal to then. */
const NEUTRAL: Partial<Record<ColumnName, ColumnName>> = { phaseFrom: 'phase' }

/** The particle columns of one system in the World's memory, with the table of pointers that kernels read. */
export class Columns {
  readonly table: number
  readonly names: ColumnName[]
  private pointers = new Map<ColumnName, number>()
  capacity = 0
  count = 0

  constructor(
    private heap: Allocator,
    extra: readonly ColumnName[],
  ) {
    this.names = [...CORE_COLUMNS, ...COLUMNS.slice(CORE_COLUMNS.length).filter((c) => extra.includes(c))]
    this.table = heap.take(COLUMNS.length * 4)
  }
  has(name: ColumnName): boolean {
    return this.names.includes(name)
  }
  /** Makes room for `count` particles; all or nothing. Throws MemoryRefused. */
  reserve(count: number): void {
    if (count <= this.capacity) return
    const capacity = Math.ceil(Math.max(count, this.capacity * 1.5, 1024) / 1024) * 1024
    const fresh = new Map<ColumnName, number>()
    try {
      for (const name of this.names) fresh.set(name, this.heap.take(capacity * 4))
    } catch (error) {
      for (const at of fresh.values()) this.heap.give(at)
      throw error
    }
    for (const [name, at] of fresh) {
      const old = this.pointers.get(name)
      if (old !== undefined) {
        this.heap.u32(at, this.count).set(this.heap.u32(old, this.count))
        this.heap.give(old)
      }
      this.pointers.set(name, at)
      this.heap.u32(this.table, COLUMNS.length)[COLUMNS.indexOf(name)] = at
    }
    this.capacity = capacity
  }
  pointer(name: ColumnName): number {
    const at = this.pointers.get(name)
    if (at === undefined) throw new Error(`column ${name} has no room yet`)
    return at
  }
  /** The words of a column, `count` long; take it again after any allocation. */
  words(name: ColumnName): Uint32Array {
    return this.count ? this.heap.u32(this.pointer(name), this.count) : new Uint32Array(0)
  }
  /** The same as floats. */
  floats(name: ColumnName): Float32Array {
    return this.count ? this.heap.f32(this.pointer(name), this.count) : new Float32Array(0)
  }
  /** One number of a particle; 0 where the system has no such column. */
  value(name: ColumnName, i: number): number {
    return this.has(name) ? (WORD_COLUMNS.has(name) ? this.words(name)[i] : this.floats(name)[i]) : 0
  }
  /** Nothing in the columns beyond the core for some particles: newborns take the room of the dead, who left theirs. */
  clear(first: number, count: number): void {
    for (const name of this.names.slice(CORE_COLUMNS.length)) this.words(name).fill(0, first, first + count)
  }
  /** All columns one behind the other. */
  save(): Uint32Array {
    const out = new Uint32Array(this.count * this.names.length)
    this.names.forEach((name, i) => out.set(this.words(name), i * this.count))
    return out
  }
  /** `names`: the columns that were saved. One that was not there then holds nothing. */
  restore(words: Uint32Array, names: readonly ColumnName[] = this.names): void {
    const count = words.length / names.length
    this.count = 0
    this.reserve(count)
    this.count = count
    for (const name of this.names) {
      const k = names.indexOf(name)
      if (k >= 0) this.words(name).set(words.subarray(k * count, (k + 1) * count))
      else this.words(name).set(NEUTRAL[name] ? this.words(NEUTRAL[name]) : new Uint32Array(count))
    }
  }
  dispose(): void {
    for (const at of this.pointers.values()) this.heap.give(at)
    this.pointers.clear()
    this.heap.give(this.table)
  }
}
