import { grouped } from '../../shot'
import { Notices, tinted, tintOf } from '../frame'
import { cosTurns, hash3, sinTurns, unit } from '../math'
import { type Allocator, type Columns, Stopped, TURN_COLUMNS, wasStopped } from '../memory'
import type { ShedLaunch, ShedPlan, StepTime } from '../plan'
import type { Flow, Solver, SolverState, Substep, Take } from '../solver'
import type { Follower } from './follower'
import type { ParticleSystem } from './particleSystem'
import { Path, Paths } from './path'
import { Shoal } from './shoal'

interface ShedState extends SolverState {
  before: Float32Array
  /** Of `metre`: births due so far, with the part of the next. */
  due: Float64Array
  notices: Notices['all']
}
/** More than that in one substep are a mistake: they would take minutes, and memory. */
const MOST = 200_000
/** Parents between two looks at the stop flag. */
const PATIENCE = 4096
const signed = (h: number): number => unit(h) * 2 - 1
const bits = new DataView(new ArrayBuffer(4))
const bitsOf = (x: number): number => {
  bits.setFloat32(0, x)
  return bits.getUint32(0)
}

/**
 * What the particles of a system shed: each birth at its own moment along the path of the one that sheds it. Those who are shed begin at the end of
 * the substep, with all of it still to come: their lives lag behind the path by one substep, all by the same.
 */
export class Shed implements Solver, Follower {
  readonly gives: readonly Flow[] = []
  /** It hands over when all particles have stepped. */
  readonly takes: readonly Take[] = [{ flow: 'points', when: 'now' }]
  readonly id: string
  readonly built = { strips: 0, points: 0 }
  readonly feels = false
  private readonly messages: Notices
  private readonly paths = new Paths()
  private readonly path = new Path()
  private due: Float64Array = new Float64Array(0)
  private shoal = new Shoal()
  private wanted = 0
  private colour: ReturnType<NonNullable<ShedPlan['colour']>['of']> | undefined
  private readonly here = [0, 0, 0, 0, 0, 0]
  private readonly velocity = [0, 0, 0]

  constructor(
    private readonly heap: Allocator,
    private readonly plan: ShedPlan,
    private readonly system: ParticleSystem,
  ) {
    this.id = `shed ${plan.id}`
    this.messages = new Notices(system.element)
    system.followers.push(this)
  }
  get notices() {
    return this.messages.all
  }
  prepare(): void {
    // It is led by its system.
  }
  step(): void {
    // It is led by its system.
  }
  follow(columns: Columns, at: StepTime, dt: number, frame: number): void {
    const { plan, paths } = this
    this.shoal.count = 0
    this.wanted = 0
    const { count } = columns
    if (!count) {
      paths.followed = 0
      return
    }
    if (plan.each === 'metre' && this.due.length < count) {
      const grown = new Float64Array(Math.ceil(count * 1.5))
      grown.set(this.due)
      this.due = grown
    }
    this.shed(columns, at, dt)
    if (plan.each === 'metre') this.closeUp(columns)
    paths.keep(columns)
    if (this.wanted > MOST) {
      const [would, most, tenth] = [this.wanted, MOST, this.wanted / 10].map((n) => grouped(Math.round(n)))
      const message = `${plan.name}: ${would} births in one substep, of which it makes ${most}; a tenth of the ${HOW_MANY[plan.each]} or a share of 10 % of the particles would be ${tenth}`
      this.messages.add('limit', frame, message)
    }
  }
  private shed(columns: Columns, at: StepTime, dt: number): void {
    const { plan, paths } = this
    const launch = plan.launch(at.t0)
    this.colour = plan.colour?.of(at.t0)
    const harder = plan.touch(at.t0)
    const [seeds, ids, phases, dead] = (['seed', 'id', 'phase', 'dead'] as const).map((n) => columns.words(n))
    const generations = columns.has('generation') ? columns.words('generation') : null
    const sizes = columns.has('size') ? columns.floats('size') : null
    const tints = columns.has('tint') ? columns.words('tint') : null
    const turned = columns.has('turned') ? columns.words('turned') : null
    const [px, py, pz, vx, vy, vz, age, life, sx, sy, sz] = (
      ['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life', 'sx', 'sy', 'sz'] as const
    ).map((n) => columns.floats(n))
    const orientation = launch.lies && columns.has('qx') ? TURN_COLUMNS.map((n) => columns.floats(n)) : null
    const turn = orientation && ((i: number) => orientation.map((c) => c[i]))
    const touch = columns.has('touched') ? touchesOf(columns) : null
    const to = [0, 0, 0, 0, 0, 0]
    const born = [0, 0, 0, 0, 0, 0]
    for (let i = 0; i < columns.count; i++) {
      if (i % PATIENCE === 0 && wasStopped(this.heap)) throw new Stopped()
      if (plan.phases !== undefined && !((plan.phases >>> phases[i]) & 1)) continue
      if (plan.share < 1 && unit(hash3(plan.seed, seeds[i], 61)) >= plan.share) continue
      const generation = generations ? generations[i] : 0
      if (generation >= plan.generations) continue
      const fresh = i >= paths.followed
      const h = fresh ? Math.min(dt, Math.max(0, age[i])) : dt
      if (!(h > 0)) continue
      ;[to[0], to[1], to[2], to[3], to[4], to[5]] = [px[i], py[i], pz[i], vx[i], vy[i], vz[i]]
      if (!to.every(Number.isFinite)) continue
      let from: ArrayLike<number> = born
      if (fresh) {
        ;[born[0], born[1], born[2]] = age[i] <= dt * 1.001 ? [sx[i], sy[i], sz[i]] : [px[i], py[i], pz[i]]
        for (let k = 0; k < 3; k++) born[k + 3] = (2 * (to[k] - born[k])) / h - to[k + 3]
      } else from = paths.at(i)
      const ago = touch?.hash[i] ? age[i] - touch.age[i] : -1
      const met = touch && ago >= 0 && ago < h
      const contact = met ? { at: [touch.x[i], touch.y[i], touch.z[i]], when: 1 - ago / h } : null
      this.path.set(from, to, h, contact)
      // One whose life ended within the substep went so far.
      const ended = dead[i] !== 0 && !turned?.[i]
      const end = !ended ? 1 : life[i] > 0 && age[i] > life[i] ? Math.max(0, 1 - (age[i] - life[i]) / h) : (contact?.when ?? 1)
      const one = {
        i,
        id: ids[i],
        seed: seeds[i],
        phase: phases[i],
        life: life[i],
        tint: tints ? tints[i] : 0,
        turn,
        generation,
        h,
        end,
        age: age[i],
        launch,
        from,
        to,
        grown: sizes ? sizes[i] : 0,
      }
      switch (plan.each) {
        case 'metre':
          this.perMetre(one, at)
          break
        case 'second':
          this.perSecond(one, at)
          break
        case 'contact':
          if (met && touch.speed[i] >= harder.speed && (!harder.object || touch.hash[i] === harder.object) && contact)
            this.atOnce(one, at, contact.when, bitsOf(touch.age[i]))
          break
        case 'end':
          if (ended) this.atOnce(one, at, end, 1)
          break
        case 'turn': {
          const since = age[i] - columns.floats('phaseStart')[i]
          if (since >= 0 && since < h && columns.floats('phaseStart')[i] > 0) this.atOnce(one, at, 1 - since / h, bitsOf(age[i] - since))
        }
      }
    }
  }
  private perMetre(one: One, at: StepTime): void {
    const before = one.i < this.paths.followed ? this.due[one.i] : unit(hash3(this.plan.seed, one.seed, 62))
    const metres = this.path.length(one.end)
    const after = before + metres * Math.max(0, this.plan.rate(at.t0))
    this.due[one.i] = after
    this.between(one, before, after, 0, one.end)
  }
  private perSecond(one: One, { t0, t1 }: StepTime): void {
    // Of the shot's seconds, so that keys on the rate count as they stand.
    const began = t1 - ((t1 - t0) * one.h) / this.system.dt
    const phase = unit(hash3(this.plan.seed, one.seed, 62))
    const before = this.plan.rate(began) + phase
    const after = this.plan.rate(began + (t1 - began) * one.end) + phase
    this.between(one, before, after, 0, one.end)
  }
  /** Births at all whole numbers between two counts, evenly over a part of the path. */
  private between(one: One, before: number, after: number, from: number, to: number): void {
    const first = Math.floor(before) + 1
    const last = Math.floor(after)
    if (last < first || !Number.isFinite(after)) return
    for (let k = first; k <= last; k++) {
      if (this.full()) {
        this.wanted += last - k
        return
      }
      this.birth(one, from + ((k - before) / (after - before)) * (to - from), k)
    }
  }
  /** Several at one moment; `which`: of the moments of this particle. */
  private atOnce(one: One, at: StepTime, when: number, which: number): void {
    const [n, vary] = this.plan.count(at.t0)
    const own = hash3(this.plan.seed, one.seed, which)
    const count = Math.max(0, Math.round(n + vary * signed(hash3(own, 0, 63))))
    for (let k = 0; k < count; k++) {
      if (this.full()) {
        this.wanted += count - k - 1
        return
      }
      this.birth(one, when, hash3(own, k, 64))
    }
  }
  private full(): boolean {
    return ++this.wanted > MOST
  }
  private birth(one: One, when: number, which: number): void {
    const { plan, here, velocity } = this
    const age = one.age - (1 - when) * one.h
    if (age < plan.ages[0] || age > plan.ages[1]) return
    this.path.sample(when, here)
    // A hash of the one that sheds it: nothing else in the shot changes it.
    const seed = hash3(hash3(plan.seed, one.seed, 65), which, 66)
    aim(one, seed, here, velocity)
    const size = 1 + one.grown * one.launch.size
    this.shoal.push({
      place: here,
      velocity,
      when,
      generation: one.generation + 1,
      size,
      seed,
      parent: one.id,
      tint: this.tint(one, age),
      turn: one.turn?.(one.i) ?? null,
    })
  }
  /** The colour that one takes over who is shed at an age. */
  private tint({ phase, life, tint }: One, age: number): number {
    const { colour } = this.plan
    if (!colour || !this.colour) return 0
    const own = this.colour(phase, life > 0 ? Math.min(1, Math.max(0, age / life)) : 1)
    return tintOf(tint ? tinted(own, tint) : own, colour.share)
  }
  /** What is due goes along with the particles that stay. */
  private closeUp(columns: Columns): void {
    const dead = columns.words('dead')
    let live = 0
    for (let i = 0; i < columns.count; i++) if (!dead[i]) this.due[live++] = this.due[i]
  }
  passOn(substep: Substep, to: (system: number) => Solver | undefined): void {
    if (!this.shoal.count) return
    const target = this.plan.system < 0 ? this.system : (to(this.plan.system) as ParticleSystem | undefined)
    target?.admit(this.shoal, this.plan.phase, substep, this.system)
    this.shoal.count = 0
  }
  capture(): [] {
    return []
  }
  save(): ShedState {
    const before = this.paths.save()
    const due = this.due.slice(0, this.plan.each === 'metre' ? this.paths.followed : 0)
    return { bytes: before.byteLength + due.byteLength, before, due, notices: this.notices }
  }
  restore(s: ShedState): void {
    this.paths.restore(s.before)
    this.due = s.due.slice()
    this.shoal.count = 0
    this.messages.restore(s.notices)
  }
  get bytes(): number {
    return 0
  }
  dispose(): void {
    this.shoal = new Shoal()
  }
}
/** One that may shed, in a substep. */
interface One {
  i: number
  id: number
  seed: number
  phase: number
  /** s; and the colour that it took over itself. */
  life: number
  tint: number
  /** How one lies and spins as the substep ends; null: it does not matter. */
  turn: ((i: number) => number[]) | null
  generation: number
  /** Seconds of it in the substep, and how much of them it lived. */
  h: number
  end: number
  /** As the substep ended. */
  age: number
  launch: ShedLaunch
  from: ArrayLike<number>
  to: ArrayLike<number>
  /** Factor on its size, less one. */
  grown: number
}
const HOW_MANY = { metre: 'rate', second: 'rate', contact: 'number', end: 'number', turn: 'number' } as const
function touchesOf(columns: Columns) {
  const [x, y, z, age, speed] = (['tx', 'ty', 'tz', 'touchedAge', 'touchSpeed'] as const).map((n) => columns.floats(n))
  return { hash: columns.words('touched'), x, y, z, age, speed }
}
/** The velocity of one that is shed: evenly over the sphere between two angles off the direction. */
function aim({ launch: l, from, to }: One, seed: number, here: readonly number[], out: number[]): void {
  let d: readonly number[] = l.direction
  if (l.along === 'motion') d = here.slice(3)
  // What a contact did to the velocity is off the surface, but for friction.
  else if (l.along === 'normal') d = [0, 1, 2].map((k) => to[k + 3] - from[k + 3])
  const length = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2)
  const [x, y, z] = length > 1e-9 ? d.map((v) => v / length) : [0, 1, 0]
  const [inner, outer] = l.along === 'any' ? [1, -1] : [l.hollowTurns, l.spreadTurns].map((a) => cosTurns(Math.min(0.5, Math.max(0, a))))
  const c = inner - unit(hash3(seed, 1, 4)) * (inner - outer)
  const s = Math.sqrt(Math.max(0, 1 - c * c))
  const a = unit(hash3(seed, 1, 5))
  const [u, v] = [s * cosTurns(a), s * sinTurns(a)]
  // A frame around the direction after Duff et al. 2017.
  const sign = z >= 0 ? 1 : -1
  const fa = -1 / (sign + z)
  const fb = x * y * fa
  const speed = l.speed + l.speedVary * signed(hash3(seed, 1, 6))
  out[0] = here[3] * l.inherit + speed * ((1 + sign * x * x * fa) * u + fb * v + x * c)
  out[1] = here[4] * l.inherit + speed * (sign * fb * u + (sign + y * y * fa) * v + y * c)
  out[2] = here[5] * l.inherit + speed * (-sign * x * u - y * v + z * c)
}
