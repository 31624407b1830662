import { hash3 } from '../math'
import { type Allocator, type Columns, NO_TRAIL, TRAIL, TRAIL_MORE } from '../memory'
import { countOps, OpWriter, scaledForces } from '../ops'
import type { StepTime, TrailPlan } from '../plan'
import type { ParticleSystem } from './particleSystem'

/** Where trails lie in the memory. */
export interface TrailsAt {
  numbers(): Uint32Array
  records: number
  more: number
  rings: number
  velocities: number
  ring: number
  gone: readonly number[]
}
/** Whose forces they feel, and by whose means they are moved. */
export type DriftOf = Pick<ParticleSystem, 'forceWords' | 'otherColumns' | 'arm' | 'runJob'>
const PLACE = ['px', 'py', 'pz'] as const
const VELOCITY = ['vx', 'vy', 'vz'] as const
const STREAM = 52

/**
 * Moves the points of trails: as particles of their own, by the forces of the system as far as they feel them and by those of the act, through
 * the same kernel and with the same scheme as all particles.
 */
export class TrailDrift {
  private columns: Columns | null = null
  private readonly ops = new OpWriter()
  /** Where each point comes from: word places of its position, of its velocity and of when it was kept. */
  private places: Uint32Array = new Uint32Array(0)
  private speeds: Uint32Array = new Uint32Array(0)
  private times: Uint32Array = new Uint32Array(0)

  constructor(
    private readonly heap: Allocator,
    private readonly plan: NonNullable<TrailPlan['drift']>,
    private readonly seed: number,
    private readonly system: DriftOf,
  ) {}
  /** One substep, `dt` own seconds, that ends at `now`. */
  step(trails: TrailsAt, at: StepTime, dt: number, now: number): void {
    const count = this.find(trails)
    if (!count) return
    this.columns ??= this.system.otherColumns()
    const { columns } = this
    columns.reserve(count)
    columns.count = count
    columns.clear(0, count)
    this.gather(columns, now - dt)
    this.ops.clear()
    this.plan.encode(this.ops, at)
    const own = this.ops.words
    const of = scaledForces(this.system.forceWords, this.plan.carried)
    const words = new Uint32Array(of.length + own.length)
    words.set(of)
    words.set(own, of.length)
    this.system.arm(words, countOps(words), 0, count, columns.table)
    this.system.runJob(count > 2048)
    this.scatter(columns)
  }
  /** Places of all points of trails, and of the tips of those whose particle is gone. */
  private find(trails: TrailsAt): number {
    const { records, more, rings, velocities, ring, gone } = trails
    const view = this.heap.view()
    const live = trails.numbers()
    let n = 0
    const put = (place: number, speed: number, time: number) => {
      if (n === this.places.length) {
        this.places = longer(this.places)
        this.speeds = longer(this.speeds)
        this.times = longer(this.times)
      }
      this.places[n] = place / 4
      this.speeds[n] = speed / 4
      this.times[n++] = time / 4
    }
    const ofTrail = (slot: number, tip: boolean) => {
      const r = records + slot * TRAIL.bytes
      const head = view.getUint32(r + TRAIL.head, true)
      for (let k = view.getUint32(r + TRAIL.first, true); k < head; k++) {
        const o = (slot * ring + (k & (ring - 1))) * 16
        put(rings + o, velocities + o, rings + o + 12)
      }
      if (!tip) return
      const m = more + slot * TRAIL_MORE.bytes
      put(m + TRAIL_MORE.tip, m + TRAIL_MORE.velocity, r + TRAIL.gone)
    }
    for (let i = 0; i < live.length; i++) if (live[i] !== NO_TRAIL) ofTrail(live[i], false)
    for (const slot of gone) ofTrail(slot, true)
    return n
  }
  private gather(columns: Columns, began: number): void {
    const all = new Float32Array(this.heap.memory.buffer)
    const n = columns.count
    PLACE.forEach((name, a) => {
      const to = columns.floats(name)
      for (let i = 0; i < n; i++) to[i] = all[this.places[i] + a]
    })
    VELOCITY.forEach((name, a) => {
      const to = columns.floats(name)
      for (let i = 0; i < n; i++) to[i] = all[this.speeds[i] + a]
    })
    // One that was kept within the substep goes on from there only: its age is below zero as the substep begins.
    const ages = columns.floats('age')
    for (let i = 0; i < n; i++) ages[i] = began - all[this.times[i]]
    columns.floats('life').fill(1e30)
    for (const name of ['phase', 'dead', 'hits', 'id'] as const) columns.words(name).fill(0)
    columns.words('seed').fill(hash3(this.seed, 0, STREAM))
  }
  private scatter(columns: Columns): void {
    const all = new Float32Array(this.heap.memory.buffer)
    const dead = columns.words('dead')
    const n = columns.count
    for (const [names, to] of [
      [PLACE, this.places],
      [VELOCITY, this.speeds],
    ] as const)
      names.forEach((name, a) => {
        const from = columns.floats(name)
        // One that became non-finite stays where it was.
        for (let i = 0; i < n; i++) if (!dead[i]) all[to[i] + a] = from[i]
      })
  }
}
const longer = (a: Uint32Array): Uint32Array => {
  const out = new Uint32Array(Math.max(1024, a.length * 2))
  out.set(a)
  return out
}
