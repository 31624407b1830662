import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { HEAP_START, Heap, MemoryRefused } from '..'

const MB = 1024 * 1024
const heap = (limit = 8 * MB) => new Heap(new WebAssembly.Memory({ initial: 1, maximum: 1024 }), limit)

describe('the heap', () => {
  it('never hands out overlapping blocks and takes all of them back (fuzzed against a plain list)', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(fc.integer({ min: 1, max: 60000 }), fc.constant(-1)), { minLength: 1, maxLength: 120 }), (script) => {
        const h = heap(64 * MB)
        const live: { at: number; bytes: number }[] = []
        script.forEach((bytes, i) => {
          if (bytes < 0) {
            const gone = live.splice(i % Math.max(1, live.length), 1)[0]
            if (gone) h.give(gone.at)
            return
          }
          const at = h.take(bytes)
          expect(at % 64).toBe(0)
          expect(at).toBeGreaterThanOrEqual(HEAP_START)
          for (const b of live) expect(at + bytes <= b.at || b.at + b.bytes <= at).toBe(true)
          live.push({ at, bytes })
        })
        for (const b of live) h.give(b.at)
        expect(h.usedBytes).toBe(0)
        const all = h.memory.buffer.byteLength - HEAP_START
        expect(h.take(all - 63)).toBe(HEAP_START)
      }),
      { numRuns: 60 },
    )
  })
  it('hands out zeros, also where something else was', () => {
    const h = heap()
    const a = h.take(256)
    h.u32(a, 64).fill(7)
    h.give(a)
    expect([...h.u32(h.take(256), 64)]).toEqual(new Array(64).fill(0))
  })
  it('refuses beyond its limit with both numbers, and goes on', () => {
    const h = heap(2 * MB)
    const a = h.take(MB)
    expect(() => h.take(4 * MB)).toThrow(MemoryRefused)
    expect(() => h.take(4 * MB)).toThrow(/4 MB more: the limit is 2 MB/)
    h.give(a)
    expect(h.take(MB)).toBe(a)
  })
  it('remembers its peak', () => {
    const h = heap()
    h.give(h.take(3 * MB))
    h.take(64)
    expect(h.peakBytes).toBe(3 * MB)
    expect(h.usedBytes).toBe(64)
  })
  it('a block given twice is our own mistake and throws', () => {
    const h = heap()
    const a = h.take(10)
    h.give(a)
    expect(() => h.give(a)).toThrow(/no block/)
  })
})
