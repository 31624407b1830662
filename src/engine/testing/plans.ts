import { nodeKernels } from '../../hosts/node/kernels'
import {
  type BirthParams,
  type ContactPlan,
  encodeGravity,
  type ForcePlan,
  type Frame,
  frameMark,
  identity,
  type Mesh,
  type Plan,
  type PlanObject,
  type PlanSystem,
  type PointColumn,
  type PointsPart,
  partsOf,
  pointColumn,
  World,
} from '..'

/** Small plans for tests of the engine, without a document or acts. */
export const point: BirthParams = {
  source: -1,
  part: '',
  on: 'point',
  along: 'direction',
  direction: [0, 1, 0],
  spreadTurns: 0,
  speed: 0,
  speedVary: 0,
  inherit: 0,
}
export const still = (mesh: Mesh | null, endless = false): PlanObject => ({
  id: 'object',
  mesh,
  endless,
  matrix: (_t, out) => identity(out),
})

export interface SystemOptions extends Partial<PlanSystem> {
  /** All born at once in the first substep. */
  burst?: number
  birth?: Partial<BirthParams>
}
export function system(o: SystemOptions = {}): PlanSystem {
  const { burst, birth, ...rest } = o
  return {
    id: 'system',
    name: 'System',
    seed: 1,
    limit: 2_000_000,
    life: () => [1e6, 0],
    births: [
      {
        id: 'birth',
        seed: 77,
        due: (t0) => (t0 === 0 ? [{ count: burst ?? 1, at: 0, spacing: 0 }] : []),
        params: () => ({ ...point, ...birth }),
      },
    ],
    forces: [],
    contacts: [],
    extraColumns: [],
    ...rest,
  }
}
export const plan = (systems: PlanSystem[], objects: PlanObject[] = [], o: Partial<Plan> = {}): Plan => ({
  rate: { num: 24, den: 1 },
  first: 0,
  last: 240,
  substeps: 2,
  objects,
  systems,
  ...o,
})
export const gravity = (g = -9.81): ForcePlan => ({ id: 'gravity', encode: (w) => encodeGravity(w, [0, g, 0]) })
export const bounce = (restitution: number, friction = 0, colliders = [0]): ContactPlan => ({
  id: 'bounce',
  seed: 5,
  colliders,
  params: () => ({ restitution, restitutionVary: 0, friction, frictionVary: 0, mode: 'bounce', letGo: 0, passes: 0 }),
})

/** Runs a plan in a World of its own and gives all memory back. */
export async function withWorld<T>(p: Plan, run: (w: World) => T | Promise<T>, threads = 1, limitBytes = 1 << 30): Promise<T> {
  const host = await nodeKernels({ threads })
  const world = new World(host, p, limitBytes)
  try {
    return await run(world)
  } finally {
    world.dispose()
    host.team.dispose()
  }
}
export const framesOn = (w: World, n: number): Frame => {
  for (let i = 0; i < n; i++) w.step()
  return w.capture()
}
/** The marks of the last frame on one and on three threads, and from a state that was saved before and gone back to after some frames more. */
export async function marksOf(p: Plan, o: { last?: number; saved?: number } = {}): Promise<[string, string, string]> {
  const { last = 14, saved = 7 } = o
  const run = (threads: number) => withWorld(p, (w) => frameMark(framesOn(w, last)), threads)
  const resumed = await withWorld(p, (w) => {
    framesOn(w, saved)
    const state = w.save()
    framesOn(w, 5)
    w.restore(state)
    return frameMark(framesOn(w, last - saved))
  })
  return [await run(1), await run(3), resumed]
}
/** The particles of a system of a frame, by its place among them. */
export const points = (f: Frame, i = 0): PointsPart => partsOf(f.parts, 'points')[i]
export const column = (f: Frame, name: PointColumn, part = 0): Float32Array => pointColumn(points(f, part), name) as Float32Array
/** What must be there; the test ends where it is not. */
export function given<T>(x: T | null | undefined): T {
  if (x === null || x === undefined) throw new Error('nothing is there')
  return x
}
