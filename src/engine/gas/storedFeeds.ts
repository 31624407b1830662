import { VOLUME_TILE } from '../frame'
import type { Allocator } from '../memory'
import { GAS_DYES, GAS_SCALARS, type PlanGas } from '../plan'
import type { Substep } from '../solver'
import type { Fields } from './fields'
import { CELLS, type Quantity, resample, tileAt } from './resample'
import { StoredVelocity } from './storedVelocity'
import type { Cells } from './window'

/** What comes from files. */
const QUANTITIES: readonly Quantity[] = ['density', 'temperature', 'flame', ...GAS_DYES]
type Fed = NonNullable<PlanGas['fed']>[number]
interface Taken {
  key: string
  tiles: Map<number, (Float32Array | undefined)[]>
  /** How the files move, at the lower faces of the cells of a tile, axis by axis; of each tile that was asked. */
  moves: StoredVelocity
  speeds: Map<number, Float32Array[]>
}
/** What files bring into a gas that flows: in its own voxels, so much in every second, set, or at least; and how it moves where they do. */
export class StoredFeeds {
  private readonly taken = new Map<Fed, Taken>()

  constructor(
    private readonly heap: Allocator,
    private readonly plan: PlanGas,
    private readonly room: () => Cells,
  ) {}
  private at(f: Fed, t: number): Taken {
    const { voxel, low } = this.plan
    const { first, count } = this.room()
    const { key, copies } = f.at(t)
    const now = `${key} ${first}`
    const known = this.taken.get(f)
    if (known?.key === now) return known
    const room = { low: low.map((v, a) => v + first[a] * voxel), dims: count.map((n) => Math.ceil(n / VOLUME_TILE)) }
    const { tiles } = resample(copies, QUANTITIES, room, voxel)
    const taken: Taken = { key: now, tiles, moves: new StoredVelocity(copies, room.low, voxel), speeds: new Map() }
    this.taken.set(f, taken)
    return taken
  }
  private speeds(of: Taken, key: number): Float32Array[] {
    const known = of.speeds.get(key)
    if (known) return known
    const made = [0, 1, 2].map((axis) => {
      const to = new Float32Array(CELLS)
      of.moves.over(tileAt(key), axis, (i, v) => {
        to[i] += v
      })
      return to
    })
    of.speeds.set(key, made)
    return made
  }
  /** The cells into which something comes in a substep. */
  *cells(s: Substep): Generator<Cells> {
    const { first } = this.room()
    for (const f of this.plan.fed ?? []) {
      if (f.active(s.at.t0, s.at.t1) <= 0) continue
      const low = [Infinity, Infinity, Infinity]
      const high = [-Infinity, -Infinity, -Infinity]
      for (const key of this.at(f, s.at.t0).tiles.keys())
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
      const taken = this.at(f, s.at.t0)
      const share = taken.moves.isEmpty ? 0 : f.pushes(s.at.t0)
      for (const [key, sums] of taken.tiles) {
        const tile = tileAt(key).map((v, a) => first[a] + v * VOLUME_TILE)
        // Of a tile that leaves the window, what is within.
        if (tile.some((v, a) => v + VOLUME_TILE <= window.first[a] || v >= window.first[a] + window.count[a])) continue
        const whole = tile.every((v, a) => v >= window.first[a] && v + VOLUME_TILE <= window.first[a] + window.count[a])
        const each = (from: Float32Array, put: (o: number, i: number) => void) => {
          for (let i = 0; i < CELLS; i++) {
            if (!(from[i] > 0)) continue
            const cell = [tile[0] + (i & 7), tile[1] + ((i >> 3) & 7), tile[2] + (i >> 6)]
            if (!whole && cell.some((c, a) => c < window.first[a] || c >= window.first[a] + window.count[a])) continue
            put(fields.indexOf(cell[0], cell[1], cell[2]), i)
          }
        }
        QUANTITIES.forEach((what, n) => {
          const from = sums[n]
          const field = fields.scalars[fields.slots.indexOf(GAS_SCALARS.indexOf(what))]
          if (!from || !field) return
          const to = this.heap.f32(field.at, fields.floats)
          each(from, (o, i) => {
            const v = from[i]
            to[o] = f.mode === 'add' ? to[o] + v * seconds : f.mode === 'set' ? v : Math.max(to[o], v)
          })
        })
        if (!(share > 0) || !sums[0]) continue
        // Where it brings smoke, the gas moves as the file does.
        for (const [axis, speed] of this.speeds(taken, key).entries()) {
          const to = this.heap.f32(fields.velocity[axis].at, fields.floats)
          each(sums[0], (o, i) => {
            to[o] = share * speed[i]
          })
        }
      }
    }
  }
}
