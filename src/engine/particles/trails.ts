import { grouped } from '../../shot'
import { Notices, type StripsPart, stripWords } from '../frame'
import { hash3, unit } from '../math'
import {
  ALL_PHASES,
  Arena,
  Block,
  type Columns,
  JOB,
  type JobKind,
  type Machine,
  MemoryRefused,
  NO_TRAIL,
  STRIP_PIECE,
  STRIP_WORDS,
  Stopped,
  TRAIL_LINE,
  TRAIL_ROWS,
  TRAIL_STEP_POINTS,
  TRAILS,
  wasStopped,
  workOn,
  writeRecord,
} from '../memory'
import type { StepTime, TrailPlan } from '../plan'
import type { Flow, Solver, SolverState, Take } from '../solver'
import { moveUp } from './compact'
import type { Follower } from './follower'
import type { ParticleSystem } from './particleSystem'
import { type DriftOf, TrailDrift } from './trailDrift'
import { MAX_POINTS, TrailMemory, type TrailWords } from './trailMemory'

/** What trails need of the particles that leave them. */
export type TrailsOf = DriftOf & Pick<ParticleSystem, 'id' | 'element' | 'columns' | 'stats'> & { followers: Follower[] }
interface TrailState extends SolverState, TrailWords {
  clock: number
  notices: Notices['all']
  tints: Uint32Array | null
}
const CHUNK = 512
const STRIPS_CHUNK = 128
/** A trail is made of at least so many pieces, that what changes along it shows. */
const PIECES = 16
/** One that is turned with its particle, that it does not break where that spins. */
const TURNED_PIECES = 64
/** Far more than any shot lasts or measures. */
const FAR = 1e30
/** Of the hashes that say who leaves a trail, and how far it reaches. */
const STREAM = 51

/**
 * The trails of one act of a particle system: in each substep it follows the particles before the dead leave their columns. Points are kept
 * where a path bends, in a ring of each trail; a trail whose particle is gone fades and is given up.
 */
export class Trails implements Solver, Follower {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = []
  readonly id: string
  built = { strips: 0, points: 0 }
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly messages: Notices
  private readonly job: number
  private readonly record: number
  private readonly block: Block
  /** Who parts from its particle. */
  private readonly lists: Block
  /** Points of a build, and for how many there is room. */
  private readonly points: Block
  private room = 1024
  private readonly own: TrailMemory
  private readonly drift: TrailDrift | null
  /** Points keep how their particle lay. */
  private readonly turned: boolean
  /** Most points that a ring has held. */
  private most = 0
  /** By trail the colour that its particle took over; null: none of the system does. */
  private tints: Uint32Array | null = null
  /** Own seconds of the system since it began. */
  private clock = 0

  constructor(
    machine: Machine,
    private readonly plan: TrailPlan,
    private readonly system: TrailsOf,
  ) {
    this.id = `trail ${plan.id}`
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.messages = new Notices(system.element)
    this.job = this.arena.take(JOB.bytes)
    this.record = this.arena.take(TRAILS.bytes)
    this.block = new Block(this.arena)
    this.lists = new Block(this.arena)
    this.points = new Block(this.arena)
    this.turned = !!plan.turned && system.columns.has('qx')
    this.own = new TrailMemory(this.arena, !!plan.drift, this.turned)
    this.drift = plan.drift ? new TrailDrift(this.arena, plan.drift, plan.seed, system) : null
    system.followers.push(this)
  }
  get notices() {
    return this.messages.all
  }
  get feels(): boolean {
    return !!this.drift && this.own.gone.length > 0
  }
  prepare(): void {
    // It is led by its system.
  }
  step(): void {
    // It is led by its system.
  }
  follow(columns: Columns, at: StepTime, dt: number, frame: number, died: boolean): void {
    this.clock += dt
    try {
      this.begin(columns, frame)
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.messages.add('memory', frame, `${this.plan.name}: ${error.message}; further particles leave none: ${CURE}`)
    }
    this.lengthen(frame)
    this.writeParams(at.t1, dt)
    if (this.own.used && columns.count) {
      this.run('recordTrails', columns, columns.count, CHUNK)
      // A capture is not stopped: only a substep leaves things half done.
      if (wasStopped(this.arena)) throw new Stopped()
      // What was not added to holds no more than before.
      this.most = Math.max(this.most, this.arena.view().getUint32(this.record + TRAILS.most, true))
    }
    this.part(columns, died)
    this.drift?.step(this.own, at, dt, this.clock)
    this.giveUp(at.t1)
  }
  /** A trail for each particle that has none and should have one. Throws MemoryRefused, and then further ones have none. */
  private begin(columns: Columns, frame: number): void {
    const { count } = columns
    const { own, plan } = this
    // Who was there before had the choice; a phase is entered at any time.
    const from = plan.phases === undefined ? own.followed : 0
    const without = own.follow(count)
    if (!count) return
    const seeds = columns.words('seed')
    const phases = columns.words('phase')
    const wanting: number[] = []
    for (let i = from; i < count; i++) if (without[i] === NO_TRAIL && this.leaves(seeds[i], phases[i])) wanting.push(i)
    if (!wanting.length) return
    const points = own.pointsWith(wanting.length)
    if (points > MAX_POINTS) {
      const [would, most] = [points, MAX_POINTS].map(grouped)
      this.messages.add('limit', frame, `${plan.name}: ${would} points would be over ${most}; further particles leave none: ${CURE}`)
      return
    }
    own.makeRoom(wanting.length)
    // Taken again: memory may have moved.
    const all = columns.words('seed')
    const { reachVary } = plan
    own.begin(wanting, (i) => (reachVary ? Math.max(1e-3, 1 + reachVary * (unit(hash3(plan.seed, all[i], STREAM + 1)) * 2 - 1)) : 1))
    if (!columns.has('tint')) return
    const slots = own.numbers()
    const taken = columns.words('tint')
    for (const i of wanting) {
      if (!this.tints || slots[i] >= this.tints.length) {
        const grown = new Uint32Array(Math.max(256, slots[i] * 2))
        grown.set(this.tints ?? [])
        this.tints = grown
      }
      this.tints[slots[i]] = taken[i]
    }
  }
  /** Whether a particle leaves a trail, by its seed and phase. */
  private leaves(seed: number, phase: number): boolean {
    const { share, phases } = this.plan
    return (phases === undefined || ((phases >>> phase) & 1) === 1) && (share >= 1 || unit(hash3(this.plan.seed, seed, STREAM)) < share)
  }
  /** Longer rings, while one could run over in a substep; where that is too much the longest trails are cut. */
  private lengthen(frame: number): void {
    const { own } = this
    while (this.most + TRAIL_STEP_POINTS > own.ring) {
      if (!own.mayLengthen) {
        this.messages.add('limit', frame, `${this.plan.name}: trails of over ${grouped(own.ring)} points are cut short: ${CURE}`)
        return
      }
      try {
        this.settle()
        own.lengthen()
      } catch (error) {
        if (!(error instanceof MemoryRefused)) throw error
        this.messages.add('memory', frame, `${this.plan.name}: ${error.message}; its longest trails are cut short: ${CURE}`)
        return
      }
    }
  }
  private writePlaces(): void {
    const { own } = this
    writeRecord(
      this.arena.view(),
      this.record,
      TRAILS,
      { table: own.table, records: own.records, more: own.more, rings: own.rings, ring: own.ring, newest: own.newest },
      { velocities: own.velocities, normals: own.normals },
    )
  }
  /** Before what reads the rings. */
  private settle(): void {
    this.writePlaces()
    if (this.own.used) this.machine.host.exports.settleTrails(this.record, this.own.followed)
  }
  private writeParams(t: number, dt: number): void {
    const { seconds, metres, tolerance, fade } = this.plan.params(t)
    this.writePlaces()
    const [s, m] = [seconds ?? FAR, metres ?? FAR]
    writeRecord(
      this.arena.view(),
      this.record,
      TRAILS,
      { now: this.clock, dt, tolerance: Math.max(1e-5, tolerance), most: 0, inherit: this.plan.drift?.inherit ?? 0 },
      {
        phases: this.plan.phases ?? ALL_PHASES,
      },
      {
        gapS: s / (this.turned ? TURNED_PIECES : PIECES),
        gapM: Math.min(m / PIECES, this.plan.drift?.spacing ?? FAR),
        keepS: Math.max(1e-6, s),
        keepM: Math.max(1e-6, m),
        fadeS: fade,
      },
    )
  }
  private run(kind: JobKind, { table }: Columns, count: number, chunk: number): void {
    workOn(this.machine, this.job, { kind, record: this.record, columns: table, count, chunk, all: count > chunk * 2 })
  }
  /** Trails of the dead, and of those who left their phase, go on alone; the rows of the others close up. */
  private part(columns: Columns, died: boolean): void {
    const { own, machine } = this
    const { count } = columns
    if (!count || (!died && this.plan.phases === undefined)) return
    const map = this.lists.reserve((2 * count + 3) * 4)
    const gone = map + (count + 3) * 4
    const live = machine.host.exports.partTrails(this.record, columns.table, count, map, gone)
    const parted = this.arena.view().getInt32(this.record + TRAILS.parted, true)
    const slots = this.arena.u32(gone, parted)
    for (let k = 0; k < parted; k++) own.gone.push(slots[k])
    if (live < count) moveUp(machine, this.job, { table: own.table, columns: TRAIL_ROWS.length, live, map })
    own.followed = live
  }
  /** Those that have faded are free again; they went in order, and the one that lasts longest counts for all. */
  private giveUp(t: number): void {
    const { gone } = this.own
    if (!gone.length) return
    const { seconds, fade } = this.plan.params(t)
    this.own.giveUp(this.own.goneFor(Math.min((seconds ?? FAR) * (1 + this.plan.reachVary), fade), this.clock))
  }
  /** Builds the strips of all trails as they are at shot time `t`, in the memory of the kernels: `capture` copies them into a frame. */
  build(t: number) {
    const { own } = this
    let live = 0
    // By their places: an iterator over shared memory takes twenty times as long.
    const before = own.numbers()
    for (let row = 0; row < before.length; row++) if (before[row] !== NO_TRAIL) live++
    const count = live + own.gone.length
    this.writeParams(t, 0)
    const at = this.place(count, live)
    const lists = this.arena.u32(at.strips, count + live)
    // Taken again: memory may have moved.
    const slots = own.numbers()
    for (let row = 0, strip = 0; row < slots.length; row++) {
      if (slots[row] === NO_TRAIL) continue
      lists[strip] = slots[row]
      lists[count + strip++] = row
    }
    lists.set(own.gone, live)
    if (count) this.runBuild(this.system.columns, count)
    const counts = this.arena.u32(at.counts, count)
    let points = 0
    for (let k = 0; k < count; k++) points += counts[k]
    return { at, count, points }
  }
  capture(t: number): StripsPart[] {
    const { at, count, points } = this.build(t)
    const words = stripWords(count, points, this.turned)
    const { tints } = this
    const data = new ArrayBuffer((words + (tints ? count : 0)) * 4)
    this.bringTogether(at, count, points, new Uint32Array(data, 0, words))
    if (tints) {
      const slots = this.arena.u32(at.strips, count)
      const to = new Uint32Array(data, words * 4)
      for (let k = 0; k < count; k++) to[k] = tints[slots[k]]
    }
    this.built = { strips: count, points }
    const { followers } = this.system
    const sum = (of: 'strips' | 'points') => followers.reduce((n, f) => n + f.built[of], 0)
    this.system.stats.trails = { strips: sum('strips'), points: sum('points') }
    const part = {
      kind: 'strips',
      element: this.system.element,
      act: this.plan.id,
      strips: count,
      points,
      ...(this.turned ? { turned: true } : {}),
      data,
    } as const
    return [tints ? { ...part, tinted: true } : part]
  }
  /** Lets the kernels build all strips; again with more room where there was too little. */
  private runBuild(columns: Columns, count: number): void {
    const columnsOf = this.turned ? 8 : 5
    const go = () => {
      const pointColumns = this.points.reserve(this.room * columnsOf * 4)
      writeRecord(this.arena.view(), this.record, TRAILS, { pointColumns, room: this.room, cursor: 0 })
      this.run('buildTrails', columns, count, STRIPS_CHUNK)
      return this.arena.view().getUint32(this.record + TRAILS.cursor, true)
    }
    const needs = go()
    if (needs <= this.room) return
    this.room = Math.ceil(needs * 1.25)
    go()
  }
  /** The columns of strips and of points as the part has them. */
  private bringTogether(
    at: { counts: number; pieces: number; stripColumns: number },
    count: number,
    points: number,
    out: Uint32Array,
  ): void {
    out.set(this.arena.u32(at.counts, count))
    sumUp(out.subarray(0, count + 1))
    out.set(this.arena.u32(at.stripColumns, STRIP_WORDS * count), count + 1)
    const from = this.arena.view().getUint32(this.record + TRAILS.pointColumns, true)
    const pieces = this.arena.u32(at.pieces, (pieceCount(count) * STRIP_PIECE.bytes) / 4)
    const first = count + 1 + STRIP_WORDS * count
    for (let c = 0; c < (this.turned ? 8 : 5); c++) {
      const column = this.arena.u32(from + c * this.room * 4, this.room)
      for (let k = 0, to = first + c * points; k < pieces.length; k += 2) {
        out.set(column.subarray(pieces[k], pieces[k] + pieces[k + 1]), to)
        to += pieces[k + 1]
      }
    }
  }
  /**
   * Where a build has its lists: of which trail each strip is, which row its particle has (of the living), how many points it has; pieces; the
   * columns of strips.
   */
  private place(count: number, live: number) {
    const rows = count * 4
    const counts = rows + live * 4
    const pieces = counts + count * 4
    const stripColumns = pieces + pieceCount(count) * STRIP_PIECE.bytes
    const strips = this.block.reserve(stripColumns + count * STRIP_WORDS * 4)
    const at = { strips, rows: strips + rows, counts: strips + counts, pieces: strips + pieces, stripColumns: strips + stripColumns }
    writeRecord(this.arena.view(), this.record, TRAILS, at, { live })
    return at
  }
  save(): TrailState {
    this.settle()
    return { ...this.own.save(), clock: this.clock, notices: this.notices, tints: this.tints?.slice() ?? null }
  }
  restore(s: TrailState): void {
    this.own.restore(s)
    this.clock = s.clock
    this.tints = s.tints?.slice() ?? null
    this.most = this.own.longest + TRAIL_LINE
    this.messages.restore(s.notices)
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
const CURE = 'a coarser detail, a shorter trail or a smaller share of the particles needs less'
const pieceCount = (strips: number) => Math.ceil(strips / STRIPS_CHUNK)
/** Counts become where each begins, with their sum behind them. */
function sumUp(counts: Uint32Array): number {
  let sum = 0
  for (let k = 0; k < counts.length - 1; k++) {
    const n = counts[k]
    counts[k] = sum
    sum += n
  }
  counts[counts.length - 1] = sum
  return sum
}
