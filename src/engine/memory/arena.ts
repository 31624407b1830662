import type { Allocator } from './heap'

/** Blocks of a heap that belong to one owner: it knows how many bytes they are, and gives all of them back at once. */
export class Arena implements Allocator {
  private taken = new Map<number, number>()
  usedBytes = 0
  constructor(private heap: Allocator) {}
  get memory(): WebAssembly.Memory {
    return this.heap.memory
  }
  take(bytes: number): number {
    const before = this.heap.usedBytes
    const at = this.heap.take(bytes)
    const size = this.heap.usedBytes - before
    this.taken.set(at, size)
    this.usedBytes += size
    return at
  }
  give(at: number): void {
    const size = this.taken.get(at)
    if (size === undefined) throw new Error(`no block of this owner at ${at}`)
    this.taken.delete(at)
    this.usedBytes -= size
    this.heap.give(at)
  }
  f32(at: number, count: number): Float32Array {
    return this.heap.f32(at, count)
  }
  u32(at: number, count: number): Uint32Array {
    return this.heap.u32(at, count)
  }
  view(): DataView {
    return this.heap.view()
  }
  /** Gives everything back; safe to call twice. */
  dispose(): void {
    for (const at of this.taken.keys()) this.heap.give(at)
    this.taken.clear()
    this.usedBytes = 0
  }
}
