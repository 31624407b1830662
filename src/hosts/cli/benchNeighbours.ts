import { Block, Columns, Heap, Neighbourhood, SCRATCH } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'
import { thirty } from './benchPlan'
import { type BenchWorld, inCube, xorshift } from './benchWorld'

/** Counting the neighbours of points in a cube, about 30 each: the grid is rebuilt in every step, as in the native reference. */
export async function benchNeighbours(count: number, threads: number): Promise<BenchWorld> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const near = new Neighbourhood('bench', { heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  const columns = new Columns(heap, [])
  columns.reserve(count)
  columns.count = count
  const random = xorshift()
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((c) => heap.f32(columns.pointer(c), count))
  for (let i = 0; i < count; i++) [x[i], y[i], z[i]] = inCube(i, random).p
  const out = new Block(heap)
  const r = thirty(count)
  return {
    reset: () => {},
    step() {
      near.prepare()
      near.pass({ kind: 'counting', system: -1, radius: r, words: [r * r], columns: 1, at: 0 }, columns, columns, 'own', out)
    },
    dispose: () => host.team.dispose(),
  }
}
