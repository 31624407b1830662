import { Block } from './blocks'
import { Columns } from './columns'
import { MemoryRefused, type Notice } from './errors'
import { ALL_POINT_COLUMNS, noStats, POINT_COLUMNS, type PointsPart, type SystemStats } from './frame'
import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { BIRTH, COLLIDER, type ColumnName, COLUMNS, CONTROL, JOB, JOB_GATHER, JOB_STEP, SCRATCH, WORD_COLUMNS } from './layout'
import { cosTurns } from './math'
import type { Neighbourhood } from './neighbours'
import { OpWriter } from './ops'
import { Pairs } from './pairs'
import type { BirthBatch, BirthPlan, BirthState, PlanSystem, StepTime } from './plan'
import type { ObjectState } from './objectState'
import { Records } from './records'
import { KIND, placeOf } from './sources'

export interface SystemSnapshot {
  words: Uint32Array
  /** Number of the next particle, by the id of the birth. */
  births: Record<string, number>
  nextId: number
  stats: SystemStats
  /** Forces that it goes on without. */
  off: string[]
}
/** Births and casts start this far off the surface, metres, so that a particle is not on the wrong side by rounding. */
const BIRTH_OFF = 2e-4
const CHUNK = 2048

/** One particle system while it runs. */
export class SystemRun {
  readonly columns: Columns
  readonly ops = new OpWriter()
  births: BirthState[]
  nextId = 0
  stats: SystemStats = noStats()
  notices = new Map<Notice['kind'], Notice>()
  /** Ids of forces that threw particles beyond all numbers: they act no more. */
  off = new Set<string>()
  /** How many of the last substep went beyond all numbers. */
  lost = 0
  private job: number
  private birthRecord: number
  private opsBlock = 0
  private opsBytes = 0
  readonly records: Records
  private outs: Block[] = []
  private pairs: Pairs | null = null
  /** Seconds that its time goes on in this substep. */
  dt = 0
  /** How many ops there are up to and with each force. */
  marks: { id: string; ops: number }[] = []
  private map = 0
  private mapBytes = 0

  constructor(
    readonly heap: Heap,
    private host: KernelHost,
    private scratch: number,
    readonly plan: PlanSystem,
  ) {
    this.columns = new Columns(heap, plan.extraColumns)
    this.job = heap.take(JOB.bytes)
    this.birthRecord = heap.take(BIRTH.bytes)
    this.records = new Records(heap, host, scratch)
    this.births = plan.births.map(() => ({ number: 0 }))
  }
  get count(): number {
    return this.columns.count
  }
  notice(kind: Notice['kind'], frame: number, message: string): void {
    if (!this.notices.has(kind)) this.notices.set(kind, { element: this.plan.id, kind, frame, message })
  }

  /** `others`: all systems of the World with how many particles each had when the substep began. */
  bear(at: StepTime, frame: number, objects: ObjectState[], others: { run: SystemRun; count: number }[]): void {
    this.plan.births.forEach((birth, i) => {
      const state = this.births[i]
      for (const batch of birth.due(at.t0, at.t1)) if (batch.count > 0) this.bearBatch(birth, state, batch, at, frame, objects, others)
    })
  }
  private bearBatch(
    birth: BirthPlan,
    state: BirthState,
    batch: BirthBatch,
    at: StepTime,
    frame: number,
    objects: ObjectState[],
    others: { run: SystemRun; count: number }[],
  ): void {
    const p = birth.params(at.t0)
    let count = Math.min(batch.count, this.plan.limit - this.columns.count)
    if (count < batch.count)
      this.notice(
        'limit',
        frame,
        `${this.plan.name} reached its limit of ${this.plan.limit.toLocaleString('en-US')} particles; births wait until some have died`,
      )
    const number = state.number
    state.number += batch.count
    if (count <= 0) return
    const first = this.columns.count
    try {
      this.columns.reserve(first + count)
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.notice('memory', frame, `${this.plan.name}: ${error.message}; its births wait`)
      count = Math.min(count, this.columns.capacity - first)
      if (count <= 0) return
    }
    const object = p.source >= 0 ? objects[p.source] : null
    const other = p.system !== undefined && p.system >= 0 ? others[p.system] : null
    if (other && !other.count) return
    const place =
      other || !object?.surface
        ? null
        : placeOf(
            p,
            object.surface,
            p.region ? object.region(p.region) : null,
            this.plan.name,
            { stack: this.scratch + SCRATCH.stack, hit: this.scratch + SCRATCH.hit },
            (message) => this.notice('source', frame, message),
          )
    if (place === 'nowhere') {
      this.notice('region', frame, `the region that ${this.plan.name} starts from is empty; its births wait until there is some of it`)
      return
    }
    const [life, lifeVary] = this.plan.life(at.t0)
    const b = this.birthRecord
    const v = this.heap.view()
    const u = (o: number, x: number) => v.setUint32(b + o, x, true)
    const f = (o: number, x: number) => v.setFloat32(b + o, x, true)
    u(BIRTH.columns, this.columns.table)
    u(BIRTH.first, first)
    u(BIRTH.count, count)
    u(BIRTH.seed, birth.seed)
    u(BIRTH.number, number)
    u(BIRTH.id, this.nextId)
    u(BIRTH.kind, other ? KIND.particles : (place?.kind ?? KIND.point))
    u(BIRTH.positions, other ? other.run.columns.table : (place?.positions ?? 0))
    u(BIRTH.positionsEnd, place?.positionsEnd ?? 0)
    u(BIRTH.amounts, place?.amounts ?? 0)
    u(BIRTH.normals, place?.normals ?? 0)
    u(BIRTH.indices, place?.indices ?? 0)
    u(BIRTH.areas, place?.areas ?? 0)
    u(BIRTH.guide, place?.guide ?? 0)
    u(BIRTH.guideCount, place?.guideCount ?? 0)
    f(BIRTH.guideScale, place && place.whole > 0 ? place.guideCount / place.whole : 0)
    u(BIRTH.triFirst, place?.first ?? 0)
    u(BIRTH.triCount, other ? other.count : (place?.count ?? 0))
    u(BIRTH.order, p.on === 'lattice' ? 1 : 0)
    u(BIRTH.nodes, place?.cast?.nodes ?? 0)
    u(BIRTH.leaves, place?.cast?.leaves ?? 0)
    for (let a = 0; a < 3; a++) {
      f(BIRTH.low + a * 4, object?.surface?.bounds.min[a] ?? 0)
      f(BIRTH.high + a * 4, object?.surface?.bounds.max[a] ?? 0)
    }
    f(BIRTH.share, p.share ?? 1)
    f(BIRTH.outward, p.outward ?? 0)
    f(BIRTH.outwardVary, p.outwardVary ?? 0)
    f(BIRTH.slide, p.slide ?? 0)
    f(BIRTH.slideVary, p.slideVary ?? 0)
    f(BIRTH.anyway, p.anyway ?? 0)
    f(BIRTH.anywayVary, p.anywayVary ?? 0)
    u(BIRTH.stack, this.scratch + SCRATCH.stack)
    u(BIRTH.hit, this.scratch + SCRATCH.hit)
    u(BIRTH.away, p.along === 'normal' ? 0 : 1)
    const direction = p.along === 'normal' ? ([0, 1, 0] as const) : p.direction
    direction.forEach((x, i) => f(BIRTH.direction + i * 4, x))
    f(BIRTH.cosSpread, cosTurns(p.spreadTurns))
    f(BIRTH.speed, p.speed)
    f(BIRTH.speedVary, p.speedVary)
    f(BIRTH.life, life)
    f(BIRTH.lifeVary, lifeVary)
    f(BIRTH.inherit, p.inherit)
    f(BIRTH.dt, at.dt)
    f(BIRTH.time0, batch.at)
    f(BIRTH.spacing, batch.spacing)
    f(BIRTH.off, place && place.kind !== KIND.inside && p.on !== 'lattice' ? BIRTH_OFF : 0)
    for (let i = 0; i < 12; i++) {
      const one = i % 5 === 0 ? 1 : 0
      f(BIRTH.m0 + i * 4, object && !other ? object.m0[i] : one)
      f(BIRTH.m1 + i * 4, object && !other ? object.m1[i] : one)
    }
    this.host.exports.birth(b)
    const missed = this.heap.view().getUint32(b + BIRTH.missed, true)
    if (missed)
      this.notice(
        'source',
        frame,
        `${missed.toLocaleString('en-US')} births of ${this.plan.name} found no place inside their source and start on its faces; is it closed, and not all but flat?`,
      )
    this.columns.count = first + count
    this.columns.clear(first, count)
    // A newborn's age is minus its time until its moment comes, which goes by as slowly as the rest of its life.
    const pace = this.paceAt(at.t0)
    if (pace !== 1) {
      const ages = this.heap.f32(this.columns.pointer('age'), this.columns.count)
      for (let i = first; i < first + count; i++) ages[i] *= pace
    }
    this.nextId += count
    this.stats.born += count
  }

  private paceAt(t: number): number {
    return Math.max(0, this.plan.pace?.(t) ?? 1)
  }
  /**
   * What the substep needs that reads more than one particle, or another system: ops, records of objects, looks at neighbours. Of all
   * systems before any of them moves. `always`: also when there is nobody. False when it was stopped half way.
   */
  prepare(at: StepTime, frame: number, objects: ObjectState[], others: readonly SystemRun[], near: Neighbourhood, always = false): boolean {
    const w = this.ops
    w.clear()
    this.records.begin()
    this.dt = Math.fround(at.dt * this.paceAt(at.t0))
    this.marks = []
    if (!(this.count || always) || !(this.dt > 0)) return true
    const mass = this.plan.mass?.(at.t0)
    if (mass) w.mass(mass[0], mass[1], this.plan.seed)
    const pace = { ...at, dt: this.dt }
    for (const force of this.plan.forces) {
      if (this.off.has(force.id)) continue
      force.encode(w, pace)
      this.marks.push({ id: force.id, ops: w.count })
    }
    for (const s of w.surfaces) {
      const record = this.records.of(objects[s.object], w.needs(s.at))
      w.patch(s.at, record)
      // A limit to what is not there lets nothing through, or all, by itself.
      if (!record && !s.limit) w.silence(s.at)
    }
    for (const volume of w.volumes) {
      try {
        w.patch(volume.at, near.volumes.of(volume))
      } catch (error) {
        if (!(error instanceof MemoryRefused)) throw error
        w.silence(volume.at)
        this.notice(
          'memory',
          frame,
          `a velocity volume that reaches ${this.plan.name}: ${error.message}; nothing flows in it: give it fewer cells`,
        )
      }
    }
    w.passes.forEach((p, k) => {
      const asked = p.system < 0 ? this : others[p.system]
      if (!asked) return w.silence(p.at)
      if (k === this.outs.length) this.outs.push(new Block(this.heap))
      const done = near.pass(p, this.columns, asked.columns, asked.plan.id, asked === this, this.outs[k])
      w.patch(p.at, this.outs[k].at)
      w.patch(p.at + 1, done?.stride ?? 0)
      if (done?.crowded) this.crowd(frame, done.crowded, 'within the radius they look at')
    })
    return this.heap.view().getUint32(CONTROL.stop, true) === 0
  }
  /** Forces, velocity, contact, position, deaths for all particles of the system. False when it was stopped half way. */
  advance(at: StepTime, frame: number, objects: ObjectState[]): boolean {
    const count = this.columns.count
    const dt = this.dt
    this.lost = 0
    if (count === 0 || !(dt > 0)) return true
    const w = this.ops
    const meet = this.plan.meet?.params(at.t0)
    const radius = meet ? meet.radius + meet.radiusVary : (this.plan.ball?.(at.t0) ?? 0)
    const colliders = this.records.meet(this.plan.contacts, at.t0, objects, radius)
    const met = this.records.colliders
    if (met.length) w.contact(colliders, met.length, meet ? meet.radius : radius, meet?.radiusVary, this.plan.meet?.seed)
    for (const e of this.plan.endings ?? []) e.encode(w, at)
    this.arm(w.words, w.count, 0, count, this.columns.table)
    const j = this.job
    this.runJob(count > CHUNK)
    const after = this.heap.view()
    if (after.getUint32(CONTROL.stop, true)) return false
    const died = after.getUint32(j + JOB.died, true)
    const lost = after.getUint32(j + JOB.lost, true)
    this.stats.contacts += after.getUint32(j + JOB.contacts, true)
    this.stats.died += died
    if (died) this.compact(died)
    this.lost = lost
    for (const c of met) {
      const times = after.getUint32(c.at + COLLIDER.met, true)
      if (times) this.stats.with = { ...this.stats.with, [c.id]: (this.stats.with[c.id] ?? 0) + times }
    }
    if (meet && this.plan.meet) {
      this.pairs ??= new Pairs(this.heap, this.host, this.scratch)
      const done = this.pairs.meet(this.columns, meet, this.plan.meet.seed, dt, w.weight, { at: colliders, count: met.length })
      if (!done) return false
      this.stats.contacts += done.blows
      if (done.crowded) this.crowd(frame, done.crowded, 'at one place, and come apart only slowly')
    }
    return true
  }
  private crowd(frame: number, count: number, where: string): void {
    this.notice(
      'crowd',
      frame,
      `${count.toLocaleString('en-US')} particles of ${this.plan.name} have far too many others ${where}; not all of them count: make the radius smaller, or let them start farther apart`,
    )
  }
  /** A step job over particles `from` up to `count` of a table of columns. */
  arm(words: Uint32Array, ops: number, from: number, count: number, table: number): void {
    if (words.byteLength > this.opsBytes) {
      if (this.opsBlock) this.heap.give(this.opsBlock)
      this.opsBlock = this.heap.take(words.byteLength)
      this.opsBytes = words.byteLength
    }
    if (words.length) this.heap.u32(this.opsBlock, words.length).set(words)
    const v = this.heap.view()
    const j = this.job
    new Uint8Array(this.heap.memory.buffer, j, JOB.bytes).fill(0)
    v.setInt32(j + JOB.next, from, true)
    v.setInt32(j + JOB.count, count, true)
    v.setInt32(j + JOB.chunk, CHUNK, true)
    v.setUint32(j + JOB.stop, CONTROL.stop, true)
    v.setUint32(j + JOB.ops, this.opsBlock, true)
    v.setInt32(j + JOB.opCount, ops, true)
    v.setUint32(j + JOB.columns, table, true)
    v.setUint32(j + JOB.scratch, this.scratch, true)
    v.setFloat32(j + JOB.dt, this.dt, true)
    v.setUint32(j + JOB.kind, JOB_STEP, true)
    v.setUint32(j + JOB.endless, this.plan.endless ? 1 : 0, true)
  }
  /** The place of a particle in the columns, or −1. Ids only grow. */
  indexOf(id: number): number {
    const ids = this.columns.words('id')
    let low = 0,
      high = ids.length
    while (low < high) {
      const mid = (low + high) >> 1
      if (ids[mid] < id) low = mid + 1
      else high = mid
    }
    return ids[low] === id ? low : -1
  }
  /** One word of a particle as it is now. */
  word(name: ColumnName, i: number): number {
    return this.columns.names.includes(name)
      ? WORD_COLUMNS.has(name)
        ? this.columns.words(name)[i]
        : this.heap.f32(this.columns.pointer(name), this.count)[i]
      : 0
  }
  runJob(all: boolean): void {
    if (all) this.host.team.run(this.job)
    else this.host.exports.work(this.job, 0)
  }
  private compact(died: number): void {
    const count = this.columns.count
    if (died < count) {
      if (this.mapBytes < count * 4) {
        if (this.map) this.heap.give(this.map)
        this.mapBytes = this.columns.capacity * 4
        this.map = this.heap.take(this.mapBytes)
      }
      const live = this.host.exports.survivors(this.columns.pointer('dead'), count, this.map)
      const v = this.heap.view()
      v.setInt32(this.job + JOB.next, 0, true)
      v.setInt32(this.job + JOB.count, COLUMNS.length, true)
      v.setInt32(this.job + JOB.live, live, true)
      v.setUint32(this.job + JOB.map, this.map, true)
      v.setUint32(this.job + JOB.kind, JOB_GATHER, true)
      this.runJob(live > 8192)
      this.columns.count = live
    } else this.columns.count = 0
  }
  capture(): PointsPart {
    const n = this.columns.count
    const turned = this.columns.names.includes('qx')
    const names = turned ? ALL_POINT_COLUMNS : POINT_COLUMNS
    const data = new ArrayBuffer(n * 4 * names.length)
    names.forEach((name, i) => new Uint32Array(data, i * n * 4, n).set(this.columns.words(name)))
    return { kind: 'points', element: this.plan.id, count: n, ...(turned ? { turned } : {}), data }
  }
  save(): SystemSnapshot {
    return {
      words: this.columns.save(),
      births: Object.fromEntries(this.plan.births.map((b, i) => [b.id, this.births[i].number])),
      nextId: this.nextId,
      stats: { ...this.stats },
      off: [...this.off],
    }
  }
  restore(s: SystemSnapshot): void {
    this.columns.restore(s.words)
    // By id: a changed plan may have other births, and those begin at zero.
    this.births = this.plan.births.map((b) => ({ number: s.births[b.id] ?? 0 }))
    this.nextId = s.nextId
    this.stats = { ...s.stats }
    this.off = new Set(s.off)
  }
  dispose(): void {
    this.columns.dispose()
    for (const at of [this.job, this.birthRecord, this.opsBlock, this.map]) if (at) this.heap.give(at)
    this.opsBlock = this.map = 0
    this.records.dispose()
    this.pairs?.dispose()
    this.pairs = null
    for (const b of this.outs) b.free()
    this.outs = []
  }
}
