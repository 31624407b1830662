import type { Frame } from './frame'
import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { hash3 } from './math'
import { apply, type Matrix } from './matrix'
import type { Neighbourhood } from './neighbours'
import type { ObjectState } from './objectState'
import type { Plan, PlanBody, StepTime } from './plan'
import { SystemRun, type SystemSnapshot } from './system'

type V3 = [number, number, number]
/** x, y, z, w */
type Quaternion = [number, number, number, number]

export interface BodySnapshot {
  system: SystemSnapshot
  turned: Quaternion
  spin: V3
  /** Seconds, and twelve numbers of its matrix, from when it was let go on. */
  times: Float64Array
  track: Float64Array
}
const cross = (a: readonly number[], b: readonly number[]): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]

/**
 * A rotation by the mean spin (radians a second) over dt, after another: of unit length whatever the step (Cayley), short by the square of
 * half its angle over three.
 */
export function turnedBy(q: Quaternion, spin: readonly number[], dt: number): Quaternion {
  const [x, y, z] = spin.map((v) => (v * dt) / 2)
  const [a, b, c, w] = q
  const out = [a + x * w + y * c - z * b, b + y * w + z * a - x * c, c + z * w + x * b - y * a, w - x * a - y * b - z * c]
  const length = Math.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2] + out[3] * out[3])
  return out.map((v) => v / length) as Quaternion
}
/** Rows of the rotation of a unit quaternion. */
export const rotationOf = ([x, y, z, w]: Quaternion): V3[] => [
  [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
  [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
  [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
]

/** One object that the simulation moves: a particle with a radius at the middle of its shape, which also rotates. */
class Body {
  readonly run: SystemRun
  turned: Quaternion = [0, 0, 0, 1]
  spin: V3 = [0, 0, 0]
  times: number[] = []
  track: number[] = []
  constructor(
    heap: Heap,
    host: KernelHost,
    scratch: number,
    readonly plan: PlanBody,
  ) {
    this.run = new SystemRun(heap, host, scratch, plan.system)
  }
  /** Its matrix at t; null before it was let go. Between two substeps on a straight line, later than the last as it was then. */
  at(t: number): Matrix | null {
    const { times, track } = this
    if (!times.length || t < times[0]) return null
    let low = 0,
      high = times.length - 1
    while (low < high) {
      const mid = (low + high + 1) >> 1
      if (times[mid] <= t) low = mid
      else high = mid - 1
    }
    const f = low + 1 < times.length ? (t - times[low]) / (times[low + 1] - times[low]) : 0
    return Float64Array.from({ length: 12 }, (_, k) => {
      const a = track[low * 12 + k]
      return f > 0 ? a + f * (track[(low + 1) * 12 + k] - a) : a
    })
  }
  /** Lets it go where its own values have it at that moment, within the substep. */
  private letGo(at: StepTime, matrixOf: (t: number) => Matrix): void {
    const { plan, run } = this
    const when = Math.max(plan.at, at.t0)
    const m = matrixOf(when)
    this.times = [when]
    this.track = [...m]
    this.turned = [0, 0, 0, 1]
    this.spin = [...plan.spin]
    const here = apply(m, ...plan.middle),
      before = apply(matrixOf(when - at.dt), ...plan.middle)
    const c = run.columns
    c.reserve(1)
    c.count = 1
    for (const name of c.names) c.words(name).fill(0)
    const set = (name: (typeof c.names)[number], v: number) => void (run.heap.f32(c.pointer(name), 1)[0] = v)
    for (const [a, axis] of (['x', 'y', 'z'] as const).entries()) {
      set(`p${axis}`, here[a])
      set(`s${axis}`, here[a])
      set(`v${axis}`, plan.velocity[a] + (plan.inherit * (here[a] - before[a])) / at.dt)
    }
    set('life', 1e9)
    // What of the substep lies before it is waited for, as newborns wait.
    set('age', -(when - at.t0))
    c.words('seed')[0] = hash3(plan.system.seed, 0, 41)
    c.words('id')[0] = 1
  }
  /** To the end of the substep. False when it was stopped half way. */
  step(
    at: StepTime,
    frame: number,
    objects: ObjectState[],
    others: readonly SystemRun[],
    near: Neighbourhood,
    matrixOf: (t: number) => Matrix,
  ): boolean {
    if (!this.times.length) {
      if (!(at.t1 > this.plan.at)) return true
      this.letGo(at, matrixOf)
    }
    const { run } = this
    if (!run.prepare(at, frame, objects, others, near) || !run.advance(at, frame, objects)) return false
    // Gone beyond all numbers, it stays where it was; its system says so.
    if (run.count) this.move(at)
    return true
  }
  private move(at: StepTime): void {
    const { run, plan } = this
    const p = (['px', 'py', 'pz'] as const).map((n) => run.word(n, 0)),
      v = (['vx', 'vy', 'vz'] as const).map((n) => run.word(n, 0))
    const dt = at.t1 - Math.max(at.t0, this.times[0])
    this.rub(at, p, v)
    this.turned = turnedBy(this.turned, this.spin, dt)
    const r = rotationOf(this.turned)
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
  private rub(at: StepTime, p: readonly number[], v: number[]): void {
    const { run, plan } = this
    const since = run.word('age', 0) - run.word('touchedAge', 0)
    if (!run.word('touched', 0) || since > at.dt * 1.001) return
    const radius = plan.system.ball?.(at.t0) ?? 0
    const n = (['tx', 'ty', 'tz'] as const).map((name, a) => (p[a] - v[a] * since - run.word(name, 0)) / Math.max(radius, 1e-9))
    const length = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
    if (!(length > 0.5 && length < 2)) return
    for (let a = 0; a < 3; a++) n[a] /= length
    const { friction, rolling, keep } = plan.rub(at.t0)
    const push = (1 + keep) * run.word('touchSpeed', 0)
    const normal = v[0] * n[0] + v[1] * n[1] + v[2] * n[2]
    const rim = cross(this.spin, n)
    const slip = v.map((x, a) => x - normal * n[a] - radius * rim[a])
    const slips = Math.sqrt(slip[0] * slip[0] + slip[1] * slip[1] + slip[2] * slip[2])
    if (slips > 1e-9) {
      const j = Math.min(friction * push, (slips * 2) / 7) / slips
      const twist = cross(n, slip)
      for (let a = 0; a < 3; a++) {
        v[a] -= j * slip[a]
        this.spin[a] += ((2.5 * j) / Math.max(radius, 1e-9)) * twist[a]
      }
    }
    const along = v.map((x, a) => x - normal * n[a])
    const goes = Math.sqrt(along[0] * along[0] + along[1] * along[1] + along[2] * along[2])
    const left = Math.max(0, 1 - (rolling * push) / Math.max(goes, 1e-9))
    for (let a = 0; a < 3; a++) {
      v[a] -= along[a] * (1 - left)
      this.spin[a] *= left
      run.heap.f32(run.columns.pointer((['vx', 'vy', 'vz'] as const)[a]), 1)[0] = v[a]
    }
  }
  save(): BodySnapshot {
    return {
      system: this.run.save(),
      turned: [...this.turned],
      spin: [...this.spin],
      times: Float64Array.from(this.times),
      track: Float64Array.from(this.track),
    }
  }
  restore(s: BodySnapshot): void {
    this.run.restore(s.system)
    this.turned = [...s.turned]
    this.spin = [...s.spin]
    this.times = [...s.times]
    this.track = [...s.track]
  }
}

/**
 * Objects that the simulation moves. They go first in a substep; of each other, and of what particles do, they take the state of the
 * substep before.
 */
export class Bodies {
  private list: Body[] = []
  constructor(
    private heap: Heap,
    private host: KernelHost,
    private scratch: number,
  ) {}
  load(plan: Plan): void {
    this.dispose()
    this.list = (plan.bodies ?? []).map((b) => new Body(this.heap, this.host, this.scratch, b))
  }
  get runs(): SystemRun[] {
    return this.list.map((b) => b.run)
  }
  /** Where an object is at t, if it was let go by then. */
  at(id: string, t: number): Matrix | null {
    return this.list.find((b) => b.plan.system.id === id)?.at(t) ?? null
  }
  get any(): boolean {
    return this.list.length > 0
  }
  step(plan: Plan, at: StepTime, frame: number, objects: ObjectState[], others: readonly SystemRun[], near: Neighbourhood): boolean {
    // All see the others as the substep began.
    return this.list.every((b) =>
      b.step(at, frame, objects, others, near, (t) => plan.objects[b.plan.object].matrix(t, new Float64Array(12))),
    )
  }
  poses(t: number): Frame['poses'] {
    return this.list.flatMap((b) => {
      const m = b.at(t)
      return m ? [{ element: b.plan.system.id, matrix: [...m] }] : []
    })
  }
  save(): Record<string, BodySnapshot> {
    return Object.fromEntries(this.list.map((b) => [b.plan.system.id, b.save()]))
  }
  restore(states: Record<string, BodySnapshot>): void {
    for (const b of this.list) {
      const s = states[b.plan.system.id]
      if (!s) throw new Error(`the snapshot has no body ${b.plan.system.id}`)
      b.restore(s)
    }
  }
  dispose(): void {
    for (const b of this.list) b.run.dispose()
    this.list = []
  }
}
