import {
  COLUMNS,
  compose,
  type ForcePlan,
  identity,
  type MeetParams,
  type Mesh,
  type Plan,
  type PlanSystem,
  particleStateOf,
  type Substep,
  World,
} from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'

export interface BenchWorld {
  /** Back to the starting state; not timed. */
  reset(): void
  /** One substep for all particles. May say itself how long it took, ms, where a part of it does not count. */
  step(): number | undefined
  dispose(): void
}
type Start = (i: number, random: () => number) => { p: [number, number, number]; v: [number, number, number] }
export interface BenchOptions {
  count: number
  threads: number
  forces: ForcePlan[]
  life: number
  dt: number
  mesh?: Mesh
  /** It goes and turns. */
  moving?: boolean
  /** Met by a grid of distances with so many cells. */
  cells?: number
  /** Nobody bounces off the mesh: it is only gone after. */
  target?: boolean
  extraColumns?: PlanSystem['extraColumns']
  meet?: MeetParams
  /** A floor without an end at y = 0. */
  floor?: boolean
  start?: Start
  /** They stand in so many phases by turns, and go from one to another. */
  phases?: number
  turns?: PlanSystem['turns']
}
export function xorshift(): () => number {
  let s = 0x9e3779b9
  return () => {
    s ^= s << 13
    s >>>= 0
    s ^= s >>> 17
    s ^= s << 5
    s >>>= 0
    return (s >>> 8) / 16777216
  }
}
/** A cube of one metre. */
export const inCube: Start = (_, r) => ({ p: [r(), r(), r()], v: [r() - 0.5, r() - 0.5, r() - 0.5] })
const inBox: Start = (_, r) => ({ p: [r() * 10, r() * 10, r() * 10], v: [0, 0, 0] })
/** A shell around the sphere with velocities towards it, as in the mesh reference. */
export const cloud: Start = (_, r) => {
  const d = [r() - 0.5, r() - 0.5, r() - 0.5]
  const l = Math.hypot(...d)
  const n = d.map((x) => x / l)
  const far = 1.15 + 0.4 * r()
  return { p: n.map((x) => x * far) as [number, number, number], v: n.map((x) => r() * 4 - 2 - 1.5 * x) as [number, number, number] }
}
export async function openWorld(o: BenchOptions): Promise<BenchWorld> {
  const host = await nodeKernels({ threads: o.threads })
  const plan: Plan = {
    rate: { num: Math.round(1 / o.dt), den: 1 },
    first: 0,
    last: 1000000,
    substeps: 1,
    objects: o.floor
      ? [{ id: 'floor', mesh: null, endless: true, matrix: (_t, out) => identity(out) }]
      : o.mesh
        ? [
            {
              id: 'mesh',
              mesh: o.mesh,
              endless: false,
              ...(o.cells ? { cells: o.cells } : {}),
              matrix: (t, out) => (o.moving ? compose([t, 0, 0], [0, 30 * t, 0], [1, 1, 1], out) : identity(out)),
            },
          ]
        : [],
    systems: [
      {
        id: 'bench',
        name: 'bench',
        seed: 1,
        limit: o.count,
        life: () => [o.life, 0],
        forces: o.forces,
        ...(o.phases ? { phases: o.phases, turns: o.turns ?? [] } : {}),
        extraColumns: o.extraColumns ?? [],
        ...(o.meet ? { meet: { seed: 4, params: () => o.meet as MeetParams } } : {}),
        births: [
          {
            id: 'all',
            seed: 2,
            due: (t0) => (t0 === 0 ? [{ count: o.count, at: 0, spacing: 0 }] : []),
            params: () => ({
              source: -1,
              part: '',
              on: 'point',
              along: 'direction',
              direction: [0, 1, 0],
              spreadTurns: 0.5,
              speed: 0,
              speedVary: 0,
              inherit: 0,
            }),
          },
        ],
        contacts:
          (o.mesh && !o.target) || o.floor
            ? [
                {
                  id: 'bounce',
                  seed: 3,
                  colliders: [0],
                  params: () => ({
                    restitution: 0.4,
                    restitutionVary: 0,
                    friction: 0.3,
                    frictionVary: 0,
                    mode: 'bounce',
                    letGo: 0,
                    passes: 0,
                  }),
                },
              ]
            : [],
      },
    ],
  }
  const world = new World(host, plan, WORLD_BYTES)
  world.step() // everybody is born
  const begin = world.save()
  const words = particleStateOf(begin, 'bench').words
  const f = new Float32Array(words.buffer)
  const n = o.count
  const random = xorshift()
  const start = o.start ?? inBox
  for (let i = 0; i < n; i++) {
    const { p, v } = start(i, random)
    for (let a = 0; a < 3; a++) {
      f[a * n + i] = p[a]
      f[(3 + a) * n + i] = v[a]
    }
    if (o.phases) words[COLUMNS.indexOf('phase') * n + i] = i % o.phases
  }
  if (o.mesh || o.floor || o.meet) {
    // Twenty steps first, so that contacts are under way as they are in the reference.
    world.restore(begin)
    for (let k = 0; k < 20; k++) world.step()
    begin.states.bench = world.save().states.bench
  }
  return {
    reset: () => world.restore(begin),
    step() {
      world.step()
      return undefined
    },
    dispose: () => {
      world.dispose()
      host.team.dispose()
    },
  }
}
/** The reference's mesh: an icosahedron divided `levels` times, with bumps. */
export function bumpySphere(levels: number, bump: number): Mesh {
  const g = 1.618034
  let v: number[][] = [
    [-1, g, 0],
    [1, g, 0],
    [-1, -g, 0],
    [1, -g, 0],
    [0, -1, g],
    [0, 1, g],
    [0, -1, -g],
    [0, 1, -g],
    [g, 0, -1],
    [g, 0, 1],
    [-g, 0, -1],
    [-g, 0, 1],
  ]
  let index = [
    0, 11, 5, 0, 5, 1, 0, 1, 7, 0, 7, 10, 0, 10, 11, 1, 5, 9, 5, 11, 4, 11, 10, 2, 10, 7, 6, 7, 1, 8, 3, 9, 4, 3, 4, 2, 3, 2, 6, 3, 6, 8, 3,
    8, 9, 4, 9, 5, 2, 4, 11, 6, 2, 10, 8, 6, 7, 9, 8, 1,
  ]
  const unit = (p: number[]) => {
    const l = Math.hypot(...p)
    return p.map((x) => x / l)
  }
  for (let l = 0; l < levels; l++) {
    const mid = new Map<string, number>()
    const half = (a: number, b: number): number => {
      const key = a < b ? `${a},${b}` : `${b},${a}`
      let i = mid.get(key)
      if (i === undefined) {
        i = v.push(v[a].map((x, k) => (x + v[b][k]) / 2)) - 1
        mid.set(key, i)
      }
      return i
    }
    const out: number[] = []
    for (let i = 0; i < index.length; i += 3) {
      const [a, b, c] = [index[i], index[i + 1], index[i + 2]]
      const [ab, bc, ca] = [half(a, b), half(b, c), half(c, a)]
      out.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca)
    }
    index = out
    v = v.map(unit)
  }
  v = v.map((p) => p.map((x) => x * (1 + bump * Math.sin(7 * p[0]) * Math.sin(6 * p[1] + 1) * Math.sin(8 * p[2] + 2))))
  return { positions: new Float32Array(v.flat()), normals: null, indices: new Uint32Array(index), parts: [] }
}
/** A substep from the beginning on, of so many seconds, with nothing in it: for solvers that are measured alone. */
export const emptySubstep = (dt: number): Substep => ({
  ...{ at: { t0: 0, t1: dt, dt }, frame: 1, objects: [], points: [], airs: [], examining: false },
  ...{ grownOn: () => [], metresGrown: () => 0 },
})
