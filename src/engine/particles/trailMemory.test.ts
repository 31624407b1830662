import { describe, expect, it } from 'vitest'
import { Heap, MemoryRefused } from '../memory'
import { TrailMemory } from './trailMemory'

const MB = 1 << 20
/** Trails that drift and turn, on a heap that refuses memory once `allowed.takes` blocks have been taken. */
function trails(count: number) {
  const heap = new Heap(new WebAssembly.Memory({ initial: 64, maximum: 1024, shared: true }), 64 * MB)
  const take = heap.take.bind(heap)
  const allowed = { takes: Number.POSITIVE_INFINITY }
  heap.take = (bytes) => {
    if (allowed.takes-- <= 0) throw new MemoryRefused(bytes, 64 * MB)
    return take(bytes)
  }
  const own = new TrailMemory(heap, true, true)
  own.follow(count)
  own.makeRoom(count)
  own.begin(
    Array.from({ length: count }, (_, row) => row),
    () => 1,
  )
  return { heap, own, allowed }
}

describe('the memory of trails', () => {
  it('does not grow when a state is restored again and again', () => {
    const { heap, own } = trails(300)
    const saved = own.save()
    own.restore(saved)
    const used = heap.usedBytes
    for (let k = 0; k < 5; k++) own.restore(saved)
    expect(heap.usedBytes).toBe(used)
    expect(own.save()).toEqual(saved)
  })
  for (const given of [0, 1, 2])
    it(`stays as it was when memory is refused after ${given} of the three kinds of ring`, () => {
      const { heap, own, allowed } = trails(300)
      const before = { used: heap.usedBytes, ring: own.ring, at: [own.rings, own.velocities, own.normals] }
      allowed.takes = given
      expect(() => own.lengthen()).toThrow(MemoryRefused)
      expect({ used: heap.usedBytes, ring: own.ring, at: [own.rings, own.velocities, own.normals] }).toEqual(before)
    })
  it('doubles the rings of places, velocities and normals together', () => {
    const { heap, own } = trails(300)
    const [used, { ring }] = [heap.usedBytes, own]
    own.lengthen()
    expect(own.ring).toBe(2 * ring)
    // Sixteen bytes a point, three times, of the places that there are.
    expect((heap.usedBytes - used) % (ring * 16 * 3)).toBe(0)
    expect(heap.usedBytes).toBeGreaterThanOrEqual(used + 300 * ring * 16 * 3)
  })
})
