import { runningAreas } from '../geometry'
import { hash3, unit } from '../math'
import type { GrowthParams } from '../plan'
import type { SurfacePlace, WalkableMesh } from './walk'

/** How much of a region there is at a place of the surface, 0 to 1. */
export type AmountAt = (triangle: number, b0: number, b1: number, b2: number) => number
export const amountOn = ({ mesh: { indices } }: WalkableMesh, amounts: Float32Array): AmountAt => {
  return (t, b0, b1, b2) => b0 * amounts[indices[t * 3]] + b1 * amounts[indices[t * 3 + 1]] + b2 * amounts[indices[t * 3 + 2]]
}
/** Places that are tried for one by which the region lets a line begin. */
const TRIES = 512

/** Evenly by area, by the amounts of a region, or about a place: where lines begin. */
export function starts(surface: WalkableMesh, p: GrowthParams, seed: number, amount: AmountAt | null, edge: number): SurfacePlace[] {
  const areas = runningAreas(surface.mesh)
  const total = areas[areas.length - 1] ?? 0
  const anywhere = (h: number): SurfacePlace => {
    const wanted = unit(hash3(h, 1, 81)) * total
    let [low, high] = [0, areas.length - 1]
    while (low < high) {
      const middle = (low + high) >> 1
      if (areas[middle] <= wanted) low = middle + 1
      else high = middle
    }
    const r = Math.sqrt(unit(hash3(h, 2, 81)))
    const s = unit(hash3(h, 3, 81))
    return { triangle: low, b0: 1 - r, b1: r * (1 - s), b2: r * s }
  }
  /** Null: the region has next to nothing. */
  const drawn = (h: number): SurfacePlace | null => {
    if (!amount) return anywhere(h)
    for (let n = 0; n < TRIES; n++) {
      const own = hash3(h, n, 88)
      const place = anywhere(own)
      const here = amount(place.triangle, place.b0, place.b1, place.b2)
      if (here >= edge && unit(hash3(own, 4, 81)) < here) return place
    }
    return null
  }
  if (!total) return []
  const out: SurfacePlace[] = []
  for (let k = 0; k < p.lines; k++) {
    if (!p.near) {
      const place = drawn(hash3(seed, k, 80))
      if (place) out.push(place)
      continue
    }
    // The nearest of many places; the next lines begin about there.
    let best: { far: number; place: SurfacePlace } | null = null
    const tries = p.near.radius > 0 ? 64 : 4096
    for (let n = 0; n < tries; n++) {
      const place = drawn(hash3(seed, p.near.radius > 0 ? k * tries + n : n, 82))
      if (!place) break
      const at = surface.placeOf(place)
      const [x, y, z] = p.near.place
      // Within the radius one is as good as another.
      const far = Math.max(p.near.radius, Math.sqrt((at[0] - x) ** 2 + (at[1] - y) ** 2 + (at[2] - z) ** 2))
      if (!best || far < best.far) best = { far, place }
    }
    if (best) out.push(best.place)
  }
  return out
}
