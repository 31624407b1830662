import { Grid } from '../fields'
import { Arena, Block, type Columns, JOB, type Machine, PAIR, PAIR_COLUMNS, PAIR_LISTED, PAIR_STEP, runJob, writeRecord } from '../memory'
import type { MeetParams } from '../plan'

const CHUNK = 256
/** Blows slower than what gravity adds in so many substeps give nothing back: what rests must not hop. */
const QUIET = 2
/** What leans on others without a blow, and is this many substeps of gravity faster than it has gone, has only not been held up exactly. */
const LEAN = 3
/** What touches others and has gone less than this share of g·dt², of which gravity takes it half from rest, rests. */
const REST = 0.2
/** This much apart still touches, in shares of both radii. */
const TOUCH = 1.01
/** And this much apart, one may have been pushed away in this substep. */
const NEAR = 1.05
/** Rounds that put right what still overlaps, without making anybody faster. */
const SETTLING = 3
/** Sweeps from the lowest layer up that hold what rests. */
const SWEEPS = 2
/** Cells hold touching pairs that come nearer while they are corrected. */
const ROOM = 1.1

/** Particles of one system that meet each other, when a substep has moved them. */
export class Pairs {
  private arena: Arena
  private machine: Machine
  private grid: Grid
  private job: number
  private lists: Block
  private order: Block
  private record: number
  constructor(machine: Machine) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.lists = new Block(this.arena)
    this.order = new Block(this.arena)
    this.grid = new Grid(this.machine, PAIR_COLUMNS)
    this.job = this.arena.take(JOB.bytes)
    this.record = this.arena.take(PAIR.bytes)
  }
  /**
   * `pull`: of gravity, m/s²; `most`: the largest factor in the column `girth`. Returns how many pairs met with a blow, and how many particles had too many others at one place. Throws
   * Stopped.
   */
  meet(
    columns: Columns,
    p: MeetParams,
    seed: number,
    dt: number,
    pull: readonly [number, number, number],
    colliders: { at: number; count: number; most: number },
  ): { blows: number; crowded: number } {
    const n = columns.count
    if (n < 2) return { blows: 0, crowded: 0 }
    const weight = Math.sqrt(pull[0] * pull[0] + pull[1] * pull[1] + pull[2] * pull[2])
    this.grid.build(columns, 2 * (p.radius + p.radiusVary) * colliders.most * ROOM)
    const lists = this.lists.reserve(n * PAIR_LISTED * 4)
    const { radius, radiusVary: vary, friction, restitution } = p
    writeRecord(
      this.arena.view(),
      this.record,
      PAIR,
      { grid: this.grid.record, radius, vary, seed, friction, restitution, perSecond: 1 / dt },
      { colliders: colliders.at, colliderCount: colliders.count, lists, ordered: 0 },
      { quiet: QUIET * weight * dt, rest: REST * weight, lean: LEAN * weight * dt },
      {
        up: pull.map((x) => (weight > 0 ? -x / weight : 0)),
      },
    )
    const all = (step: keyof typeof PAIR_STEP, touch = 1) => this.all(step, n, touch)
    // Those that bounce or lean on each other touch, or all but; those that are pushed overlap.
    all('load')
    all('list', ROOM)
    const crowded = this.arena.view().getUint32(this.job + JOB.crowded, true)
    // Pairs that strike each other alone are exact; the rounds are for all others.
    all('find')
    all('strike')
    const strikes = this.arena.view().getUint32(this.job + JOB.contacts, true)
    all('turn')
    for (let k = 0; k < p.rounds; k++) for (const step of ['count', 'push', 'apply'] as const) all(step)
    const layers = weight > 0 ? this.layers(n, pull, weight, p.radius) : []
    this.sweep(layers, 'hold', 'apply')
    all('count', TOUCH)
    all('bounce', TOUCH)
    const blows = strikes + this.arena.view().getUint32(this.job + JOB.contacts, true)
    all('speed')
    for (let k = 0; k < SETTLING; k++) for (const step of ['count', 'settle', 'place'] as const) all(step)
    this.sweep(layers, 'liftUp', 'place')
    all('count', NEAR)
    all('rub', TOUCH)
    all('finish')
    return { blows, crowded }
  }
  private all(step: keyof typeof PAIR_STEP, count: number, touch = 1): void {
    writeRecord(this.arena.view(), this.record, PAIR, { step: PAIR_STEP[step], touch })
    runJob(this.machine, this.job, { kind: 'pairs', record: this.record, count, chunk: CHUNK, all: count > CHUNK })
  }
  /** The particles by their height against gravity, in layers a radius thick: where each layer begins among them, and the end. */
  private layers(n: number, pull: readonly [number, number, number], weight: number, radius: number): number[] {
    const list = this.order.reserve(n * 4)
    const [x, y, z] = [0, 1, 2].map((c) => this.grid.column(c, n))
    const [ux, uy, uz] = pull.map((p) => -p / weight / radius)
    const heights = new Float32Array(n)
    let low = Number.POSITIVE_INFINITY
    let high = Number.NEGATIVE_INFINITY
    for (let i = 0; i < n; i++) {
      const h = x[i] * ux + y[i] * uy + z[i] * uz
      heights[i] = h
      low = Math.min(low, h)
      high = Math.max(high, h)
    }
    // A grain that rolls away makes the span as wide as it likes: where most layers are empty, the numbers of those that are not are counted.
    const span = Math.floor(high - low) + 1
    let layer = Float64Array.from(heights, (h) => Math.floor(h - low))
    let count = span
    if (!(span <= 4 * n + 64)) {
      const numbers = [...new Set(layer)].sort((a, b) => a - b)
      const rank = new Map(numbers.map((number, k) => [number, k]))
      layer = layer.map((number) => rank.get(number) ?? 0)
      count = numbers.length
    }
    const starts = new Array<number>(count + 1).fill(0)
    for (let i = 0; i < n; i++) starts[layer[i] + 1]++
    for (let k = 0; k < count; k++) starts[k + 1] += starts[k]
    const next = starts.slice()
    const out = this.arena.u32(list, n)
    for (let i = 0; i < n; i++) out[next[layer[i]]++] = i
    return starts
  }
  /** From the lowest layer up, so that each finds those below it where they stay. */
  private sweep(layers: number[], step: 'hold' | 'liftUp', then: 'apply' | 'place'): void {
    const order = (ordered: number) => writeRecord(this.arena.view(), this.record, PAIR, { ordered })
    for (let sweep = 0; sweep < SWEEPS; sweep++)
      for (let k = 0; k + 1 < layers.length; k++) {
        const count = layers[k + 1] - layers[k]
        if (!count) continue
        order(this.order.at + layers[k] * 4)
        this.all(step, count)
        this.all(then, count)
      }
    order(0)
  }
  dispose(): void {
    this.arena.dispose()
  }
}
