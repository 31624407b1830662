import type { ColliderRecords } from '../contact'
import { apply, hash3, identity, type Matrix } from '../math'
import { type Allocator, Block, FEED, FEED_MODE, writeRecord } from '../memory'
import type { ObjectState } from '../objects'
import { type FeedAmount, type FeedParams, GAS_SCALARS, type GasFeed, type PlanGas } from '../plan'
import type { Substep } from '../solver'
import { type Cells, isEmpty, shared } from './window'

/** Runs a step of the kernels over a feed: its record goes where tables go. */
export type RunFeed = (step: 'cover' | 'portion' | 'feed' | 'splat' | 'solidify', record: number, count: number) => void

/** The cells of an object, as far as they may matter, in all that the gas may have; null without a surface. */
function cellsOf(o: ObjectState | undefined, plan: PlanGas, whole: Cells, reach: number): Cells | null {
  if (!o?.in1) return null
  if (o.endless) return whole
  if (!o.surface?.mesh.indices.length) return null
  const { min, max } = o.surface.bounds
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let c = 0; c < 8; c++) {
    const p = [c & 1 ? max[0] : min[0], c & 2 ? max[1] : min[1], c & 4 ? max[2] : min[2]]
    for (let a = 0; a < 3; a++) {
      const x = o.m1[a * 4] * p[0] + o.m1[a * 4 + 1] * p[1] + o.m1[a * 4 + 2] * p[2] + o.m1[a * 4 + 3]
      low[a] = Math.min(low[a], x)
      high[a] = Math.max(high[a], x)
    }
  }
  const at = (a: number, x: number) => (x - plan.low[a]) / plan.voxel
  const first = [0, 1, 2].map((a) => Math.floor(at(a, low[a] - reach) - 1)) as [number, number, number]
  const count = [0, 1, 2].map((a) => Math.ceil(at(a, high[a] + reach) + 1) - first[a]) as [number, number, number]
  const there = shared({ first, count }, whole)
  return isEmpty(there) ? null : there
}
/** What is said of each scalar, at its place; 0 of what is not fed. */
const inSlots = (amounts: FeedParams['amounts'], of: (a: FeedAmount) => number): number[] =>
  GAS_SCALARS.map((name) => {
    const a = amounts[name]
    return a ? of(a) : 0
  })
const IDENTITY = identity()
const sameMatrix = (a: Matrix, b: Matrix) => a.every((x, i) => x === b[i])

/** One object in the cells of a gas, with its distances, measured again when it has moved. */
class Covered {
  private distances: Block
  private weights: Block
  private portions: Block
  private known: { cells: string; m: Matrix } | null = null
  readonly record: number
  /** Whether it was measured before as it is. */
  stayed = false
  constructor(private heap: Allocator) {
    this.distances = new Block(heap)
    this.weights = new Block(heap)
    this.portions = new Block(heap)
    this.record = heap.take(FEED.bytes)
  }
  /** Measures; `cells` within the window whose first cell is `origin`. False when it has no surface now. */
  measure(o: ObjectState, cells: Cells, origin: readonly number[], records: ColliderRecords, run: RunFeed, region = ''): boolean {
    const collider = records.target(o, { surface: true })
    if (!collider) return false
    const { count } = cells
    const first = cells.first.map((f, a) => f - origin[a])
    const at = this.distances.reserve(count[0] * count[1] * count[2] * 4)
    const amounts = region ? records.amounts(o, region) : 0
    const weights = amounts ? this.weights.reserve(count[0] * count[1] * count[2] * 4) : 0
    writeRecord(this.heap.view(), this.record, FEED, { record: collider, first, count, distances: at, region: amounts, weights })
    const key = `${cells.first} ${count}`
    this.stayed = false
    // The amounts of a region may be others in each substep.
    const stays = !region && !o.surface?.changes && this.known?.cells === key && sameMatrix(this.known.m, o.m1)
    if (!stays) {
      run('cover', this.record, count[1] * count[2])
      this.known = { cells: key, m: Float64Array.from(o.m1) }
    }
    this.stayed = stays
    return true
  }
  /** Room for how much of the source each of its cells is. */
  room({ count }: Cells): number {
    return this.portions.reserve(count[0] * count[1] * count[2] * 4)
  }
  forget(): void {
    this.known = null
  }
  dispose(): void {
    this.distances.free()
    this.weights.free()
    this.portions.free()
    this.heap.give(this.record)
  }
}

/** What comes into a gas, and what is solid in it. */
export class Feeds {
  private covered: Covered[]
  private solids: Covered[]
  private splat: number

  constructor(
    private heap: Allocator,
    private plan: PlanGas,
    /** All that the gas may have now. */
    private room: () => Cells,
    private records: ColliderRecords,
    private run: RunFeed,
  ) {
    this.covered = plan.feeds.map(() => new Covered(heap))
    this.solids = plan.solids.map(() => new Covered(heap))
    this.splat = heap.take(FEED.bytes)
  }
  private isActive(f: GasFeed, { at }: Substep): boolean {
    return f.active(at.t0, at.t1) > 0
  }
  /** The cells into which something comes in a substep; null when nothing does. */
  *cells(s: Substep): Generator<Cells> {
    for (const f of this.plan.feeds) {
      if (!this.isActive(f, s)) continue
      const { reach } = f.params(s.at.t0)
      const cells = 'object' in f.from ? cellsOf(s.objects[f.from.object], this.plan, this.room(), reach) : this.around(f, s, reach)
      if (cells) yield cells
    }
  }
  /** Around the particles of a system that are within all that the gas may have. */
  private around(f: GasFeed, s: Substep, reach: number): Cells | null {
    if (!('system' in f.from)) return null
    const points = s.points[f.from.system]
    if (!points?.columns.count) return null
    const { low, voxel } = this.plan
    const room = this.room()
    const first: [number, number, number] = [0, 0, 0]
    const count: [number, number, number] = [0, 0, 0]
    const wide = Math.max(1.2, reach / voxel) + 1
    const [px, py, pz, vx, vy, vz] = (['px', 'py', 'pz', 'vx', 'vy', 'vz'] as const).map((n) => points.columns.floats(n))
    const age = points.columns.floats('age')
    const out = f.from.out?.(s.at.t1) ?? IDENTITY
    const bounds = [0, 1, 2].map(() => [Infinity, -Infinity])
    // Both ends of the way of each.
    for (let n = 0; n < 2 * points.columns.count; n++) {
      const i = n >> 1
      const back = n & 1 ? Math.min(s.at.dt, Math.max(0, age[i])) : 0
      const p = apply(out, px[i] - back * vx[i], py[i] - back * vy[i], pz[i] - back * vz[i]).map((x, a) => (x - low[a]) / voxel)
      if (p.some((x, a) => !(x > room.first[a] - wide && x < room.first[a] + room.count[a] + wide))) continue
      for (let a = 0; a < 3; a++) {
        bounds[a][0] = Math.min(bounds[a][0], p[a])
        bounds[a][1] = Math.max(bounds[a][1], p[a])
      }
    }
    for (let a = 0; a < 3; a++) {
      if (!(bounds[a][1] >= bounds[a][0])) return null
      first[a] = Math.max(room.first[a], Math.floor(bounds[a][0] - wide))
      count[a] = Math.min(room.first[a] + room.count[a], Math.ceil(bounds[a][1] + wide)) - first[a]
    }
    const cells: Cells = { first, count }
    return isEmpty(cells) ? null : cells
  }
  /** Feeds the window for `dt` own seconds, in the n-th of so many own steps of the substep. */
  feed(s: Substep, window: Cells, dt: number, n: number, steps: number): void {
    const whole = s.at.dt
    this.plan.feeds.forEach((f, k) => {
      const share = f.active(s.at.t0, s.at.t1)
      if (share <= 0) return
      const p = f.params(s.at.t0)
      const values = {
        thickness: p.reach,
        modes: inSlots(p.amounts, (a) => FEED_MODE[a.mode]),
        amounts: inSlots(p.amounts, (a) => a.amount),
        dt: dt * share,
        ...{ own: p.own, outwards: p.outwards, direction: p.direction, lead: p.lead, perSecond: whole > 0 ? 1 / whole : 0 },
        ...{ breakUp: p.breakUp, perSize: 1 / Math.max(1e-4, p.breakSize), phase: p.breakPhase, seed: hash3(f.seed, 0, 70) },
      }
      if ('system' in f.from) {
        const points = s.points[f.from.system]
        if (!points?.columns.count) return
        const particles = {
          columns: points.columns.table,
          particles: points.columns.count,
          radius: p.reach,
          out: f.from.out?.(s.at.t1) ?? IDENTITY,
        }
        // Each own step has its part of the way.
        const part = { way: whole / steps, ago: (whole * (steps - n)) / steps }
        writeRecord(this.heap.view(), this.splat, FEED, values, particles, part, { record: 0 })
        this.run('splat', this.splat, 1)
        return
      }
      const o = s.objects[f.from.object]
      const all = cellsOf(o, this.plan, this.room(), p.reach)
      const cells = all && shared(all, window)
      if (!cells || isEmpty(cells) || !this.covered[k].measure(o, cells, window.first, this.records, this.run, f.from.region)) return
      const { record } = this.covered[k]
      writeRecord(this.heap.view(), record, FEED, values, { skin: f.from.skin ? 1 : 0, portions: this.covered[k].room(cells) })
      for (const step of ['portion', 'feed'] as const) this.run(step, record, cells.count[1] * cells.count[2])
    })
  }
  private wereSolid = 0
  /**
   * Marks what is solid in the window, unless it is as it was, which `known` says may be so. `mark`: makes room for it first.
   */
  solidify(s: Substep, window: Cells, whole: number, known: boolean, mark: () => void): 'none' | 'same' | 'changed' {
    let same = known
    const there = this.plan.solids.flatMap((i, k) => {
      const o = s.objects[i]
      const all = cellsOf(o, this.plan, this.room(), (o?.thickness ?? 0) + this.plan.voxel)
      const cells = all && shared(all, window)
      if (!cells || isEmpty(cells) || !this.solids[k].measure(o, cells, window.first, this.records, this.run)) return []
      // One that moves has a velocity, in the substep in which it stops as well.
      if (!this.solids[k].stayed || !sameMatrix(o.m0, o.m1)) same = false
      return [{ cells, thickness: o.thickness, record: this.solids[k].record }]
    })
    const key = there.reduce((h, x) => h * 31 + x.record + x.thickness, there.length)
    if (same && key === this.wereSolid) return 'same'
    this.wereSolid = key
    if (there.length) mark()
    for (const { cells, thickness, record } of there) {
      writeRecord(this.heap.view(), record, FEED, { thickness, perSecond: whole > 0 ? 1 / whole : 0 })
      this.run('solidify', record, cells.count[1] * cells.count[2])
    }
    return there.length ? 'changed' : 'none'
  }
  /** Distances lie in the cells of a window. */
  forget(): void {
    for (const c of [...this.covered, ...this.solids]) c.forget()
  }
  dispose(): void {
    for (const c of [...this.covered, ...this.solids]) c.dispose()
    this.heap.give(this.splat)
  }
}
