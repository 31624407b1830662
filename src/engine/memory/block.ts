import type { Allocator } from './heap'

/** A block that grows. */
export class Block {
  at = 0
  private bytes = 0
  constructor(private heap: Allocator) {}
  /** Room for so many bytes; what was there is gone when it grew. */
  reserve(bytes: number): number {
    if (bytes > this.bytes) {
      this.free()
      this.bytes = Math.ceil(bytes * 1.25)
      this.at = this.heap.take(this.bytes)
    }
    return this.at
  }
  free(): void {
    if (this.at) this.heap.give(this.at)
    this.at = this.bytes = 0
  }
}
