import type { Columns } from './columns'
import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { GRID, JOB, JOB_PAIRS, PAIR, PAIR_COLUMNS, PAIR_LISTED, PAIR_WHAT } from './layout'
import { Block, runJob } from './blocks'
import { Grid } from './neighbours'
import type { MeetParams } from './plan'

const CHUNK = 256
/** Blows slower than what gravity adds in so many substeps give nothing back: what rests must not hop. */
const QUIET = 2
/** What leans on others without a blow, and is this many substeps of gravity faster than it has gone, has only not been held up exactly. */
const LEAN = 3
/** What touches others and has gone less than this share of gravity would take it from rest, rests. */
const REST = 0.4
/** This much apart still touches, in shares of both radii. */
const TOUCH = 1.01
/** Rounds that put right what still overlaps, without making anybody faster. */
const SETTLING = 3
/** Sweeps from the lowest layer up that hold what rests, and layers at most. */
const SWEEPS = 2,
  MOST_LAYERS = 4096
/** Cells hold touching pairs that come nearer while they are corrected. */
const ROOM = 1.1

/** Particles of one system that meet each other, when a substep has moved them. */
export class Pairs {
  private grid: Grid
  private job: number
  private lists: Block
  private order: Block
  private record: number
  constructor(
    private heap: Heap,
    private host: KernelHost,
    private scratch: number,
  ) {
    this.lists = new Block(heap)
    this.order = new Block(heap)
    this.grid = new Grid(heap, host, scratch, PAIR_COLUMNS)
    this.job = heap.take(JOB.bytes)
    this.record = heap.take(PAIR.bytes)
  }
  /**
   * `pull`: of gravity, m/s². Returns how many pairs met with a blow, and how many particles had too many others at one place; null when it
   * was asked to stop.
   */
  meet(
    columns: Columns,
    p: MeetParams,
    seed: number,
    dt: number,
    pull: readonly [number, number, number],
    colliders: { at: number; count: number },
  ): { blows: number; crowded: number } | null {
    const n = columns.count
    if (n < 2) return { blows: 0, crowded: 0 }
    const weight = Math.sqrt(pull[0] * pull[0] + pull[1] * pull[1] + pull[2] * pull[2])
    this.grid.build(columns, 2 * (p.radius + p.radiusVary) * ROOM)
    const lists = this.lists.room(n * PAIR_LISTED * 4)
    const v = this.heap.view()
    const r = this.record
    v.setUint32(r + PAIR.lists, lists, true)
    v.setUint32(r + PAIR.grid, this.grid.record, true)
    v.setFloat32(r + PAIR.radius, p.radius, true)
    v.setFloat32(r + PAIR.vary, p.radiusVary, true)
    v.setUint32(r + PAIR.seed, seed, true)
    v.setFloat32(r + PAIR.rub, p.friction, true)
    v.setFloat32(r + PAIR.keep, p.keep, true)
    v.setFloat32(r + PAIR.perSecond, 1 / dt, true)
    v.setUint32(r + PAIR.colliders, colliders.at, true)
    v.setInt32(r + PAIR.colliderCount, colliders.count, true)
    v.setFloat32(r + PAIR.quiet, QUIET * weight * dt, true)
    v.setFloat32(r + PAIR.rest, REST * weight, true)
    pull.forEach((x, a) => v.setFloat32(r + PAIR.up + a * 4, weight > 0 ? -x / weight : 0, true))
    v.setFloat32(r + PAIR.lean, LEAN * weight * dt, true)
    v.setUint32(r + PAIR.ordered, 0, true)
    let met = 0,
      crowded = 0
    // Those that bounce or lean on each other touch, or all but; those that are pushed overlap.
    const step = (what: keyof typeof PAIR_WHAT, touch = 1): boolean => {
      this.heap.view().setFloat32(r + PAIR.touch, touch, true)
      return this.step(what, n)
    }
    if (!step('load') || !step('list', ROOM)) return null
    crowded = this.heap.view().getUint32(this.job + JOB.crowded, true)
    for (let k = 0; k < p.rounds; k++) if (!step('count') || !step('push') || !step('apply')) return null
    const layers = weight > 0 ? this.layered(n, pull, weight, p.radius) : []
    if (!this.sweep(layers, 'hold', 'apply')) return null
    if (!step('count', TOUCH) || !step('bounce', TOUCH)) return null
    met = this.heap.view().getUint32(this.job + JOB.contacts, true)
    if (!step('speed')) return null
    for (let k = 0; k < SETTLING; k++) if (!step('count') || !step('settle') || !step('place')) return null
    if (!this.sweep(layers, 'liftUp', 'place')) return null
    if (!step('count', TOUCH) || !step('rub', TOUCH) || !step('finish')) return null
    return { blows: met, crowded }
  }
  private step(what: keyof typeof PAIR_WHAT, count: number): boolean {
    this.heap.view().setInt32(this.record + PAIR.what, PAIR_WHAT[what], true)
    return runJob(this.heap, this.host, this.job, this.scratch, {
      kind: JOB_PAIRS,
      record: this.record,
      count,
      chunk: CHUNK,
      all: count > CHUNK,
    })
  }
  /** The particles by their height against gravity, in layers a radius thick: where each layer begins among them, and the end. */
  private layered(n: number, pull: readonly [number, number, number], weight: number, radius: number): number[] {
    const list = this.order.room(n * 4)
    const v = this.heap.view()
    const sorted = v.getUint32(this.grid.record + GRID.sorted, true),
      stride = v.getUint32(this.grid.record + GRID.stride, true)
    const [x, y, z] = [0, 1, 2].map((c) => this.heap.f32(sorted + c * stride, n))
    const [ux, uy, uz] = pull.map((p) => -p / weight / radius)
    const heights = new Float32Array(n)
    let low = Number.POSITIVE_INFINITY,
      high = Number.NEGATIVE_INFINITY
    for (let i = 0; i < n; i++) {
      const h = x[i] * ux + y[i] * uy + z[i] * uz
      heights[i] = h
      low = Math.min(low, h)
      high = Math.max(high, h)
    }
    const count = Math.min(MOST_LAYERS, Math.floor(high - low) + 1)
    const per = count / Math.max(1e-6, high - low + 1)
    const starts = new Array<number>(count + 1).fill(0)
    const layer = Uint16Array.from(heights, (h) => Math.min(count - 1, Math.floor((h - low) * per)))
    for (let i = 0; i < n; i++) starts[layer[i] + 1]++
    for (let k = 0; k < count; k++) starts[k + 1] += starts[k]
    const at = starts.slice()
    const out = this.heap.u32(list, n)
    for (let i = 0; i < n; i++) out[at[layer[i]]++] = i
    return starts
  }
  /** From the lowest layer up, so that each finds those below it where they stay. */
  private sweep(layers: number[], what: 'hold' | 'liftUp', then: 'apply' | 'place'): boolean {
    const at = this.record + PAIR.ordered
    for (let again = 0; again < SWEEPS; again++)
      for (let k = 0; k + 1 < layers.length; k++) {
        const count = layers[k + 1] - layers[k]
        if (!count) continue
        this.heap.view().setUint32(at, this.order.at + layers[k] * 4, true)
        if (!this.step(what, count) || !this.step(then, count)) return false
      }
    this.heap.view().setUint32(at, 0, true)
    return true
  }
  dispose(): void {
    this.grid.dispose()
    this.lists.free()
    this.order.free()
    this.heap.give(this.job)
    this.heap.give(this.record)
  }
}
