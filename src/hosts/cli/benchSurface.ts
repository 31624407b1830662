import { evenSphere, Heap, type Mesh, type Plan, type PlanObject, Surface, World } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'

/** 200,000 triangles: a ball of even ones. */
const CUTS = 100
const BIRTHS = 1 << 20
const POINTS = 1 << 20

export interface SurfaceLine {
  kernel: string
  triangles: number
  [figure: string]: string | number
}
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1]
const round = (v: number): number => Number(v.toFixed(v < 10 ? 2 : 1))
/** Another shape at every time: the ball breathes along Y. */
const breathing =
  (mesh: Mesh) =>
  (t: number): Float32Array => {
    const k = Math.fround(1 + 0.2 * (t - Math.floor(t)))
    const out = new Float32Array(mesh.positions.length)
    for (let i = 0; i < out.length; i += 3) {
      out[i] = mesh.positions[i]
      out[i + 1] = mesh.positions[i + 1] * k
      out[i + 2] = mesh.positions[i + 2]
    }
    return out
  }
/**
 * What a source and collider of many triangles costs on one thread: building its hierarchy, fitting it to another shape, births on it while
 * it changes, and insides. Medians.
 */
export async function benchSurface(rounds = 7): Promise<SurfaceLine[]> {
  const mesh = evenSphere(1, CUTS)
  const triangles = mesh.indices.length / 3
  const shape = breathing(mesh)
  const host = await nodeKernels({ threads: 1 })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const time = (run: () => void): number => {
    const start = performance.now()
    run()
    return performance.now() - start
  }
  const build: number[] = []
  for (let i = 0; i < rounds; i++) {
    const s = new Surface(heap, mesh, host.exports)
    build.push(time(() => s.forCast()))
    s.dispose()
  }
  const fit: number[] = []
  const moved = new Surface(heap, mesh, host.exports, true)
  moved.forCast()
  for (let i = 0; i < rounds * 2; i++) {
    moved.move(i * 0.01, i * 0.01 + 0.005, shape)
    fit.push(time(() => moved.forCast()))
  }
  moved.dispose()
  const inside: number[] = []
  const s = new Surface(heap, mesh, host.exports)
  const cast = s.forCast()
  const [stack, hit] = [heap.take(8192), heap.take(512)]
  let found = 0
  for (let i = 0; i < 3; i++) {
    let state = 0x9e3779b9
    const random = () => {
      state ^= state << 13
      state >>>= 0
      state ^= state >>> 17
      state ^= state << 5
      state >>>= 0
      return (state >>> 8) / 8388608 - 1
    }
    found = 0
    inside.push(
      time(() => {
        for (let k = 0; k < POINTS; k++)
          found += host.exports.insideMesh(cast.nodes, cast.leaves, random(), random(), random(), 12, stack, hit) ? 1 : 0
      }),
    )
  }
  for (const at of [stack, hit]) heap.give(at)
  s.dispose()
  host.team.dispose()

  // Births in a World of its own: all that belongs to them, the areas of the changed shape too, and their first step.
  const births: number[] = []
  const object: PlanObject = {
    id: 'ball',
    mesh,
    endless: false,
    matrix: (_t, out) => {
      out.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0])
      return out
    },
    shape,
  }
  const plan: Plan = {
    rate: { num: 24, den: 1 },
    first: 0,
    last: 1e6,
    substeps: 1,
    objects: [object],
    systems: [
      {
        id: 'bench',
        name: 'bench',
        seed: 1,
        limit: BIRTHS * 2,
        life: () => [0.001, 0],
        forces: [],
        contacts: [],
        extraColumns: [],
        births: [
          {
            id: 'all',
            seed: 2,
            due: (t0, t1) => [{ count: BIRTHS, at: 0, spacing: (t1 - t0) / BIRTHS }],
            params: () => ({
              source: 0,
              part: '',
              on: 'faces',
              along: 'normal',
              direction: [0, 1, 0],
              spreadTurns: 0.1,
              speed: 1,
              speedVary: 0.5,
              inherit: 0.5,
            }),
          },
        ],
      },
    ],
  }
  const own = await nodeKernels({ threads: 1 })
  const world = new World(own, plan, WORLD_BYTES)
  for (let i = 0; i <= rounds; i++) {
    const ms = time(() => world.step())
    if (i > 0) births.push(ms)
  }
  world.dispose()
  own.team.dispose()
  return [
    { kernel: 'build', triangles, ms: round(median(build)) },
    { kernel: 'refit', triangles, ms: round(median(fit)) },
    { kernel: 'births', triangles, births: BIRTHS, ms: round(median(births)), millions_a_second: round(BIRTHS / median(births) / 1000) },
    {
      kernel: 'inside',
      triangles,
      points: POINTS,
      inside: found,
      ms: round(median(inside)),
      ns_a_point: round((median(inside) * 1e6) / POINTS),
    },
  ]
}
