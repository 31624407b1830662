import type { Allocator } from '../memory'

/** Copies numbers into a block of their own. */
export function copyIn(heap: Allocator, data: Float32Array | Uint32Array): number {
  const at = heap.take(Math.max(4, data.byteLength))
  // As words: some bits would not be numbers as floats, and a copy may change those.
  heap.u32(at, data.length).set(new Uint32Array(data.buffer, data.byteOffset, data.length))
  return at
}
