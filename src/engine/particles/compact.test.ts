import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { Block, Columns, Heap, JOB } from '../memory'
import { compact } from './compact'

/** Numbers from 0 to 1 that are the same in each run. */
function random(seed: number): () => number {
  let s = seed
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0
    return s / 2 ** 32
  }
}
describe('the living', () => {
  for (const threads of [1, 3])
    it(`move to the front in their order, whoever dies, on ${threads} thread${threads > 1 ? 's' : ''}`, async () => {
      const host = await nodeKernels({ threads })
      try {
        const heap = new Heap(host.memory, 1 << 28)
        const machine = { heap, host, scratch: 0 }
        const job = heap.take(JOB.bytes)
        const map = new Block(heap)
        const r = random(7)
        // Few, around whole vectors, and so many that all threads take part.
        for (const count of [1, 3, 4, 15, 16, 17, 63, 64, 65, 1000, 20_001])
          for (const share of [0.001, 0.01, 0.3, 0.9, 0.999]) {
            const columns = new Columns(heap, [])
            columns.reserve(count)
            columns.count = count
            for (const name of columns.names) {
              const words = columns.words(name)
              for (let i = 0; i < count; i++) words[i] = name === 'dead' ? (r() < share ? 1 : 0) : Math.floor(r() * 2 ** 32)
            }
            const before = new Map(columns.names.map((name) => [name, columns.words(name).slice()]))
            const dead = columns.words('dead').slice()
            compact(
              machine,
              job,
              columns,
              dead.reduce((n, d) => n + d, 0),
              map,
            )
            for (const [name, words] of before) expect([...columns.words(name)]).toEqual([...words.filter((_, i) => !dead[i])])
            columns.dispose()
          }
      } finally {
        host.team.dispose()
      }
    })
})
