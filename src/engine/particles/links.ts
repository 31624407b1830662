import { grouped } from '../../shot'
import type { Neighbourhood } from '../fields'
import { Notices, type StripsPart, stripWords } from '../frame'
import { hash3, unit } from '../math'
import {
  Arena,
  Block,
  type Columns,
  closestRow,
  JOB,
  type JobKind,
  LINK,
  LINK_PIECE,
  LINKS,
  type Machine,
  MemoryRefused,
  runJob,
  workOn,
  writeRecord,
} from '../memory'
import type { LinkParams, LinkPlan } from '../plan'
import type { Flow, Solver, SolverState, Substep, Take } from '../solver'
import type { Follower } from './follower'
import type { ParticleSystem } from './particleSystem'

/** What links need of the particles that they join. */
export type LinksOf = Pick<ParticleSystem, 'id' | 'element' | 'columns' | 'stats'> & { followers: Follower[] }
interface LinkState extends SolverState {
  /** LINK, one behind the other, sorted by both ids. */
  words: Uint32Array
  notices: Notices['all']
}
/** Of the hashes that say who has links. */
const STREAM = 71
/** Particles of a piece of work. */
const PIECE = 256
/** Links of a piece when they are drawn. */
const DRAWN = 2048
/** More links than that are cut off. */
const MOST = 2_000_000
/** Bytes of so many pieces and of where the last one ends; links begin at a line of the cache. */
const headBytes = (pieces: number): number => Math.ceil(((pieces + 1) * LINK_PIECE.bytes) / 64) * 64

/**
 * Links between particles that are near each other: a pair is linked when each of both is among the nearest of the other, so that nobody has more
 * than so many, whatever the order. They come and go over a time; which pairs there are is found once a frame.
 */
export class Links implements Solver, Follower {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = [{ flow: 'points', when: 'now' }]
  readonly id: string
  built = { strips: 0, points: 0 }
  readonly feels = false
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly messages: Notices
  private readonly job: number
  private readonly record: number
  /** The nearest of both; whom each is linked to; the words of a frame's part. */
  private readonly near: [Block, Block]
  private readonly linked: Block
  private readonly drawn: Block
  /** The links of the frame before, and those that are made of them, by turns: runs of LINK_PIECE, and behind these the links. */
  private links: Block
  private made: Block
  private runs = 0
  private count = 0
  private fresh = true

  /** `other`: whose particles those of `system` are linked to; its own where it is the same. */
  constructor(
    machine: Machine,
    private readonly plan: LinkPlan,
    private readonly system: LinksOf,
    private readonly other: LinksOf,
    private readonly neighbours: Neighbourhood,
  ) {
    this.id = `links ${plan.id}`
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.messages = new Notices(system.element)
    this.job = this.arena.take(JOB.bytes)
    this.record = this.arena.take(LINKS.bytes)
    this.near = [new Block(this.arena), new Block(this.arena)]
    ;[this.linked, this.drawn, this.links, this.made] = Array.from({ length: 4 }, () => new Block(this.arena))
    system.followers.push(this)
  }
  get notices() {
    return this.messages.all
  }
  follow(): void {
    // It looks when all have moved.
  }
  beginFrame(): void {
    this.fresh = true
  }
  prepare(): void {
    // It reads nothing before all have moved.
  }
  step(substep: Substep): void {
    if (!this.fresh) return
    this.fresh = false
    const p = this.plan.params(substep.at.t0)
    try {
      this.find(p, substep.frame)
      this.update(p)
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.messages.add(
        'memory',
        substep.frame,
        `${this.plan.name}: ${error.message}; no links are drawn: a smaller distance or fewer each need less`,
      )
      this.count = this.runs = 0
    }
  }
  private run(kind: JobKind, count: number, chunk: number): void {
    if (count) runJob(this.machine, this.job, { kind, record: this.record, count, chunk, all: count > chunk })
  }
  /** Whom each is linked to by where they are. Throws MemoryRefused. */
  private find(p: LinkParams, frame: number): void {
    const [a, b] = [this.system.columns, this.other.columns]
    const own = this.system === this.other
    const most = Math.min(16, Math.max(1, Math.round(p.most)))
    const row = closestRow(most) * 4
    const linked = this.linked.reserve(a.count * (row + 5) + 16)
    const counts = linked + a.count * row
    const none = !a.count || !b.count || !(p.distance > 0)
    const request = {
      kind: 'closest' as const,
      system: -1,
      radius: p.distance,
      words: [p.distance ** 2, most],
      columns: row / 4 + 1,
      at: 0,
    }
    const look = (asking: Columns, asked: Columns, key: string, out: Block) =>
      this.neighbours.pass(request, asking, asked, `${key} as it is after the substep`, out)
    const looked = none ? null : look(a, b, this.other.id, this.near[0])
    if (looked && !own) look(b, a, this.system.id, this.near[1])
    const chosen = this.choose(a, counts + a.count * 4)
    writeRecord(
      this.arena.view(),
      this.record,
      LINKS,
      { columns: a.table, others: b.table, count: a.count, otherCount: b.count, own: own ? 1 : 0 },
      { grid: looked && own ? looked.grid : 0, most, near: this.near[0].at, back: this.near[own ? 0 : 1].at },
      { chosen, linked, counts, piece: PIECE, pieces: Math.max(1, Math.ceil(a.count / PIECE)) },
    )
    if (none) this.arena.u32(counts, a.count).fill(0)
    else this.run('linkMutual', a.count, PIECE)
    this.limit(this.arena.u32(counts, a.count), frame)
  }
  /** Not more than can be drawn. */
  private limit(counts: Uint32Array, frame: number): void {
    let would = 0
    for (let i = 0; i < counts.length; i++) would += counts[i]
    if (would <= MOST) return
    for (let i = 0, left = MOST; i < counts.length; i++) {
      counts[i] = Math.min(counts[i], left)
      left -= counts[i]
    }
    const [all, most] = [would, MOST].map(grouped)
    this.messages.add(
      'limit',
      frame,
      `${this.plan.name}: ${all} links would be over ${most}; only these are drawn: fewer each or a smaller distance make fewer`,
    )
  }
  /** Who has links at all, a byte each: a share of them, those in a phase. Returns where that stands; 0: all have. */
  private choose(a: Columns, at: number): number {
    const { share, phases, seed } = this.plan
    if (share >= 1 && phases === undefined) return 0
    const seeds = a.words('seed')
    const phase = a.words('phase')
    const out = new Uint8Array(this.arena.memory.buffer, at, a.count)
    for (let i = 0; i < a.count; i++)
      out[i] = (phases === undefined || ((phases >>> phase[i]) & 1) === 1) && unit(hash3(seed, seeds[i], STREAM)) < share ? 1 : 0
    return at
  }
  /** Links that are found come or stay, others go. Throws MemoryRefused. */
  private update(p: LinkParams): void {
    const seconds = this.plan.frameSeconds
    const pieces = Math.max(1, Math.ceil(this.system.columns.count / PIECE))
    const heads = headBytes(pieces)
    let begins = this.made.reserve(heads)
    const write = () => {
      this.writeRuns()
      writeRecord(
        this.arena.view(),
        this.record,
        LINKS,
        { begins, out: begins + heads },
        { grow: p.fadeIn > 0 ? seconds / p.fadeIn : 1, fade: p.fadeOut > 0 ? seconds / p.fadeOut : 1 },
        {
          hold: p.stretch === null ? 0 : 1 + p.stretch,
        },
      )
    }
    write()
    const found = this.machine.host.exports.linkBegins(this.record)
    const words = this.arena.u32(begins, heads / 4).slice()
    begins = this.made.reserve(heads + (found + this.count) * LINK.bytes)
    this.arena.u32(begins, heads / 4).set(words)
    write()
    this.run('linkMerge', pieces, 1)
    this.count = this.gather(begins, pieces)
    this.runs = pieces
    ;[this.links, this.made] = [this.made, this.links]
  }
  /** Where the links of the frame before stand. */
  private writeRuns(): void {
    const { links, runs, count } = this
    const old = links.at + headBytes(runs)
    writeRecord(this.arena.view(), this.record, LINKS, { runs: links.at, runCount: runs, old, oldCount: count })
  }
  /** Pieces become runs, with the number of the first link of each; returns how many links there are. */
  private gather(begins: number, pieces: number): number {
    const heads = this.arena.u32(begins, (pieces * LINK_PIECE.bytes) / 4)
    let sum = 0
    for (let at = 0; at < heads.length; at += LINK_PIECE.bytes / 4) {
      heads[at + LINK_PIECE.old / 4] = sum
      sum += heads[at + LINK_PIECE.made / 4]
    }
    return sum
  }
  capture(t: number): StripsPart[] {
    const p = this.plan.params(t)
    const { count } = this
    const [a, b] = [this.system.columns, this.other.columns]
    const words = stripWords(count, count * 2)
    const part = this.drawn.reserve(words * 4)
    this.writeRuns()
    writeRecord(
      this.arena.view(),
      this.record,
      LINKS,
      { columns: a.table, others: b.table, count: a.count, otherCount: b.count, part },
      { distance: Math.max(1e-9, p.distance), seed: this.plan.seed, glitch: p.glitch?.share ?? 0 },
      {
        beat: p.glitch ? Math.floor(t * p.glitch.rate) : 0,
      },
    )
    // A capture is not stopped: only a substep leaves things half done.
    if (count) workOn(this.machine, this.job, { kind: 'linkBuild', record: this.record, count, chunk: DRAWN, all: count > DRAWN })
    const data = new ArrayBuffer(words * 4)
    const out = new Uint32Array(data)
    out.set(this.arena.u32(part, words))
    out[count] = count * 2
    this.built = { strips: count, points: count * 2 }
    const { followers } = this.system
    const sum = (of: 'strips' | 'points') => followers.reduce((n, f) => n + f.built[of], 0)
    this.system.stats.trails = { strips: sum('strips'), points: sum('points') }
    return [{ kind: 'strips', element: this.system.element, act: this.plan.id, strips: count, points: count * 2, data }]
  }
  save(): LinkState {
    const words = new Uint32Array((this.count * LINK.bytes) / 4)
    const [run, link] = [LINK_PIECE.bytes / 4, LINK.bytes / 4]
    const heads = this.arena.u32(this.links.at, this.runs * run)
    const all = this.links.at + headBytes(this.runs)
    for (let at = 0; at < this.runs * run; at += run) {
      const [made, out] = [heads[at + LINK_PIECE.made / 4], heads[at + LINK_PIECE.out / 4]]
      words.set(this.arena.u32(all + out * LINK.bytes, made * link), heads[at + LINK_PIECE.old / 4] * link)
    }
    return { bytes: words.byteLength, words, notices: this.notices }
  }
  restore(s: LinkState): void {
    this.count = s.words.byteLength / LINK.bytes
    // One run.
    const heads = headBytes(1)
    const at = this.links.reserve(heads + s.words.byteLength)
    this.arena.u32(at, heads / 4).fill(0)
    this.arena.view().setInt32(at + LINK_PIECE.made, this.count, true)
    this.arena.u32(at + heads, s.words.length).set(s.words)
    this.runs = 1
    this.fresh = true
    this.messages.restore(s.notices)
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
