import { Asker } from '../asked'
import type { Frame, Notice, SystemStats } from '../frame'
import { wrapped } from '../math'
import { Arena, type Columns, Heap, type KernelHost, type Machine, requestStop, SCRATCH } from '../memory'
import { Scene } from '../objects'
import { ParticleSystem } from '../particles'
import type { Plan, StepTime } from '../plan'
import { ranksOf, type Solver, type SolverState, type Substep } from '../solver'
import { SOLVER_KINDS } from './kinds'

/** The full state at a frame, from which the run goes on exactly as before: that of each solver, by its id. */
export interface Snapshot {
  frame: number
  states: Record<string, SolverState>
}
export const snapshotBytes = (s: Snapshot): number => Object.values(s.states).reduce((sum, x) => sum + x.bytes, 256)
/** A force of a solver. */
export interface ForceOf {
  solver: string
  force: string
}

/**
 * The state of a run. Owns blocks in the host's memory; `dispose` gives them back. It knows no kind of solver: it runs those that the plan
 * asks for, rank by rank, in the order of a substep that docs/engine has.
 */
export class World {
  readonly heap: Heap
  plan: Plan
  frame: number
  private machine: Machine
  private scratch: Arena
  private scene: Scene
  private solvers: Solver[] = []
  private ranks: Solver[][] = []
  private disposed = false

  constructor(
    readonly host: KernelHost,
    plan: Plan,
    limitBytes: number,
  ) {
    this.heap = new Heap(host.memory, limitBytes)
    this.scratch = new Arena(this.heap)
    this.machine = { heap: this.heap, host, scratch: this.scratch.take(SCRATCH.bytes * host.team.threads) }
    this.scene = new Scene(this.machine)
    this.plan = plan
    this.frame = plan.start ?? plan.first
    this.load(plan)
  }
  /** Takes another plan and goes back to its first frame. Meshes that stay are not built again. */
  load(plan: Plan): void {
    for (const s of this.solvers) s.dispose()
    this.plan = plan
    this.scene.load(plan.objects)
    this.solvers = SOLVER_KINDS.flatMap((make) => make(plan, this.machine))
    this.ranks = ranksOf(this.solvers)
    this.frame = plan.start ?? plan.first
    requestStop(this.host.memory, false)
  }
  private time(frame: number, substep: number): number {
    const { plan } = this
    return ((this.sinceBegun(frame) + substep / plan.substeps) * plan.rate.den) / plan.rate.num
  }
  /** Frames since the first, or since a loop last began. */
  private sinceBegun(frame: number): number {
    const { first, loop } = this.plan
    return wrapped(frame - first, loop ?? 0)
  }
  private times(substep: number): StepTime {
    const t0 = this.time(this.frame, substep)
    const t1 = this.time(this.frame, substep + 1)
    return { t0, t1, dt: Math.fround(t1 - t0) }
  }
  /** Brings all objects to both ends of a substep. */
  private moveObjects(at: StepTime): void {
    // Two Worlds may run the same plan.
    if (this.plan.poses) this.plan.poses.source = (id, t) => this.poseOf(id, t)
    this.scene.moveTo(at)
  }
  private poseOf(object: string, t: number) {
    for (const s of this.solvers) {
      const pose = s.poseOf?.(object, t)
      if (pose) return pose
    }
    return null
  }
  private substep(k: number, examining: boolean): Substep {
    const points = this.plan.systems.map(({ id }) => {
      const columns = this.solvers.find((s) => s.id === id)?.columns
      return columns && { id, columns, count: columns.count }
    })
    const airs = (this.plan.gases ?? []).map(({ id }) => this.solvers.find((s) => s.id === id)?.air ?? 0)
    const at = this.times(k)
    const grownOn: Substep['grownOn'] = (object, on) => this.solvers.flatMap((s) => (s.growsOn === object ? (s.sites?.(on, at) ?? []) : []))
    const metresGrown = (object: number, t: number) =>
      this.solvers.reduce((sum, s) => sum + (s.growsOn === object ? (s.metres?.(t) ?? 0) : 0), 0)
    return { at, frame: this.frame + 1, objects: this.scene.states, points, airs, examining, grownOn, metresGrown }
  }
  /**
   * Makes everything ready for the first substep from here, without births and without moving anybody, and lets one system of the run be
   * looked at. Null when there is none. Throws Stopped when asked to stop.
   */
  examine<T>(system: string, inspect: (system: ParticleSystem, at: StepTime) => T): T | null {
    const substep = this.substep(0, true)
    this.moveObjects(substep.at)
    for (const rank of this.ranks) for (const s of rank) s.prepare(substep)
    const found = this.solvers.find((s) => s.id === system)
    return found instanceof ParticleSystem ? inspect(found, substep.at) : null
  }
  /** The columns of a system as they are, to read; null when it has no particles. */
  columnsOf(system: string): Columns | null {
    const found = this.solvers.find((s) => s.id === system)
    return found instanceof ParticleSystem ? found.columns : null
  }
  /** Advances to the next frame. Throws Stopped when asked to stop half way; then restore or load before going on. */
  step(): void {
    for (const s of this.solvers) s.beginFrame?.()
    if (this.plan.loop && this.sinceBegun(this.frame) === 0) for (const s of this.solvers) s.beginAgain?.()
    for (let k = 0; k < this.plan.substeps; k++) {
      const substep = this.substep(k, false)
      this.moveObjects(substep.at)
      for (const rank of this.ranks) {
        // All births before all movement: whoever starts from the points of another finds them as the substep began.
        for (const s of rank) s.spawn?.(substep)
        for (const s of rank) s.prepare(substep)
        for (const s of rank) s.step(substep)
        for (const s of rank) s.passOn?.(substep, (system) => this.solver(this.plan.systems[system]?.id ?? ''))
        if (rank.some((s) => s.gives.includes('surfaces'))) this.moveObjects(substep.at)
      }
    }
    this.frame++
  }
  /**
   * Ids of those of a system who would take a turn in the coming frame if it were the only one and did nothing else. The World is a frame on
   * afterwards, in which just that happened: restore it.
   */
  tryTurn(system: string, turn: string): Set<number> {
    const found = this.solvers.find((s) => s.id === system)
    if (!(found instanceof ParticleSystem)) return new Set()
    const trial = { turn, took: new Set<number>() }
    found.turning.trial = trial
    try {
      this.step()
    } finally {
      found.turning.trial = null
      this.takeOffenders()
    }
    return trial.took
  }
  /** Forces that were found, since the last call, to throw points to non-finite places; they are off from the next substep on. */
  takeOffenders(): ForceOf[] {
    return this.solvers.flatMap((s) => (s.forces?.takeOffenders() ?? []).map((force) => ({ solver: s.id, force })))
  }
  /** Goes on without forces from the coming frame on, and says so. */
  switchOff(list: readonly ForceOf[]): void {
    for (const s of this.solvers)
      s.forces?.switchOff(
        list.filter((x) => x.solver === s.id).map((x) => x.force),
        this.frame + 1,
      )
  }
  get notices(): Notice[] {
    return this.solvers.flatMap((s) => s.notices ?? [])
  }
  capture(ms = 0): Frame {
    const t = this.time(this.frame, 0)
    const parts = this.solvers.flatMap((s) => s.capture(t))
    const stats: Record<string, SystemStats> = {}
    for (const { id, stats: counts, columns } of this.solvers) if (counts && columns) stats[id] = { ...counts, alive: columns.count }
    return { frame: this.frame, parts, stats, notices: this.notices, ms }
  }
  save(): Snapshot {
    return { frame: this.frame, states: Object.fromEntries(this.solvers.map((s) => [s.id, s.save()])) }
  }
  /** Whether a snapshot holds the state of just the solvers that it runs. */
  canRestore(snapshot: Snapshot): boolean {
    return this.solvers.length === Object.keys(snapshot.states).length && this.solvers.every((s) => snapshot.states[s.id] !== undefined)
  }
  restore(snapshot: Snapshot): void {
    for (const s of this.solvers) {
      const state = snapshot.states[s.id]
      if (!state) throw new Error(`the snapshot has no state of ${s.id}`)
      s.restore(state)
    }
    this.frame = snapshot.frame
    requestStop(this.host.memory, false)
  }
  /** Asks about the particles of frames with the kernels of the run; what it takes of the memory is little. */
  get asker(): Asker {
    this.askerMade ??= new Asker(this.machine)
    return this.askerMade
  }
  private askerMade: Asker | null = null
  /** One of its solvers, for measurements and tests. */
  solver(id: string): Solver | undefined {
    return this.solvers.find((s) => s.id === id)
  }
  get usedBytes(): number {
    return this.heap.usedBytes
  }
  get peakBytes(): number {
    return this.heap.peakBytes
  }
  /** Where all its memory is: with its solvers, its objects, and the scratch of its threads. */
  get bytesBy(): Record<string, number> {
    const solvers = this.solvers.map((s) => [s.id, s.bytes])
    return Object.fromEntries([
      ...solvers,
      ['asked', this.askerMade?.bytes ?? 0],
      ['objects', this.scene.bytes],
      ['scratch', this.scratch.usedBytes],
    ])
  }
  dispose(): void {
    if (this.disposed) return
    this.disposed = true
    this.askerMade?.dispose()
    for (const s of this.solvers) s.dispose()
    this.solvers = []
    this.scene.dispose()
    this.scratch.dispose()
  }
}
