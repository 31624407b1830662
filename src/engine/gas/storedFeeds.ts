import { VOLUME_TILE } from '../frame'
import type { Allocator } from '../memory'
import { GAS_DYES, GAS_SCALARS, type PlanGas } from '../plan'
import type { Substep } from '../solver'
import type { Fields } from './fields'
import { CELLS, type Quantity, resample, tileAt } from './resample'
import type { Cells } from './window'

/** What comes from files. */
const QUANTITIES: readonly Quantity[] = ['density', 'temperature', 'flame', ...GAS_DYES]
type Fed = NonNullable<PlanGas['fed']>[number]
interface Taken {
  key: string
  tiles: Map<number, (Float32Array | undefined)[]>
}
/** What files bring into a gas that flows: in its own voxels, so much in every second, set, or at least. */
export class StoredFeeds {
  private readonly taken = new Map<Fed, Taken>()

  constructor(
    private readonly heap: Allocator,
    private readonly plan: PlanGas,
    private readonly room: () => Cells,
  ) {}
  private at(f: Fed, t: number): Taken['tiles'] {
    const { voxel, low } = this.plan
    const { first, count } = this.room()
    const { key, copies } = f.at(t)
    const now = `${key} ${first}`
    const known = this.taken.get(f)
    if (known?.key === now) return known.tiles
    const room = { low: low.map((v, a) => v + first[a] * voxel), dims: count.map((n) => Math.ceil(n / VOLUME_TILE)) }
    const { tiles } = resample(copies, QUANTITIES, room, voxel)
    this.taken.set(f, { key: now, tiles })
    return tiles
  }
  /** The cells into which something comes in a substep. */
  *cells(s: Substep): Generator<Cells> {
    const { first } = this.room()
    for (const f of this.plan.fed ?? []) {
      if (f.active(s.at.t0, s.at.t1) <= 0) continue
      const low = [Infinity, Infinity, Infinity]
      const high = [-Infinity, -Infinity, -Infinity]
      for (const key of this.at(f, s.at.t0).keys())
        tileAt(key).forEach((v, a) => {
          low[a] = Math.min(low[a], v)
          high[a] = Math.max(high[a], v + 1)
        })
      if (!(high[0] > low[0])) continue
      yield {
        first: low.map((v, a) => first[a] + v * VOLUME_TILE) as [number, number, number],
        count: low.map((v, a) => (high[a] - v) * VOLUME_TILE) as [number, number, number],
      }
    }
  }
  /** Feeds the window for `dt` own seconds. */
  feed(s: Substep, fields: Fields, dt: number): void {
    const { first } = this.room()
    const { window } = fields
    for (const f of this.plan.fed ?? []) {
      const seconds = dt * f.active(s.at.t0, s.at.t1)
      if (seconds <= 0) continue
      for (const [key, sums] of this.at(f, s.at.t0)) {
        const tile = tileAt(key).map((v, a) => first[a] + v * VOLUME_TILE)
        // Of a tile that leaves the window, what is within.
        if (tile.some((v, a) => v + VOLUME_TILE <= window.first[a] || v >= window.first[a] + window.count[a])) continue
        const whole = tile.every((v, a) => v >= window.first[a] && v + VOLUME_TILE <= window.first[a] + window.count[a])
        QUANTITIES.forEach((what, n) => {
          const from = sums[n]
          const field = fields.scalars[fields.slots.indexOf(GAS_SCALARS.indexOf(what))]
          if (!from || !field) return
          const to = this.heap.f32(field.at, fields.floats)
          for (let i = 0; i < CELLS; i++) {
            const v = from[i]
            if (!(v > 0)) continue
            const cell = [tile[0] + (i & 7), tile[1] + ((i >> 3) & 7), tile[2] + (i >> 6)]
            if (!whole && cell.some((c, a) => c < window.first[a] || c >= window.first[a] + window.count[a])) continue
            const o = fields.indexOf(cell[0], cell[1], cell[2])
            to[o] = f.mode === 'add' ? to[o] + v * seconds : f.mode === 'set' ? v : Math.max(to[o], v)
          }
        })
      }
    }
  }
}
