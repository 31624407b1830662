import { grouped } from '../../shot'
import { ColliderRecords, Pairs } from '../contact'
import type { Neighbourhood } from '../fields'
import { type Notice, Notices, noStats, type PointsPart, type SystemStats } from '../frame'
import { hashOf, identity, indexOfSorted, invert, type Matrix, multiply } from '../math'
import {
  Arena,
  Block,
  CONTROL,
  type ColumnName,
  Columns,
  JOB,
  JOB_KIND,
  type Machine,
  MemoryRefused,
  Stopped,
  wasStopped,
  writeRecord,
} from '../memory'
import { type ObjectState, seenFrom } from '../objects'
import { encodeContact, encodeMass, OpWriter, type SurfaceRequest } from '../ops'
import { type ForcePlan, inOrder, type MeetParams, type PlanSystem, type StepTime, widestOf } from '../plan'
import type { Flow, ForceGuard, Solver, Substep, Take } from '../solver'
import { countPhases, pointsOf } from './captured'
import { compact } from './compact'
import { Emitter } from './emitter'
import type { Follower } from './follower'
import type { ParticleState } from './particleState'
import { arrive, type Passing } from './passing'
import { offenderOf } from './probe'
import { type Shoal, settle } from './shoal'
import { Turning } from './turning'

const CHUNK = 2048

/** One particle system while it runs. */
export class ParticleSystem implements Solver {
  readonly gives: readonly Flow[] = ['points']
  readonly takes: readonly Take[] = [
    { flow: 'surfaces', when: 'now' },
    { flow: 'fields', when: 'now' },
    { flow: 'points', when: 'before' },
  ]
  readonly id: string
  readonly columns: Columns
  readonly records: ColliderRecords
  readonly ops = new OpWriter()
  stats: SystemStats = noStats()
  readonly forces: ForceGuard = this.forceGuard()
  /** Seconds that its time goes on in this substep. */
  dt = 0
  /** What goes along with its particles. */
  readonly followers: Follower[] = []
  /** How many ops there are up to and with each force. */
  marks: { id: string; ops: number }[] = []
  /** The objects in its space, in the substep that was prepared. */
  seen: readonly ObjectState[] = []
  /** Its forces as they act: what drags behind all that accelerate. */
  private readonly inOrder: readonly ForcePlan[]
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly messages: Notices
  private readonly emitter: Emitter
  private readonly job: number
  private readonly program: Block
  private readonly map: Block
  private outs: Block[] = []
  readonly turning: Turning
  /** Whom turns took away in the substep, for other systems. */
  private departed: Passing[] = []
  private pairs: Pairs | null = null
  /** Ids of forces that threw particles to non-finite places: they act no more. */
  private off = new Set<string>()
  private offenders: string[] = []

  /** `what`: what of it is lost when it becomes non-finite, and what happens then, for notices. */
  constructor(
    machine: Machine,
    readonly plan: PlanSystem,
    private readonly near: Neighbourhood,
    private readonly lossOf: (count: number) => string = (count) =>
      `${grouped(count)} particles of ${plan.name} became non-finite and were removed`,
  ) {
    this.id = plan.id
    this.turning = new Turning(plan.turns ?? [])
    this.inOrder = inOrder(plan.forces)
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.messages = new Notices(plan.id)
    this.columns = new Columns(this.arena, plan.extraColumns)
    this.job = this.arena.take(JOB.bytes)
    this.program = new Block(this.arena)
    this.map = new Block(this.arena)
    this.records = new ColliderRecords(this.machine)
    this.emitter = new Emitter(this.machine, plan, this.columns, this.messages)
  }
  /** Whose parts of a frame are its own. */
  get element(): string {
    return this.plan.id
  }
  get count(): number {
    return this.columns.count
  }
  get notices(): readonly Notice[] {
    return this.messages.all
  }
  beginFrame(): void {
    this.stats = noStats()
  }
  beginAgain(): void {
    this.emitter.beginAgain()
  }
  private timeScaleAt(t: number): number {
    return Math.max(0, this.plan.timeScale?.(t) ?? 1)
  }
  /** The objects as it sees them: from its own space, when it has one. */
  private objectsAt({ at, objects }: Substep): readonly ObjectState[] {
    const { space } = this.plan
    return space ? seenFrom(objects, space(at.t0, identity()), space(at.t1, identity())) : objects
  }
  spawn(substep: Substep): void {
    this.seen = this.objectsAt(substep)
    this.stats.born += this.emitter.spawn(substep, this.seen, this.timeScaleAt(substep.at.t0))
  }
  /** The ops of the substep, with records of objects and looks at neighbours: whatever reads more than one particle. */
  prepare(substep: Substep): void {
    const { at, frame, points, examining } = substep
    const { ops } = this
    if (examining) this.seen = this.objectsAt(substep)
    ops.clear()
    this.records.begin()
    this.dt = Math.fround(at.dt * this.timeScaleAt(at.t0))
    this.marks = []
    if (!(this.count || examining || this.followers.some((f) => f.feels)) || !(this.dt > 0)) return
    const mass = this.plan.mass?.(at.t0)
    if (mass) encodeMass(ops, mass[0], mass[1], this.plan.seed)
    const own = { ...at, dt: this.dt }
    for (const force of this.inOrder) {
      if (this.off.has(force.id)) continue
      force.encode(ops, own)
      this.marks.push({ id: force.id, ops: ops.count })
    }
    this.turning.prepare(own)
    const writers = [ops, this.turning.ops]
    for (const w of writers)
      for (const s of w.surfaces) {
        const record = this.records.target(this.seen[s.object], needsOf(s))
        w.patch(s.at, record)
        if (s.region && record) w.patch(s.at + 1, this.records.amounts(this.seen[s.object], s.region))
        if (!record && !s.optional) w.drop(s.at)
      }
    for (const w of writers) for (const a of w.airs) w.patch(a.at, substep.airs[a.gas] ?? 0)
    this.fillVolumes(frame)
    let k = 0
    for (const w of writers)
      for (const p of w.passes) {
        const asked = p.system < 0 ? { id: this.id, columns: this.columns } : points[p.system]
        if (!asked) {
          if (!p.optional) w.drop(p.at)
          continue
        }
        if (k === this.outs.length) this.outs.push(new Block(this.arena))
        const out = this.outs[k++]
        const { stride, crowded } = this.near.pass(p, this.columns, asked.columns, asked.id, out)
        w.patch(p.at, out.at)
        if (p.columns > 1) w.patch(p.at + 1, stride)
        if (crowded) this.reportCrowd(frame, crowded, 'within the radius they look at')
      }
    const inPhases = this.turning.ops.counts.length ? countPhases(this.columns, this.plan.phases ?? 1) : []
    for (const c of this.turning.ops.counts) this.turning.ops.patch(c.at, inPhases[c.phase] ?? 0)
    if (wasStopped(this.arena)) throw new Stopped()
  }
  /** Takes in who comes by a turn, from another system or its own, as many as there is room for. */
  receive(p: Passing, at: StepTime, frame: number, from: ParticleSystem): void {
    const { columns } = this
    const first = columns.count
    const count = this.emitter.roomFor(p.count, frame)
    if (count <= 0) return
    columns.count = first + count
    const elsewhere = from === this ? null : { into: from.intoSpaceOf(this, at.t1) }
    arrive(columns, first, count, p, p.passes.effect(at.t0), { id: this.emitter.nextId, from: hashOf(from.element) }, elsewhere)
    this.emitter.nextId += count
    this.stats.born += count
  }
  /** Takes in those who were shed by another system, or its own: they begin with the coming substep, each at its moment of it. */
  admit(shoal: Shoal, phase: number, { at, frame }: Substep, from: ParticleSystem): void {
    const { columns } = this
    const first = columns.count
    const count = this.emitter.roomFor(shoal.count, frame)
    if (count <= 0) return
    columns.count = first + count
    const into = from === this ? null : from.intoSpaceOf(this, at.t1)
    const dt = Math.fround(at.dt * this.timeScaleAt(at.t0))
    settle(columns, first, count, shoal, {
      phase,
      into,
      dt,
      id: this.emitter.nextId,
      life: this.plan.life(at.t0),
      from: hashOf(from.element),
    })
    this.emitter.nextId += count
    this.stats.born += count
  }
  passOn({ at, frame }: Substep, to: (system: number) => Solver | undefined): void {
    for (const p of this.departed) {
      const target = to(p.passes.system)
      if (target instanceof ParticleSystem) target.receive(p, at, frame, this)
    }
    this.departed = []
  }
  /** From its own space to that of another system, at t; null: the same. */
  intoSpaceOf(other: ParticleSystem, t: number): Matrix | null {
    const from = this.plan.space?.(t, identity())
    const to = other.plan.space?.(t, identity())
    const into = to ? invert(to) : null
    return from && into ? multiply(into, from) : (from ?? into)
  }
  private countTurns(from: number): void {
    const taken = Object.entries(this.turning.count(this.arena.view(), this.program.at + from * 4, this.columns))
    if (!taken.length) return
    this.stats.turns = { ...this.stats.turns }
    for (const [id, n] of taken) this.stats.turns[id] = (this.stats.turns[id] ?? 0) + n
  }
  private fillVolumes(frame: number): void {
    for (const request of this.ops.volumes) {
      try {
        this.ops.patch(request.at, this.near.volume(request))
      } catch (error) {
        if (!(error instanceof MemoryRefused)) throw error
        this.ops.drop(request.at)
        const message = `a velocity volume that reaches ${this.plan.name}: ${error.message}; nothing flows in it: give it fewer cells`
        this.messages.add('memory', frame, message)
      }
    }
  }
  private reportCrowd(frame: number, count: number, where: string): void {
    this.messages.add(
      'crowd',
      frame,
      `${grouped(count)} particles of ${this.plan.name} have far too many others ${where}; not all of them count: make the radius smaller, or let them start farther apart`,
    )
  }
  /** Forces, velocity, contact, position, deaths of all particles. */
  step({ at, frame }: Substep): void {
    // A substep that was stopped half way handed nobody over.
    this.departed = []
    if (!(this.dt > 0)) return
    if (this.count === 0) {
      this.lead(at, frame, false)
      return
    }
    const meet = this.plan.meet?.params(at.t0)
    const met = this.encodeContacts(at, meet)
    for (const e of this.plan.endings ?? []) e.encode(this.ops, at)
    const turns = this.turning.ops.count ? this.ops.append(this.turning.ops) : null
    this.arm(this.ops.words, this.ops.count, 0, this.count, this.columns.table)
    this.turning.begin(this.columns)
    this.runJob(this.count > CHUNK)
    if (wasStopped(this.arena)) throw new Stopped()
    if (turns !== null) this.countTurns(turns)
    const done = this.arena.view()
    const died = done.getUint32(this.job + JOB.died, true)
    const lost = done.getUint32(this.job + JOB.lost, true)
    this.stats.contacts += done.getUint32(this.job + JOB.contacts, true)
    this.stats.died += died
    this.lead(at, frame, died > 0)
    const marked = turns !== null ? this.turning.takePassing(this.columns) : []
    if (died) compact(this.machine, this.job, this.columns, died, this.map)
    for (const { id, count } of this.records.contactCounts())
      if (count) this.stats.with = { ...this.stats.with, [id]: (this.stats.with[id] ?? 0) + count }
    if (meet && this.plan.meet) {
      this.pairs ??= new Pairs(this.machine)
      const { blows, crowded } = this.pairs.meet(this.columns, meet, this.plan.meet.seed, this.dt, this.ops.weight, met)
      this.stats.contacts += blows
      if (crowded) this.reportCrowd(frame, crowded, 'at one place, and come apart only slowly')
    }
    if (lost) this.handleLoss(frame, lost)
    this.departed = marked.filter((p) => p.passes.system >= 0)
    for (const p of marked) if (p.passes.system < 0) this.receive(p, at, frame, this)
  }
  /** All that follow its particles, when these have moved. */
  lead(at: StepTime, frame: number, died: boolean): void {
    for (const f of this.followers) f.follow(this.columns, at, this.dt, frame, died)
  }
  /** The ops of its forces in this substep, without what reads neighbours: what acts on points that are none of its particles. */
  get forceWords(): Uint32Array {
    return this.ops.slice(0, this.marks.at(-1)?.ops ?? 0)
  }
  private encodeContacts(at: StepTime, meet: MeetParams | undefined): { at: number; count: number; most: number } {
    const most = widestOf(this.plan.forces, at)
    const radius = meet ? meet.radius + meet.radiusVary : (this.plan.ball?.(at.t0) ?? 0)
    const first = this.records.collect(this.plan.contacts, at.t0, this.seen, radius * most)
    const count = this.records.colliders.length
    if (count) encodeContact(this.ops, first, count, meet ? meet.radius : radius, meet?.radiusVary, most, this.plan.meet?.seed)
    return { at: first, count, most }
  }
  private handleLoss(frame: number, count: number): void {
    const offender = offenderOf(this)
    if (offender) this.off.add(offender.id)
    if (offender) this.offenders.push(offender.id)
    const advice = offender
      ? `${offender.name} pushes far too hard and is switched off from here on: make it weaker`
      : 'look for a force or a speed that is far too strong'
    this.messages.add('lost', frame, `${this.lossOf(count)}; ${advice}`)
  }
  private forceGuard(): ForceGuard {
    return {
      takeOffenders: () => this.offenders.splice(0),
      switchOff: (forces, frame) => {
        for (const id of forces) {
          this.off.add(id)
          const name = this.plan.forces.find((f) => f.id === id)?.name ?? id
          const message = `${name} made ${this.plan.name} non-finite; it pushes far too hard, and is switched off from frame ${frame} on: make it weaker`
          this.messages.add('lost', frame, message)
        }
      },
    }
  }
  /** A step job over particles `from` up to `count` of a table of columns. */
  arm(words: Uint32Array, ops: number, from: number, count: number, table: number): void {
    const program = this.program.reserve(words.byteLength)
    if (words.length) this.arena.u32(program, words.length).set(words)
    new Uint8Array(this.arena.memory.buffer, this.job, JOB.bytes).fill(0)
    writeRecord(
      this.arena.view(),
      this.job,
      JOB,
      { kind: JOB_KIND.step, next: from, count, chunk: CHUNK, stop: CONTROL.stop, scratch: this.machine.scratch },
      { ops: program, opCount: ops, columns: table, dt: this.dt, endless: this.plan.endless ? 1 : 0 },
    )
  }
  runJob(all: boolean): void {
    if (all) this.machine.host.team.run(this.job)
    else this.machine.host.exports.work(this.job, 0)
  }
  /** Columns of the same kinds, for probes; to be disposed of. */
  otherColumns(): Columns {
    return new Columns(this.arena, this.plan.extraColumns)
  }
  /** Where a particle stands in the columns, or −1. Ids only grow. */
  indexOf(id: number): number {
    return indexOfSorted(this.columns.words('id'), id)
  }
  /** One number of a particle as it is now. */
  value(name: ColumnName, i: number): number {
    return this.columns.value(name, i)
  }
  capture(): PointsPart[] {
    if ((this.plan.phases ?? 1) > 1) this.stats.phases = countPhases(this.columns, this.plan.phases ?? 1)
    return [pointsOf(this.id, this.columns, this.plan.kept)]
  }
  save(): ParticleState {
    const words = this.columns.save()
    const { names } = this.columns
    const { nextId } = this.emitter
    const stats = { ...this.stats, alive: this.count }
    return {
      bytes: words.byteLength,
      words,
      names,
      births: this.emitter.save(),
      nextId,
      stats,
      off: [...this.off],
      notices: [...this.notices],
    }
  }
  restore(s: ParticleState): void {
    this.columns.restore(s.words, s.names)
    this.emitter.restore(s.births, s.nextId)
    this.stats = { ...s.stats }
    this.off = new Set(s.off)
    this.messages.restore(s.notices)
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
    this.pairs = null
    this.outs = []
  }
}
/** What of an object's surface an op needs. */
function needsOf({ pick }: SurfaceRequest): { surface: boolean; picks: boolean; sites: boolean } {
  return { surface: pick !== 'middle', picks: pick === 'kept', sites: pick === 'inTurn' }
}
