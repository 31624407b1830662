import { Asker, Heap, SCRATCH } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'
import { type BenchWorld, inCube, xorshift } from './benchWorld'

/** As in the native reference: particles in a cube, seen from outside, in an order that has nothing to do with their depths. */
export async function benchSort(count: number, threads: number): Promise<BenchWorld> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const asker = new Asker({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  const random = xorshift()
  const [x, y, z] = [0, 1, 2].map(() => new Float32Array(count))
  for (let i = 0; i < count; i++) [x[i], y[i], z[i]] = inCube(i, random).p
  const places = { x, y, z }
  return {
    reset: () => {},
    step() {
      asker.order(places, [3, 2, 4], [-0.557, -0.371, -0.743])
      return undefined
    },
    dispose: () => host.team.dispose(),
  }
}
