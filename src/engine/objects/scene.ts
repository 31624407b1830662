import { type Mesh, Surface } from '../geometry'
import { identity, invert } from '../math'
import { Arena, type Machine } from '../memory'
import type { PlanObject, StepTime } from '../plan'
import type { ObjectState } from './objectState'

const changesOrHasRegions = (o: PlanObject): boolean => !!o.mesh && (!!o.shape || !!o.regions?.size)

/** The objects of a World: where they are in a substep, and their surfaces in its memory. */
export class Scene {
  private arena: Arena
  /** Surfaces that keep their shape are shared by all objects with the same mesh; one that changes, or has regions, belongs to its object. */
  private shared = new Map<Mesh, Surface>()
  private owned = new Map<string, Surface>()
  private plans: readonly PlanObject[] = []
  states: ObjectState[] = []

  constructor(private machine: Machine) {
    this.arena = new Arena(machine.heap)
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  /** Takes other objects; surfaces of meshes that stay are not built again. */
  load(plans: readonly PlanObject[]): void {
    this.plans = plans
    const used = new Set(plans.map((o) => (changesOrHasRegions(o) ? null : o.mesh)))
    for (const [mesh, surface] of this.shared) {
      if (used.has(mesh)) continue
      surface.dispose()
      this.shared.delete(mesh)
    }
    const kept = new Map<string, Surface>()
    for (const o of plans) {
      const old = changesOrHasRegions(o) ? this.owned.get(o.id) : undefined
      if (old && old.mesh === o.mesh && old.changes === !!o.shape) kept.set(o.id, old)
    }
    for (const [id, surface] of this.owned) if (!kept.has(id)) surface.dispose()
    this.owned = kept
    this.states = plans.map((o) => ({
      id: o.id,
      sides: o.sides,
      cells: o.cells ?? 0,
      thickness: 0,
      surface: this.surfaceOf(o),
      endless: o.endless,
      region: () => null,
      m0: identity(),
      m1: identity(),
      in0: identity(),
      in1: identity(),
    }))
  }
  private surfaceOf(o: PlanObject): Surface | null {
    if (!o.mesh) return null
    const own = changesOrHasRegions(o)
    const known = own ? this.owned.get(o.id) : this.shared.get(o.mesh)
    if (known) return known
    const made = new Surface(this.arena, o.mesh, this.machine.host.exports, !!o.shape)
    if (own) this.owned.set(o.id, made)
    else this.shared.set(o.mesh, made)
    return made
  }
  /** Brings all objects to both ends of a substep. */
  moveTo({ t0, t1 }: StepTime): void {
    this.plans.forEach((o, i) => {
      const s = this.states[i]
      o.matrix(t0, s.m0)
      o.matrix(t1, s.m1)
      s.thickness = Math.max(0, o.thickness?.(t0) ?? 0)
      s.in0 = invert(s.m0)
      s.in1 = invert(s.m1)
      if (o.shape) s.surface?.move(t0, t1, o.shape)
      s.region = (id) => {
        const amounts = o.regions?.get(id)
        return amounts ? { key: id, amounts: amounts(t0) } : null
      }
    })
  }
  dispose(): void {
    this.arena.dispose()
    this.shared.clear()
    this.owned.clear()
  }
}
