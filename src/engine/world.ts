import { type Notice, Stopped } from './errors'
import { Bodies, type BodySnapshot } from './bodies'
import { culprit } from './examine'
import { type Frame, noStats } from './frame'
import type { Mesh } from './geometry/mesh'
import { Heap } from './heap'
import { type KernelHost, requestStop } from './kernels'
import { SCRATCH_BYTES } from './layout'
import { Neighbourhood } from './neighbours'
import { identity, invert, multiply } from './matrix'
import type { Plan, PlanObject, PlanSystem, StepTime } from './plan'
import { Surface } from './surfaces'
import type { ObjectState } from './objectState'
import { SystemRun, type SystemSnapshot } from './system'

/** The full state at a frame, from which the run goes on exactly as before. */
export interface Snapshot {
  frame: number
  systems: Record<string, SystemSnapshot>
  bodies: Record<string, BodySnapshot>
  notices: Notice[]
}
export const snapshotBytes = (s: Snapshot): number =>
  Object.values(s.systems).reduce((sum, x) => sum + x.words.byteLength, 256) +
  Object.values(s.bodies).reduce((sum, b) => sum + b.track.byteLength + b.times.byteLength + 512, 0)

/**
 * The state of a run. Owns blocks in the host's memory; `dispose` gives them back. The order within a substep is fixed
 * (docs/engine.md): values, objects, births, forces, velocity, contact, position, deaths.
 */
export class World {
  readonly heap: Heap
  plan: Plan
  frame: number
  private scratch: number
  /** Surfaces that stand are shared by all objects with the same mesh; one that changes, or has regions, belongs to its object. */
  private surfaces = new Map<Mesh, Surface>()
  private owned = new Map<string, Surface>()
  private systems: SystemRun[] = []
  private objects: ObjectState[] = []
  private near: Neighbourhood
  private bodies: Bodies
  private disposed = false
  private culprits: { system: string; force: string }[] = []

  constructor(
    readonly host: KernelHost,
    plan: Plan,
    limitBytes: number,
  ) {
    this.heap = new Heap(host.memory, limitBytes)
    this.scratch = this.heap.take(SCRATCH_BYTES * host.team.threads)
    this.near = new Neighbourhood(this.heap, host, this.scratch)
    this.bodies = new Bodies(this.heap, host, this.scratch)
    this.plan = plan
    this.frame = plan.start ?? plan.first
    this.load(plan)
  }
  /** Takes another plan and goes back to its first frame. Meshes that stay are not built again. */
  load(plan: Plan): void {
    for (const s of this.systems) s.dispose()
    this.plan = plan
    const own = (o: PlanObject) => !!o.mesh && (!!o.shape || !!o.regions?.size)
    const used = new Set(plan.objects.map((o) => (own(o) ? null : o.mesh)))
    for (const [mesh, surface] of this.surfaces) {
      if (used.has(mesh)) continue
      surface.dispose()
      this.surfaces.delete(mesh)
    }
    const kept = new Map<string, Surface>()
    for (const o of plan.objects) {
      const old = own(o) ? this.owned.get(o.id) : undefined
      if (old && old.mesh === o.mesh && old.changes === !!o.shape) kept.set(o.id, old)
    }
    for (const [id, surface] of this.owned) if (!kept.has(id)) surface.dispose()
    this.owned = kept
    const surfaceOf = (o: PlanObject): Surface | null => {
      if (!o.mesh) return null
      const known = own(o) ? kept.get(o.id) : this.surfaces.get(o.mesh)
      if (known) return known
      const made = new Surface(this.heap, o.mesh, this.host.exports, !!o.shape)
      if (own(o)) kept.set(o.id, made)
      else this.surfaces.set(o.mesh, made)
      return made
    }
    this.objects = plan.objects.map((o) => ({
      id: o.id,
      sides: o.sides,
      cells: o.cells ?? 0,
      thick: 0,
      surface: surfaceOf(o),
      endless: o.endless,
      region: () => null,
      m0: identity(),
      m1: identity(),
      in0: identity(),
      in1: identity(),
    }))
    this.bodies.load(plan)
    this.systems = plan.systems.map((s) => new SystemRun(this.heap, this.host, this.scratch, s))
    this.frame = plan.start ?? plan.first
    this.culprits = []
    requestStop(this.host.memory, false)
  }
  private time(frame: number, substep: number): number {
    const { plan } = this
    return ((frame - plan.first + substep / plan.substeps) * plan.rate.den) / plan.rate.num
  }
  /** The objects as a system sees them: in its own space, when it has one that can be entered. */
  private objectsIn(plan: PlanSystem, t0: number, t1: number): ObjectState[] {
    if (!plan.space) return this.objects
    const [a, b] = [invert(plan.space(t0, identity())), invert(plan.space(t1, identity()))]
    if (!a || !b) return this.objects
    return this.objects.map((o) => {
      const m0 = multiply(a, o.m0),
        m1 = multiply(b, o.m1)
      return { ...o, m0, m1, in0: invert(m0), in1: invert(m1) }
    })
  }
  private times(substep: number): StepTime {
    const t0 = this.time(this.frame, substep),
      t1 = this.time(this.frame, substep + 1)
    return { t0, t1, dt: Math.fround(t1 - t0) }
  }
  /** Brings all objects to both ends of a substep. */
  private place({ t0, t1 }: StepTime): void {
    // Two Worlds may run the same plan.
    if (this.plan.poses) this.plan.poses.source = (id, t) => this.bodies.at(id, t)
    this.plan.objects.forEach((o, i) => {
      const s = this.objects[i]
      o.matrix(t0, s.m0)
      o.matrix(t1, s.m1)
      s.thick = Math.max(0, o.thickness?.(t0) ?? 0)
      s.in0 = invert(s.m0)
      s.in1 = invert(s.m1)
      if (o.shape) s.surface?.move(t0, t1, o.shape)
      s.region = (id) => {
        const amounts = o.regions?.get(id)
        return amounts ? { key: id, amounts: amounts(t0) } : null
      }
    })
  }
  /**
   * Makes everything ready for the first substep from here, without births and without moving anybody, and lets it be looked at: one system
   * of the run, with the objects as it sees them. Throws Stopped when asked to stop.
   */
  examine<T>(system: string, look: (run: SystemRun, at: StepTime, objects: ObjectState[]) => T): T | null {
    const at = this.times(0)
    this.place(at)
    this.near.begin()
    const seen = this.systems.map((s) => this.objectsIn(s.plan, at.t0, at.t1))
    for (const [i, s] of this.systems.entries())
      if (!s.prepare(at, this.frame + 1, seen[i], this.systems, this.near, true)) throw new Stopped()
    const i = this.systems.findIndex((s) => s.plan.id === system)
    return i < 0 ? null : look(this.systems[i], at, seen[i])
  }
  /** Goes on to the next frame. Throws Stopped when asked to stop half way; then restore or load before going on. */
  step(): void {
    for (const s of this.systems) s.stats = noStats()
    for (const s of this.bodies.runs) s.stats = noStats()
    for (let k = 0; k < this.plan.substeps; k++) {
      const at = this.times(k)
      this.place(at)
      if (this.bodies.any) {
        this.near.begin()
        if (!this.bodies.step(this.plan, at, this.frame + 1, this.objects, this.systems, this.near)) throw new Stopped()
        for (const s of this.bodies.runs) this.tellLost(s)
        this.place(at)
      }
      // All births before all movement: whoever starts from the particles of another system finds them as the substep began.
      const others = this.systems.map((run) => ({ run, count: run.count }))
      const seen = this.systems.map((s) => this.objectsIn(s.plan, at.t0, at.t1))
      for (const [i, s] of this.systems.entries()) s.bear(at, this.frame + 1, seen[i], others)
      this.near.begin()
      for (const [i, s] of this.systems.entries()) if (!s.prepare(at, this.frame + 1, seen[i], this.systems, this.near)) throw new Stopped()
      for (const [i, s] of this.systems.entries()) {
        if (!s.advance(at, this.frame + 1, seen[i])) throw new Stopped()
        this.tellLost(s)
      }
    }
    this.frame++
    for (const s of this.systems) s.stats.alive = s.count
  }
  private tellLost(s: SystemRun): void {
    if (!s.lost) return
    const found = culprit(s)
    if (found) {
      s.off.add(found.id)
      this.culprits.push({ system: s.plan.id, force: found.id })
    }
    const who = this.systems.includes(s)
      ? `${s.lost.toLocaleString('en-US')} particles of ${s.plan.name} went beyond all numbers and were taken out`
      : `${s.plan.name} was thrown beyond all numbers and stays where it was`
    s.notice(
      'lost',
      this.frame + 1,
      `${who}; ${found ? `${found.name} pushes far too hard and is switched off from here on: make it weaker` : 'look for a force or a speed that is far too strong'}`,
    )
  }
  /** Forces that were found, since the last call, to throw particles beyond all numbers; they act no more from the next substep on. */
  takeCulprits(): { system: string; force: string }[] {
    return this.culprits.splice(0)
  }
  /** Goes on without forces that threw particles of a system away at the frame to come, and says so. */
  switchOff(list: readonly { system: string; force: string }[]): void {
    for (const { system, force } of list) {
      const s = this.all.find((x) => x.plan.id === system)
      if (!s) continue
      s.off.add(force)
      s.notice(
        'lost',
        this.frame + 1,
        `${s.plan.forces.find((f) => f.id === force)?.name ?? force} threw ${this.systems.includes(s) ? `particles of ${s.plan.name}` : s.plan.name} beyond all numbers; it pushes far too hard, and is switched off from frame ${this.frame + 1} on: make it weaker`,
      )
    }
  }
  private get all(): SystemRun[] {
    return [...this.systems, ...this.bodies.runs]
  }
  capture(ms = 0): Frame {
    return {
      frame: this.frame,
      parts: this.systems.map((s) => s.capture()),
      poses: this.bodies.poses(this.time(this.frame, 0)),
      stats: Object.fromEntries(this.systems.map((s) => [s.plan.id, { ...s.stats, alive: s.count }])),
      notices: this.all.flatMap((s) => [...s.notices.values()]),
      ms,
    }
  }
  save(): Snapshot {
    return {
      frame: this.frame,
      systems: Object.fromEntries(this.systems.map((s) => [s.plan.id, s.save()])),
      bodies: this.bodies.save(),
      notices: this.all.flatMap((s) => [...s.notices.values()]),
    }
  }
  restore(snapshot: Snapshot): void {
    for (const s of this.systems) {
      const state = snapshot.systems[s.plan.id]
      if (!state) throw new Error(`the snapshot has no system ${s.plan.id}`)
      s.restore(state)
    }
    this.bodies.restore(snapshot.bodies)
    for (const s of this.all) s.notices = new Map(snapshot.notices.filter((n) => n.element === s.plan.id).map((n) => [n.kind, n]))
    this.frame = snapshot.frame
    requestStop(this.host.memory, false)
  }
  /** Velocity volumes made so far. */
  get volumesFilled(): number {
    return this.near.volumes.filled
  }
  get peakBytes(): number {
    return this.heap.peakBytes
  }
  dispose(): void {
    if (this.disposed) return
    this.disposed = true
    for (const s of this.systems) s.dispose()
    for (const s of this.surfaces.values()) s.dispose()
    for (const s of this.owned.values()) s.dispose()
    this.surfaces.clear()
    this.owned.clear()
    this.systems = []
    this.bodies.dispose()
    this.near.dispose()
    this.heap.give(this.scratch)
  }
}
