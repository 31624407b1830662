import { MemoryRefused } from './errors'
import { HEAP_START } from './layout'

const PAGE = 65536
const ALIGN = 64

/** Where blocks of the World's memory come from. Views must be taken again after any `take`. */
export interface Allocator {
  readonly memory: WebAssembly.Memory
  readonly usedBytes: number
  /** A zeroed block, 64-byte aligned. Throws MemoryRefused. */
  take(bytes: number): number
  give(at: number): void
  f32(at: number, count: number): Float32Array
  u32(at: number, count: number): Uint32Array
  view(): DataView
}
/** Freeable blocks in one WebAssembly.Memory, first fit, neighbours joined. */
export class Heap implements Allocator {
  private free: { at: number; bytes: number }[]
  private taken = new Map<number, number>()
  usedBytes = 0
  peakBytes = 0
  /** Of the whole memory, until that grows: to ask for its buffer and make a view takes a third of a microsecond. */
  private held: DataView | null = null

  constructor(
    readonly memory: WebAssembly.Memory,
    readonly limitBytes: number,
  ) {
    this.free = [{ at: HEAP_START, bytes: memory.buffer.byteLength - HEAP_START }]
  }
  take(bytes: number): number {
    const size = Math.max(ALIGN, Math.ceil(bytes / ALIGN) * ALIGN)
    let i = this.free.findIndex((f) => f.bytes >= size)
    if (i < 0) {
      this.grow(size)
      i = this.free.findIndex((f) => f.bytes >= size)
    }
    const f = this.free[i]
    const at = f.at
    if (f.bytes === size) this.free.splice(i, 1)
    else this.free[i] = { at: at + size, bytes: f.bytes - size }
    this.taken.set(at, size)
    this.usedBytes += size
    this.peakBytes = Math.max(this.peakBytes, this.usedBytes)
    new Uint8Array(this.memory.buffer, at, size).fill(0)
    return at
  }
  private grow(size: number): void {
    const last = this.free[this.free.length - 1]
    const end = this.memory.buffer.byteLength
    const tail = last && last.at + last.bytes === end ? last.bytes : 0
    const pages = Math.ceil((size - tail) / PAGE)
    if (end + pages * PAGE > this.limitBytes) throw new MemoryRefused(size, this.limitBytes)
    this.held = null
    try {
      this.memory.grow(pages)
    } catch {
      throw new MemoryRefused(size, end)
    }
    if (tail) last.bytes += pages * PAGE
    else this.free.push({ at: end, bytes: pages * PAGE })
  }
  give(at: number): void {
    const size = this.taken.get(at)
    if (size === undefined) throw new Error(`no block at ${at}`)
    this.taken.delete(at)
    this.usedBytes -= size
    let i = this.free.findIndex((f) => f.at > at)
    if (i < 0) i = this.free.length
    this.free.splice(i, 0, { at, bytes: size })
    const next = this.free[i + 1]
    if (next && at + size === next.at) {
      this.free[i].bytes += next.bytes
      this.free.splice(i + 1, 1)
    }
    const before = this.free[i - 1]
    if (before && before.at + before.bytes === at) {
      before.bytes += this.free[i].bytes
      this.free.splice(i, 1)
    }
  }
  f32(at: number, count: number): Float32Array {
    return new Float32Array(this.view().buffer, at, count)
  }
  u32(at: number, count: number): Uint32Array {
    return new Uint32Array(this.view().buffer, at, count)
  }
  view(): DataView {
    this.held ??= new DataView(this.memory.buffer)
    return this.held
  }
}
