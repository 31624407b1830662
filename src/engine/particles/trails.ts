import { Notices, type StripsPart, stripWords } from '../frame'
import { hash3, unit } from '../math'
import {
  Arena,
  Block,
  CONTROL,
  type Columns,
  JOB,
  JOB_KIND,
  type Machine,
  MemoryRefused,
  NO_TRAIL,
  Stopped,
  TRAIL,
  TRAIL_STEP_POINTS,
  TRAILS,
  wasStopped,
  writeRecord,
} from '../memory'
import type { StepTime, TrailPlan } from '../plan'
import type { Flow, Solver, SolverState, Take } from '../solver'
import type { Follower } from './follower'
import type { ParticleSystem } from './particleSystem'
import { TrailDrift } from './trailDrift'

interface TrailState extends SolverState {
  clock: number
  ring: number
  used: number
  slots: Uint32Array
  records: Uint32Array
  rings: Uint32Array
  velocities: Uint32Array | null
  /** Trails whose particle is gone, in the order in which they went, and those that are free. */
  gone: number[]
  free: number[]
  notices: Notices['all']
}
const RECORD_WORDS = TRAIL.bytes / 4
const CHUNK = 512
const FIRST_RING = 16
/** A trail is made of at least so many pieces, that what changes along it shows. */
const PIECES = 16
/** Most points that one trail holds, and all of them together. */
const MAX_RING = 4096
const MAX_POINTS = 1 << 24
/** Far more than any shot lasts or measures. */
const FAR = 1e30
/** Of the hashes that say who leaves a trail. */
const STREAM = 51

/**
 * The trails of one act of a particle system: in each substep it follows the particles before the dead leave their columns. Points are kept
 * where a path bends, in a ring of each trail; a trail whose particle is gone fades and is given up.
 */
export class Trails implements Solver, Follower {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = []
  readonly id: string
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly messages: Notices
  private readonly job: number
  private readonly record: number
  private readonly block: Block
  built = { strips: 0, points: 0 }
  private readonly drift: TrailDrift | null
  private slotsAt = 0
  private slotRoom = 0
  /** How many particles were followed at the end of the substep before. */
  private followed = 0
  private recordsAt = 0
  private ringsAt = 0
  private velocitiesAt = 0
  /** Trails that there is room for, and that were ever used. */
  private room = 0
  private used = 0
  private ring = FIRST_RING
  private most = 0
  /** Own seconds of the system since it began. */
  private clock = 0
  private gone: number[] = []
  private free: number[] = []

  constructor(
    machine: Machine,
    private readonly plan: TrailPlan,
    private readonly system: ParticleSystem,
  ) {
    this.id = `trail ${plan.id}`
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.messages = new Notices(system.id)
    this.job = this.arena.take(JOB.bytes)
    this.record = this.arena.take(TRAILS.bytes)
    this.block = new Block(this.arena)
    this.drift = plan.drift ? new TrailDrift(this.arena, plan.drift, plan.seed, system) : null
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
  /** Whether a particle leaves a trail, by its seed and phase. */
  private leaves(seed: number, phase: number): boolean {
    const { share, phases } = this.plan
    return (phases === undefined || ((phases >>> phase) & 1) === 1) && (share >= 1 || unit(hash3(this.plan.seed, seed, STREAM)) < share)
  }
  follow(columns: Columns, at: StepTime, dt: number, frame: number, died: boolean): void {
    this.clock += dt
    try {
      this.begin(columns, frame)
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.messages.add('memory', frame, `${this.plan.name}: ${error.message}; further particles leave none: ${this.cure()}`)
    }
    if (this.used) {
      this.makeRoomInRings(frame)
      this.writeParams(at.t1, dt)
      this.run(JOB_KIND.recordTrails, columns, columns.count, CHUNK)
      this.most = this.arena.view().getUint32(this.record + TRAILS.most, true)
    }
    this.part(columns, died)
    this.drift?.step(this.trailsNow(), at, dt, this.clock)
    this.giveUp(at.t1)
  }
  private cure(): string {
    return 'a coarser detail, a shorter trail or a smaller share of the particles needs less'
  }
  /** A trail for each particle that has none and should have one. Throws MemoryRefused, and then further ones have none. */
  private begin(columns: Columns, frame: number): void {
    const { count } = columns
    if (count > this.slotRoom) {
      const room = Math.ceil((count * 1.5) / 1024) * 1024
      this.slotsAt = this.grown(this.slotsAt, this.followed, room)
      this.slotRoom = room
    }
    if (!count) return
    // Who was there before had the choice; a phase is entered at any time.
    const from = this.plan.phases === undefined ? this.followed : 0
    const without = this.arena.u32(this.slotsAt, count).fill(NO_TRAIL, this.followed)
    this.followed = count
    const seeds = columns.words('seed')
    const phases = columns.words('phase')
    const wanting: number[] = []
    for (let i = from; i < count; i++) if (without[i] === NO_TRAIL && this.leaves(seeds[i], phases[i])) wanting.push(i)
    if (!wanting.length) return
    const trails = this.used + Math.max(0, wanting.length - this.free.length)
    if (trails > this.room && !this.makeRoom(trails, frame)) return
    const slots = this.arena.u32(this.slotsAt, count)
    for (const i of wanting) {
      slots[i] = this.free.pop() ?? this.used++
      this.clearRecord(slots[i], seeds[i])
    }
  }
  private clearRecord(slot: number, seed: number): void {
    this.arena.u32(this.recordsAt + slot * TRAIL.bytes, RECORD_WORDS).fill(0)
    const vary = this.plan.reachVary * (unit(hash3(this.plan.seed, seed, STREAM + 1)) * 2 - 1)
    writeRecord(this.arena.view(), this.recordsAt + slot * TRAIL.bytes, TRAIL, { gone: -1, reach: Math.max(1e-3, 1 + vary) })
  }
  /** Words at another place with more room; 0 words are nowhere. */
  private grown(at: number, words: number, room: number): number {
    const fresh = this.arena.take(room * 4)
    if (words) this.arena.u32(fresh, words).set(this.arena.u32(at, words))
    if (at) this.arena.give(at)
    return fresh
  }
  private makeRoom(trails: number, frame: number): boolean {
    if (trails * this.ring > MAX_POINTS) {
      const [would, most] = [trails * this.ring, MAX_POINTS].map((n) => n.toLocaleString('en-US'))
      this.messages.add(
        'limit',
        frame,
        `${this.plan.name}: ${would} points would be over ${most}; further particles leave none: ${this.cure()}`,
      )
      return false
    }
    const room = Math.min(Math.max(64, Math.ceil(trails * 1.5)), MAX_POINTS / this.ring)
    this.recordsAt = this.grown(this.recordsAt, this.used * RECORD_WORDS, room * RECORD_WORDS)
    this.ringsAt = this.grown(this.ringsAt, this.used * this.ring * 4, room * this.ring * 4)
    if (this.drift) this.velocitiesAt = this.grown(this.velocitiesAt, this.used * this.ring * 4, room * this.ring * 4)
    this.room = room
    return true
  }
  /** Rings twice as long, while one could run over in a substep; the longest trails are cut where that is too much. */
  private makeRoomInRings(frame: number): void {
    while (this.most + TRAIL_STEP_POINTS > this.ring) {
      const long = this.ring * 2
      if (long > MAX_RING || this.room * long > MAX_POINTS) {
        this.messages.add(
          'limit',
          frame,
          `${this.plan.name}: a trail of over ${this.ring} points is cut short; all of them would be over ${(this.room * long).toLocaleString('en-US')}: ${this.cure()}`,
        )
        return
      }
      try {
        this.ringsAt = this.longer(this.ringsAt, long)
        if (this.drift) this.velocitiesAt = this.longer(this.velocitiesAt, long)
      } catch (error) {
        if (!(error instanceof MemoryRefused)) throw error
        this.messages.add('memory', frame, `${this.plan.name}: ${error.message}; its longest trails are cut short: ${this.cure()}`)
        return
      }
      this.ring = long
    }
  }
  private longer(at: number, long: number): number {
    const fresh = this.arena.take(this.room * long * 16)
    const [from, to] = [this.arena.u32(at, this.room * this.ring * 4), this.arena.u32(fresh, this.room * long * 4)]
    const view = this.arena.view()
    for (let slot = 0; slot < this.used; slot++) {
      const r = this.recordsAt + slot * TRAIL.bytes
      const head = view.getUint32(r + TRAIL.head, true)
      for (let k = view.getUint32(r + TRAIL.first, true); k < head; k++) {
        const a = (slot * this.ring + (k & (this.ring - 1))) * 4
        to.set(from.subarray(a, a + 4), (slot * long + (k & (long - 1))) * 4)
      }
    }
    this.arena.give(at)
    return fresh
  }
  private writeParams(t: number, dt: number): { seconds: number; fade: number } {
    const p = this.plan.params(t)
    const seconds = p.seconds ?? FAR
    const metres = p.metres ?? FAR
    writeRecord(this.arena.view(), this.record, TRAILS, {
      ...{ slots: this.slotsAt, records: this.recordsAt, rings: this.ringsAt, ring: this.ring, velocities: this.velocitiesAt },
      ...{ now: this.clock, dt, tolerance: Math.max(1e-5, p.tolerance), most: 0, inherit: this.plan.drift?.inherit ?? 0 },
      ...{ gapS: seconds / PIECES, gapM: metres / PIECES, keepS: Math.max(1e-6, seconds), keepM: Math.max(1e-6, metres) },
      fadeS: p.fade,
    })
    return { seconds, fade: p.fade }
  }
  private run(kind: number, columns: Columns, count: number, chunk: number): void {
    new Uint8Array(this.arena.memory.buffer, this.job, JOB.bytes).fill(0)
    writeRecord(this.arena.view(), this.job, JOB, {
      ...{ kind, count, chunk, stop: CONTROL.stop, scratch: this.machine.scratch },
      ...{ columns: columns.table, record: this.record },
    })
    if (count > chunk * 2) this.machine.host.team.run(this.job)
    else this.machine.host.exports.work(this.job, 0)
    if (wasStopped(this.arena)) throw new Stopped()
  }
  /** Trails of the dead, and of those who left their phase, go on alone; the words of the others close up. */
  private part(columns: Columns, died: boolean): void {
    const { count } = columns
    const byPhase = this.plan.phases
    if (!count || (!died && byPhase === undefined)) return
    const slots = this.arena.u32(this.slotsAt, count)
    const dead = columns.words('dead')
    const phases = columns.words('phase')
    let live = 0
    for (let i = 0; i < count; i++) {
      const slot = slots[i]
      if (slot !== NO_TRAIL && (dead[i] || (byPhase !== undefined && !((byPhase >>> phases[i]) & 1)))) {
        if (!dead[i]) this.leaveAlone(slot, columns, i)
        this.gone.push(slot)
        slots[i] = NO_TRAIL
      }
      if (!dead[i]) slots[live++] = slots[i]
    }
    this.followed = live
  }
  /** What the kernel does for the dead, for one that goes on in another phase. */
  private leaveAlone(slot: number, columns: Columns, i: number): void {
    writeRecord(this.arena.view(), this.recordsAt + slot * TRAIL.bytes, TRAIL, {
      ...{ gone: this.clock, id: columns.value('id', i), seed: columns.value('seed', i), phase: columns.value('phase', i) },
      ...{ age: columns.value('age', i), life: columns.value('life', i) },
    })
  }
  private trailsNow() {
    const { slotsAt, followed, recordsAt, ringsAt, velocitiesAt, ring, gone } = this
    return { slots: slotsAt, followed, records: recordsAt, rings: ringsAt, velocities: velocitiesAt, ring, gone }
  }
  /** Those that have faded are free again; they went in order, and fade alike. */
  private giveUp(t: number): void {
    if (!this.gone.length) return
    const { seconds, fade } = this.plan.params(t)
    const view = this.arena.view()
    const lasts = Math.min((seconds ?? FAR) * (1 + this.plan.reachVary), fade)
    let k = 0
    while (k < this.gone.length && view.getFloat32(this.recordsAt + this.gone[k] * TRAIL.bytes + TRAIL.gone, true) + lasts < this.clock) k++
    if (k) this.free.push(...this.gone.splice(0, k).reverse())
  }
  capture(t: number): StripsPart[] {
    const { columns } = this.system
    const rows: number[] = []
    const strips: number[] = []
    if (this.followed && this.used) {
      const slots = this.arena.u32(this.slotsAt, this.followed)
      // Births of the coming frame are not followed yet; a capture comes between frames, when all are.
      for (let i = 0; i < this.followed; i++)
        if (slots[i] !== NO_TRAIL) {
          rows.push(i)
          strips.push(slots[i])
        }
    }
    const live = strips.length
    strips.push(...this.gone)
    const count = strips.length
    // Lists, offsets, columns of strips, then those of points, whose number the first pass finds.
    const listWords = count * 2
    let at = this.block.reserve((listWords + stripWords(count, 0)) * 4)
    const lists = this.arena.u32(at, listWords)
    lists.set(strips)
    lists.set(rows, count)
    this.writeParams(t, 0)
    const place = () => ({
      strips: at,
      rows: at + count * 4,
      live,
      offsets: at + listWords * 4,
      stripColumns: at + (listWords + count + 1) * 4,
    })
    writeRecord(this.arena.view(), this.record, TRAILS, place())
    if (count) this.run(JOB_KIND.measureTrails, columns, count, 256)
    const counts = this.arena.u32(at + listWords * 4, count + 1)
    let points = 0
    for (let k = 0; k < count; k++) {
      const n = counts[k]
      counts[k] = points
      points += n
    }
    counts[count] = points
    const offsets = counts.slice()
    at = this.block.reserve((listWords + stripWords(count, points)) * 4)
    this.arena.u32(at, count).set(strips)
    this.arena.u32(at + count * 4, live).set(rows)
    this.arena.u32(at + listWords * 4, count + 1).set(offsets)
    const { stripColumns } = place()
    const pointColumns = stripColumns + STRIP_COLUMN_BYTES * count
    writeRecord(this.arena.view(), this.record, TRAILS, { ...place(), pointColumns, pointCount: points })
    if (count) this.run(JOB_KIND.buildTrails, columns, count, 256)
    const words = stripWords(count, points)
    const data = new ArrayBuffer(words * 4)
    new Uint32Array(data).set(this.arena.u32(at + listWords * 4, words))
    this.built = { strips: count, points }
    const { followers } = this.system
    const sum = (of: 'strips' | 'points') => followers.reduce((n, f) => n + f.built[of], 0)
    this.system.stats.trails = { strips: sum('strips'), points: sum('points') }
    return [{ kind: 'strips', element: this.system.id, act: this.plan.id, strips: count, points, data }]
  }
  save(): TrailState {
    const copy = (at: number, words: number) => (words ? this.arena.u32(at, words).slice() : new Uint32Array(0))
    const points = this.used * this.ring * 4
    const slots = copy(this.slotsAt, this.followed)
    const records = copy(this.recordsAt, this.used * RECORD_WORDS)
    const rings = copy(this.ringsAt, points)
    const velocities = this.drift ? copy(this.velocitiesAt, points) : null
    const bytes = slots.byteLength + records.byteLength + rings.byteLength + (velocities?.byteLength ?? 0) + 8 * this.gone.length
    const { clock, ring, used } = this
    return {
      bytes,
      clock,
      ring,
      used,
      slots,
      records,
      rings,
      velocities,
      gone: [...this.gone],
      free: [...this.free],
      notices: this.notices,
    }
  }
  restore(s: TrailState): void {
    this.forget()
    this.clock = s.clock
    this.ring = s.ring
    this.followed = s.slots.length
    this.slotRoom = Math.max(1024, this.followed)
    this.slotsAt = this.arena.take(this.slotRoom * 4)
    if (this.followed) this.arena.u32(this.slotsAt, this.followed).set(s.slots)
    if (s.used) this.makeRoom(s.used, 0)
    this.used = s.used
    const put = (at: number, words: Uint32Array) => words.length && this.arena.u32(at, words.length).set(words)
    put(this.recordsAt, s.records)
    put(this.ringsAt, s.rings)
    if (s.velocities) put(this.velocitiesAt, s.velocities)
    this.gone = [...s.gone]
    this.free = [...s.free]
    this.most = 0
    const view = this.arena.view()
    for (let k = 0; k < s.used; k++) {
      const r = this.recordsAt + k * TRAIL.bytes
      this.most = Math.max(this.most, view.getUint32(r + TRAIL.head, true) - view.getUint32(r + TRAIL.first, true))
    }
    this.messages.restore(s.notices)
  }
  private forget(): void {
    for (const at of [this.slotsAt, this.recordsAt, this.ringsAt, this.velocitiesAt]) if (at) this.arena.give(at)
    this.slotsAt = this.recordsAt = this.ringsAt = this.velocitiesAt = 0
    this.room = this.used = this.followed = 0
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
const STRIP_COLUMN_BYTES = 6 * 4
