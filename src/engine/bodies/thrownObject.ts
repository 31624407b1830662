import type { Neighbourhood } from '../fields'
import type { Notice, PlacePart } from '../frame'
import { apply, countUpTo, hash3, type Matrix, type Quaternion, rotatedBy, rotationOf } from '../math'
import type { ColumnName, Machine } from '../memory'
import { type ParticleState, ParticleSystem } from '../particles'
import type { PlanBody, PlanObject, StepTime } from '../plan'
import type { Flow, ForceGuard, Solver, SolverState, Substep, Take } from '../solver'

type V3 = [number, number, number]
interface ThrownState extends SolverState {
  particle: ParticleState
  rotation: Quaternion
  spin: V3
  /** Seconds, and twelve numbers of its matrix, from when it was released on. */
  times: Float64Array
  track: Float64Array
}
const PLACE = ['px', 'py', 'pz'] as const
const VELOCITY = ['vx', 'vy', 'vz'] as const
const TOUCHED = ['tx', 'ty', 'tz'] as const
const cross = (a: readonly number[], b: readonly number[]): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]

/**
 * One object that the simulation moves: a particle with a radius at the middle of its shape, which also rotates. Of other thrown objects, and
 * of what particles do, it takes the state of the substep before.
 */
export class ThrownObject implements Solver {
  readonly gives: readonly Flow[] = ['surfaces']
  readonly takes: readonly Take[] = [
    { flow: 'fields', when: 'now' },
    { flow: 'surfaces', when: 'before' },
    { flow: 'points', when: 'before' },
  ]
  readonly id: string
  readonly forces: ForceGuard
  private particle: ParticleSystem
  private rotation: Quaternion = [0, 0, 0, 1]
  private spin: V3 = [0, 0, 0]
  private times: number[] = []
  private track: number[] = []

  constructor(
    machine: Machine,
    private readonly plan: PlanBody,
    private readonly object: PlanObject,
    near: Neighbourhood,
  ) {
    this.id = plan.system.id
    this.particle = new ParticleSystem(machine, plan.system, near, () => `${plan.system.name} became non-finite and stays where it was`)
    this.forces = this.particle.forces
  }
  get notices(): readonly Notice[] {
    return this.particle.notices
  }
  beginFrame(): void {
    this.particle.beginFrame()
  }
  beginAgain(): void {
    this.times = []
    this.track = []
    this.particle.columns.count = 0
  }
  poseOf(object: string, t: number): Matrix | null {
    return object === this.id ? this.at(t) : null
  }
  /** Its matrix at t; null before it was released. Between two substeps on a straight line, later than the last as it was then. */
  private at(t: number): Matrix | null {
    const { times, track } = this
    const i = countUpTo(times, t) - 1
    if (i < 0) return null
    const f = i + 1 < times.length ? (t - times[i]) / (times[i + 1] - times[i]) : 0
    return Float64Array.from({ length: 12 }, (_, k) => {
      const a = track[i * 12 + k]
      return f > 0 ? a + f * (track[(i + 1) * 12 + k] - a) : a
    })
  }
  spawn(substep: Substep): void {
    if (!this.times.length && substep.at.t1 > this.plan.at) this.release(substep.at)
    this.particle.spawn(substep)
  }
  /** Releases it where its own values have it at that moment, within the substep. */
  private release(at: StepTime): void {
    const { plan } = this
    const { columns } = this.particle
    const own = (t: number) => this.object.matrix(t, new Float64Array(12))
    const when = Math.max(plan.at, at.t0)
    const m = own(when)
    this.times = [when]
    this.track = [...m]
    this.rotation = [0, 0, 0, 1]
    this.spin = [...plan.spin]
    const here = apply(m, ...plan.middle)
    const before = apply(own(when - at.dt), ...plan.middle)
    columns.reserve(1)
    columns.count = 1
    for (const name of columns.names) columns.words(name).fill(0)
    const set = (name: ColumnName, v: number) => columns.floats(name).fill(v, 0, 1)
    for (const [a, axis] of (['x', 'y', 'z'] as const).entries()) {
      set(`p${axis}`, here[a])
      set(`s${axis}`, here[a])
      set(`v${axis}`, plan.velocity[a] + (plan.inherit * (here[a] - before[a])) / at.dt)
    }
    set('life', 1e9)
    // What of the substep lies before it is waited for, as newborns wait.
    set('age', -(when - at.t0))
    columns.words('seed')[0] = hash3(plan.system.seed, 0, 41)
    columns.words('id')[0] = 1
  }
  prepare(substep: Substep): void {
    // Nobody looks into an object.
    if (!substep.examining) this.particle.prepare(substep)
  }
  step(substep: Substep): void {
    this.particle.step(substep)
    // Non-finite, it stays where it was.
    if (this.times.length && this.particle.count) this.move(substep.at)
  }
  private move(at: StepTime): void {
    const { particle, plan } = this
    const p = PLACE.map((n) => particle.value(n, 0))
    const v = VELOCITY.map((n) => particle.value(n, 0))
    const dt = at.t1 - Math.max(at.t0, this.times[0])
    this.applyFriction(at, p, v)
    this.rotation = rotatedBy(this.rotation, this.spin, dt)
    const r = rotationOf(this.rotation)
    const [cx, cy, cz] = plan.middle
    for (let a = 0; a < 3; a++) {
      const row = [0, 1, 2].map((k) => r[a][0] * this.track[k] + r[a][1] * this.track[4 + k] + r[a][2] * this.track[8 + k])
      this.track.push(row[0], row[1], row[2], p[a] - row[0] * cx - row[1] * cy - row[2] * cz)
    }
    this.times.push(at.t1)
  }
  /**
   * Friction of the last contact in this substep, which the contact itself was without: as a ball of even mass, what slips at its rim is
   * stopped by at most the coefficient times the push of the contact, which turns it (inertia 2/5 m r²: to roll takes 2/7 of the slip);
   * then rolling costs a little.
   */
  private applyFriction(at: StepTime, p: readonly number[], v: number[]): void {
    const { particle, plan } = this
    const since = particle.value('age', 0) - particle.value('touchedAge', 0)
    if (!particle.value('touched', 0) || since > at.dt * 1.001) return
    const radius = plan.system.ball?.(at.t0) ?? 0
    const n = TOUCHED.map((name, a) => (p[a] - v[a] * since - particle.value(name, 0)) / Math.max(radius, 1e-9))
    const length = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
    if (!(length > 0.5 && length < 2)) return
    for (let a = 0; a < 3; a++) n[a] /= length
    const { friction, rolling, restitution } = plan.contact(at.t0)
    const normal = v[0] * n[0] + v[1] * n[1] + v[2] * n[2]
    // What lies on the surface presses with its weight for as long as it does.
    const [gx, gy, gz] = particle.ops.weight
    const lies = Math.abs(normal) < 1e-4 ? Math.max(0, -(gx * n[0] + gy * n[1] + gz * n[2])) * since : 0
    const push = (1 + restitution) * particle.value('touchSpeed', 0) + lies
    const rim = cross(this.spin, n)
    const slip = v.map((x, a) => x - normal * n[a] - radius * rim[a])
    const slipSpeed = Math.sqrt(slip[0] * slip[0] + slip[1] * slip[1] + slip[2] * slip[2])
    if (slipSpeed > 1e-9) {
      const j = Math.min(friction * push, (slipSpeed * 2) / 7) / slipSpeed
      const twist = cross(n, slip)
      for (let a = 0; a < 3; a++) {
        v[a] -= j * slip[a]
        this.spin[a] += ((2.5 * j) / Math.max(radius, 1e-9)) * twist[a]
      }
    }
    const along = v.map((x, a) => x - normal * n[a])
    const speed = Math.sqrt(along[0] * along[0] + along[1] * along[1] + along[2] * along[2])
    const left = Math.max(0, 1 - (rolling * push) / Math.max(speed, 1e-9))
    for (let a = 0; a < 3; a++) {
      v[a] -= along[a] * (1 - left)
      this.spin[a] *= left
      particle.columns.floats(VELOCITY[a])[0] = v[a]
    }
  }
  capture(t: number): PlacePart[] {
    const m = this.at(t)
    if (!m) return []
    const velocity = this.particle.count ? VELOCITY.map((n) => this.particle.value(n, 0)) : [0, 0, 0]
    const motion = { middle: apply(m, ...this.plan.middle), velocity, spin: [...this.spin] }
    return [{ kind: 'place', element: this.id, matrix: [...m], motion }]
  }
  save(): ThrownState {
    const particle = this.particle.save()
    const times = Float64Array.from(this.times)
    const track = Float64Array.from(this.track)
    const bytes = particle.bytes + times.byteLength + track.byteLength + 512
    return { bytes, particle, rotation: [...this.rotation], spin: [...this.spin], times, track }
  }
  restore(s: ThrownState): void {
    this.particle.restore(s.particle)
    this.rotation = [...s.rotation]
    this.spin = [...s.spin]
    this.times = [...s.times]
    this.track = [...s.track]
  }
  get bytes(): number {
    return this.particle.bytes
  }
  dispose(): void {
    this.particle.dispose()
  }
}
