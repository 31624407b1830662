import { identity } from '../math'
import { type Machine, NEAREST, SCRATCH } from '../memory'
import { seenFrom } from '../objects'
import type { PlanGrowth, PlanSystem } from '../plan'
import type { Substep } from '../solver'
import type { Start } from './forest'
import type { SurfacePlace } from './walk'

/** A particle came near: when (s), where on the object, and how it flew there (own space of the object). */
export interface Landing {
  id: number
  t: number
  place: SurfacePlace
  velocity: readonly [number, number, number]
}
/** Of a search that has found nothing yet. */
const NO_SLOT = 0xffffffff

/** The system whose particles land, what of it counts here. */
export type Lander = Pick<PlanSystem, 'space' | 'timeScale'>

/**
 * Particles of a system that come near an object, each once, in the order in which they do. A particle that is there for a part of a substep
 * alone counts too: its way through the substep is taken as a straight line in the object's space. One born in a substep is seen in the next.
 */
export class Landings {
  private coming: Landing[] = []
  private known = new Set<number>()
  all: readonly Landing[] = []

  constructor(
    private readonly machine: Machine,
    private readonly from: NonNullable<PlanGrowth['from']>,
    private readonly system: Lander,
    private readonly most: number,
  ) {}
  restore(all: readonly Landing[]): void {
    this.all = all
    this.known = new Set(all.map((l) => l.id))
    this.coming = []
  }
  /** Finds who lands in a substep, from where they are as it begins; `scale`: metres of the shot in one of the object's. They count from `take` on. */
  look({ at, objects, points }: Substep, object: number, scale: number): void {
    this.coming = []
    const source = points[this.from.system]
    const { space } = this.system
    // Particles of a system that is moved as one have their places in its space.
    const [state] = space ? seenFrom([objects[object]], space(at.t0, identity()), space(at.t1, identity())) : [objects[object]]
    if (!source?.count || !state?.surface || !state.in0 || !state.in1 || this.all.length >= this.most) return
    const { in0, in1 } = state
    const { bounds, mesh } = state.surface
    const near = this.from.within / scale
    const dt = at.dt * Math.max(0, this.system.timeScale?.(at.t0) ?? 1)
    const tree = state.surface.forCast()
    const ids = source.columns.words('id')
    const [x, y, z, vx, vy, vz] = (['px', 'py', 'pz', 'vx', 'vy', 'vz'] as const).map((n) => source.columns.floats(n))
    const [o, d] = [new Float64Array(3), new Float64Array(3)]
    for (let i = 0; i < source.count && this.all.length + this.coming.length < this.most; i++) {
      if (this.known.has(ids[i])) continue
      const [ex, ey, ez] = [x[i] + vx[i] * dt, y[i] + vy[i] * dt, z[i] + vz[i] * dt]
      // Most are nowhere near; who is nowhere finite is not, either.
      let reaches = true
      for (let a = 0; a < 3 && reaches; a++) {
        const r = a * 4
        o[a] = in0[r] * x[i] + in0[r + 1] * y[i] + in0[r + 2] * z[i] + in0[r + 3]
        const end = in1[r] * ex + in1[r + 1] * ey + in1[r + 2] * ez + in1[r + 3]
        d[a] = end - o[a]
        reaches = Math.min(o[a], end) <= bounds.max[a] + near && Math.max(o[a], end) >= bounds.min[a] - near
      }
      if (!reaches) continue
      const share = this.meets(tree, o, d, near)
      if (share === null) continue
      const p = [o[0] + d[0] * share, o[1] + d[1] * share, o[2] + d[2] * share]
      const place = this.nearest(tree, mesh.indices.length / 3, p, near * 2 + 1e-6)
      if (place) this.coming.push({ id: ids[i], t: at.t0 + at.dt * share, place, velocity: [d[0], d[1], d[2]] })
    }
    this.coming.sort((a, b) => a.t - b.t || a.id - b.id)
  }
  /** Takes on those that were found. */
  take(): void {
    if (!this.coming.length) return
    this.all = [...this.all, ...this.coming]
    for (const l of this.coming) this.known.add(l.id)
    this.coming = []
  }
  /** The share of its way at which it comes so near; null: it does not. */
  private meets(tree: { nodes: number; leaves: number }, o: Float64Array, d: Float64Array, near: number): number | null {
    const { heap, host, scratch } = this.machine
    const [stack, hit] = [scratch + SCRATCH.stack, scratch + SCRATCH.hit]
    const view = heap.view()
    view.setFloat32(hit + NEAREST.distance, near * near, true)
    view.setUint32(hit + NEAREST.slot, NO_SLOT, true)
    if (host.exports.closestPoint(tree.nodes, tree.leaves, o[0], o[1], o[2], stack, hit)) return 0
    view.setFloat32(hit, 1, true)
    if (!host.exports.castBall(tree.nodes, tree.leaves, 1, o[0], o[1], o[2], d[0], d[1], d[2], near, stack, hit)) return null
    return Math.min(1, Math.max(0, heap.view().getFloat32(hit, true)))
  }
  private nearest(
    tree: { nodes: number; leaves: number; triangles: number },
    triangles: number,
    p: readonly number[],
    within: number,
  ): SurfacePlace | null {
    const { heap, host, scratch } = this.machine
    const [stack, hit] = [scratch + SCRATCH.stack, scratch + SCRATCH.hit]
    heap.view().setFloat32(hit + NEAREST.distance, within * within, true)
    heap.view().setUint32(hit + NEAREST.slot, NO_SLOT, true)
    if (!host.exports.closestPoint(tree.nodes, tree.leaves, p[0], p[1], p[2], stack, hit)) return null
    const view = heap.view()
    const triangle = view.getUint32(tree.triangles + view.getUint32(hit + NEAREST.slot, true) * 4, true)
    if (triangle >= triangles) return null
    const b1 = Math.min(1, Math.max(0, view.getFloat32(hit + NEAREST.u, true)))
    const b2 = Math.min(1 - b1, Math.max(0, view.getFloat32(hit + NEAREST.v, true)))
    return { triangle, b0: 1 - b1 - b2, b1, b2 }
  }
}
/** The start of a line where a particle landed; `ahead`: it sets out as that flew, `at`: seconds of growth at which it begins. */
export function startOf(l: Landing, seed: number, o: { ahead: boolean; at: number }): Start {
  const heading = o.ahead && l.velocity.some((v) => v !== 0) ? l.velocity : undefined
  return { place: l.place, seed, heading, at: o.at, since: l.t }
}
