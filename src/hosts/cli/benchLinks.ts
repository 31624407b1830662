import { Columns, Heap, Links, type LinksOf, Neighbourhood, SCRATCH } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'
import { type BenchWorld, emptySubstep, inCube, xorshift } from './benchWorld'

/** As in the native reference: so many points in a cube, about 10 within the radius, at most 6 links each; found anew in every step. */
export const LINKED = 50_000
export async function benchLinks(threads: number): Promise<BenchWorld> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const machine = { heap, host, scratch: heap.take(SCRATCH.bytes * threads) }
  const near = new Neighbourhood('bench', machine)
  const columns = new Columns(heap, [])
  columns.reserve(LINKED)
  columns.count = LINKED
  const random = xorshift()
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((c) => columns.floats(c))
  const ids = columns.words('id')
  for (let i = 0; i < LINKED; i++) {
    ;[x[i], y[i], z[i]] = inCube(i, random).p
    ids[i] = i
  }
  const stats = { alive: 0, born: 0, died: 0, contacts: 0, with: {} }
  const system: LinksOf = { id: 'bench', element: 'bench', columns, followers: [], stats }
  // Ten in a ball of that radius.
  const distance = Math.cbrt(10 / (LINKED * (4 / 3) * Math.PI))
  const params = { distance, most: 6, fadeIn: 0.2, fadeOut: 0.2, stretch: null, glitch: null }
  const plan = { id: 'links', name: 'Links', seed: 1, share: 1, system: -1, frameSeconds: 1 / 24, params: () => params }
  const links = new Links(machine, plan, system, system, near)
  const substep = emptySubstep(1 / 24)
  return {
    reset: () => {},
    step() {
      near.prepare()
      links.beginFrame()
      links.step(substep)
      return undefined
    },
    dispose: () => host.team.dispose(),
  }
}
