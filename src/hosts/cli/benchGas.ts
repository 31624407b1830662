import { Gas, Heap, SCRATCH } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'
import { type BenchWorld, emptySubstep } from './benchWorld'

export const GAS_CELLS = 128
const DT = 0.1

/**
 * As the native reference: a hot ball in a swirl, in a closed box of 128³ cells of 1 m; one step from the same state each time. `detail`: what
 * cells twice as fine take, of a ball of 40 cells, or of the whole box.
 */
export async function benchGas(threads: number, detail?: 'ball' | 'box'): Promise<BenchWorld> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const n = GAS_CELLS
  let ms = 0
  const timed = (work: () => void) => {
    const start = performance.now()
    work()
    ms += performance.now() - start
  }
  const gas = new Gas(
    { heap, host, scratch: heap.take(SCRATCH.bytes * threads) },
    {
      ...{ id: 'gas', name: 'Gas', seed: 1, voxel: 1, low: [0, 0, 0], size: [n, n, n], open: Array(6).fill(false), burns: false, steps: 1 },
      params: () => ({
        ...{ lift: 12 * 293, weight: 2, vorticity: 0.3, cooling: 0, densityHalf: null, heatHalf: null, dyeHalf: [null, null] },
        ...{ ignition: 0, burnRate: 0, heat: 0, soot: 0, expansion: 0, flameLife: 1 },
      }),
      ...{ feeds: [], forces: [], solids: [] },
      ...(detail ? { detail: { factor: 2, strength: () => 1 } } : {}),
    },
    timed,
  )
  const size = n + 2
  const floats = size * size * size + 16
  const fields = Array.from({ length: 5 }, () => new Float32Array(floats))
  const at = (i: number, j: number, k: number) => 1 + i + (1 + j) * size + (1 + k) * size * size
  for (let k = 0; k < n; k++)
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++) {
        const o = at(i, j, k)
        const [x, y, z] = [i - 64, j - (detail ? 50 : 30), k - 64]
        const far = x * x + y * y + z * z
        fields[3][o] = detail === 'box' || far < (detail ? 1600 : 500) ? 1 : 0
        fields[4][o] = far < 500 ? 1 : 0
        if (i) fields[0][o] = 12 * Math.sin(0.11 * j) * Math.cos(0.07 * k)
        if (j) fields[1][o] = 12 * Math.sin(0.09 * k) * Math.cos(0.08 * i)
        if (k) fields[2][o] = 12 * Math.sin(0.1 * i) * Math.cos(0.12 * j)
      }
  const window = { first: [0, 0, 0], count: [n, n, n] } as const
  const whole = {
    bytes: 0,
    window,
    held: window,
    room: window,
    detail: null,
    plain: false,
    notices: [],
    slots: [0, 1, 2, 3].slice(0, fields.length - 3),
  }
  const substep = emptySubstep(DT)
  gas.restore({ ...whole, fields })
  // The box stays whole: left to itself the window draws in to what is seen of the ball, and the timed step would begin by growing it again.
  for (let q = 0; q < 6; q++) {
    gas.step(substep)
    gas.restore({ ...gas.save(), held: window })
  }
  const state = gas.save()
  return {
    reset: () => gas.restore({ ...state, held: window }),
    step: () => {
      ms = 0
      const start = performance.now()
      gas.step(substep)
      return detail ? ms : performance.now() - start
    },
    dispose: () => {
      gas.dispose()
      host.team.dispose()
    },
  }
}
