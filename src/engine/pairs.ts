import type { Columns } from './columns'
import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { JOB, JOB_PAIRS, PAIR, PAIR_COLUMNS, PAIR_LISTED, PAIR_WHAT } from './layout'
import { Block, runJob } from './blocks'
import { Grid } from './neighbours'
import type { MeetParams } from './plan'

const CHUNK = 256
/** Blows slower than what gravity adds in so many substeps give nothing back: what rests must not hop. */
const QUIET = 2
/** What leans on others without a blow, and is this many substeps of gravity faster than it has gone, has only not been held up exactly. */
const LEAN = 3
/** What touches others and has gone less than this share of gravity would take it from rest, rests. */
const REST = 0.2
/** This much apart still touches, in shares of both radii. */
const TOUCH = 1.01
/** Rounds that put right what still overlaps, without making anybody faster. */
const SETTLING = 3
/** Cells hold touching pairs that come nearer while they are corrected. */
const ROOM = 1.1

/** Particles of one system that meet each other, when a substep has moved them. */
export class Pairs {
  private grid: Grid
  private job: number
  private lists: Block
  private record: number
  constructor(private heap: Heap, private host: KernelHost, private scratch: number) {
    this.lists = new Block(heap)
    this.grid = new Grid(heap, host, scratch, PAIR_COLUMNS)
    this.job = heap.take(JOB.bytes)
    this.record = heap.take(PAIR.bytes)
  }
  /** `pull`: of gravity, m/s². Returns how many pairs met with a blow, and how many particles had too many others at one place; null when it was asked to stop. */
  meet(columns: Columns, p: MeetParams, seed: number, dt: number, pull: readonly [number, number, number], colliders: { at: number; count: number }): { blows: number; crowded: number } | null {
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
    const steps: (keyof typeof PAIR_WHAT)[] = ['load', 'list']
    for (let k = 0; k < p.rounds; k++) steps.push('count', 'push', 'apply')
    steps.push('count', 'bounce', 'speed')
    for (let k = 0; k < SETTLING; k++) steps.push('count', 'settle', 'place')
    steps.push('count', 'finish')
    let met = 0, crowded = 0
    for (const [i, step] of steps.entries()) {
      const view = this.heap.view()
      view.setInt32(r + PAIR.what, PAIR_WHAT[step], true)
      // Those that bounce or lean on each other touch, or all but; those that are pushed overlap.
      view.setFloat32(r + PAIR.touch, ['bounce', 'finish'].includes(steps[i + 1]) || step === 'bounce' ? TOUCH : step === 'list' ? ROOM : 1, true)
      if (!runJob(this.heap, this.host, this.job, this.scratch, { kind: JOB_PAIRS, record: r, count: n, chunk: CHUNK, all: n > CHUNK })) return null
      if (step === 'list') crowded = Math.max(crowded, this.heap.view().getUint32(this.job + JOB.crowded, true))
      if (step === 'bounce') met = this.heap.view().getUint32(this.job + JOB.contacts, true)
    }
    return { blows: met, crowded }
  }
  dispose(): void {
    this.grid.dispose()
    this.lists.free()
    this.heap.give(this.job)
    this.heap.give(this.record)
  }
}
