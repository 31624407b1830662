import { describe, expect, it } from 'vitest'
import { Arena, Heap } from '..'

describe('an arena', () => {
  it('knows what is its own, and gives all of it back at once', () => {
    const heap = new Heap(new WebAssembly.Memory({ initial: 1, maximum: 64 }), 4 * 1024 * 1024)
    const [mine, yours] = [new Arena(heap), new Arena(heap)]
    const a = mine.take(1000)
    mine.take(5000)
    yours.take(300)
    expect([mine.usedBytes, yours.usedBytes]).toEqual([1024 + 5056, 320])
    mine.give(a)
    expect(() => mine.give(a)).toThrow()
    expect(() => yours.give(a)).toThrow()
    expect(mine.usedBytes + yours.usedBytes).toBe(heap.usedBytes)
    mine.dispose()
    mine.dispose()
    expect([mine.usedBytes, heap.usedBytes]).toEqual([0, 320])
  })
  it('lies in another arena, whose bytes then hold its own', () => {
    const heap = new Heap(new WebAssembly.Memory({ initial: 1, maximum: 64 }), 4 * 1024 * 1024)
    const outer = new Arena(heap)
    const inner = new Arena(outer)
    inner.take(640)
    outer.take(64)
    expect([inner.usedBytes, outer.usedBytes, heap.usedBytes]).toEqual([640, 704, 704])
    outer.dispose()
    expect(heap.usedBytes).toBe(0)
  })
})
