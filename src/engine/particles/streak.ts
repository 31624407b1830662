import type { Neighbourhood } from '../fields'
import type { Machine } from '../memory'
import type { PlanStreak } from '../plan'
import type { Flow, Solver, SolverState, Substep, Take } from '../solver'
import type { ParticleState } from './particleState'
import { ParticleSystem } from './particleSystem'

/** What an object leaves behind: a particle of its own that stands at its place, which trails follow like any other. It is in no frame itself. */
export class Streak implements Solver {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = [
    { flow: 'surfaces', when: 'now' },
    { flow: 'fields', when: 'now' },
    { flow: 'points', when: 'before' },
  ]
  readonly id: string
  /** Its particle, and what follows it. */
  readonly system: ParticleSystem

  constructor(
    machine: Machine,
    private readonly plan: PlanStreak,
    near: Neighbourhood,
  ) {
    this.id = `streak ${plan.system.id}`
    this.system = new ParticleSystem(machine, plan.system, near)
  }
  get notices() {
    return this.system.notices
  }
  beginFrame(): void {
    this.system.beginFrame()
  }
  spawn(): void {
    const { columns } = this.system
    if (columns.count) return
    columns.reserve(1)
    columns.count = 1
    for (const name of columns.names) columns.words(name)[0] = 0
    columns.floats('life')[0] = 1e30
    columns.words('seed')[0] = this.plan.system.seed
  }
  prepare(substep: Substep): void {
    this.system.prepare(substep)
  }
  step({ at, frame, objects }: Substep): void {
    const { columns } = this.system
    const { m0, m1 } = objects[this.plan.object]
    const [age] = columns.floats('age')
    // Its first place is where it begins.
    const from = [m0[3], m0[7], m0[11]]
    const to = [m1[3], m1[7], m1[11]]
    const velocity = this.plan.velocity?.(at.t1) ?? to.map((v, k) => (v - from[k]) / at.dt)
    for (const [k, names] of PLACES.entries()) {
      columns.floats(names[0])[0] = to[k]
      columns.floats(names[1])[0] = velocity[k]
      if (age === 0) columns.floats(names[2])[0] = from[k]
    }
    columns.floats('age')[0] = Math.fround(age + at.dt)
    this.system.lead(at, frame, false)
  }
  capture(): [] {
    return []
  }
  save(): SolverState & { own: ParticleState } {
    const own = this.system.save()
    return { bytes: own.bytes, own }
  }
  restore(state: SolverState & { own: ParticleState }): void {
    this.system.restore(state.own)
  }
  get bytes(): number {
    return this.system.bytes
  }
  dispose(): void {
    this.system.dispose()
  }
}
const PLACES = [
  ['px', 'vx', 'sx'],
  ['py', 'vy', 'sy'],
  ['pz', 'vz', 'sz'],
] as const
