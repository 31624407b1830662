import { grouped } from '../../shot'
import type { Frame } from './frame'
import { partsOf, pointColumn, VOLUME_TILE, volumeHalves, volumeTile } from './parts'
import { halfTable } from './volumeCounts'

/** How two frames of the same elements differ, which are to show the same. */
export interface Apart {
  /** Particles of both, matched by their seeds and ages; those without a partner in the other frame. */
  particles: number
  alone: number
  /** The longest way between two partners, m. */
  metres: number
  /** Of gases: what is at other places, of all density of both frames; 0 to 1. */
  gas: number
}
function pointsApart(a: Frame, b: Frame, out: Apart): void {
  const others = new Map(partsOf(b.parts, 'points').map((p) => [p.element, p]))
  const places = (['px', 'py', 'pz'] as const).map((n) => n)
  for (const p of partsOf(a.parts, 'points')) {
    const q = others.get(p.element)
    others.delete(p.element)
    out.particles += p.count + (q?.count ?? 0)
    if (!q) {
      out.alone += p.count
      continue
    }
    // In each time around births have the seeds of those before: of several that live, the one as old is meant.
    const bySeed = new Map<number, number[]>()
    pointColumn(q, 'seed').forEach((s, i) => void bySeed.set(s, [...(bySeed.get(s) ?? []), i]))
    const [age, ages] = [pointColumn(p, 'age'), pointColumn(q, 'age')]
    const [here, there] = [p, q].map((part) => places.map((n) => pointColumn(part, n)))
    let met = 0
    pointColumn(p, 'seed').forEach((s, i) => {
      const same = bySeed.get(s)
      if (!same?.length) return
      const k = same.reduce((best, j) => (Math.abs(ages[j] - age[i]) < Math.abs(ages[best] - age[i]) ? j : best))
      same.splice(same.indexOf(k), 1)
      met++
      out.metres = Math.max(out.metres, Math.hypot(...places.map((_, c) => here[c][i] - there[c][k])))
    })
    out.alone += p.count + q.count - 2 * met
  }
  for (const q of others.values()) {
    out.particles += q.count
    out.alone += q.count
  }
}
/** Tiles are compared where they lie in the shot, on the lattice of the voxels: of two frames of one gas they lie whole voxels apart. */
function gasApart(a: Frame, b: Frame): number {
  const of = halfTable()
  let [different, all] = [0, 0]
  const gases = new Set([...partsOf(a.parts, 'volume'), ...partsOf(b.parts, 'volume')].map((p) => p.element))
  for (const id of gases) {
    const [here, there] = [a, b].map((f) => {
      const cells = new Map<string, number>()
      for (const p of partsOf(f.parts, 'volume'))
        if (p.element === id)
          for (let n = 0; n < p.tiles; n++) {
            const at = volumeTile(p, n).map((x, c) => Math.round(p.low[c] / p.voxel) + x * VOLUME_TILE)
            volumeHalves(p, n, 'density').forEach((h, i) => {
              if (h) cells.set(`${at[0] + (i & 7)} ${at[1] + ((i >> 3) & 7)} ${at[2] + (i >> 6)}`, of[h])
            })
          }
      return cells
    })
    for (const [key, v] of here) {
      different += Math.abs(v - (there.get(key) ?? 0))
      all += v
    }
    for (const [key, v] of there) {
      if (!here.has(key)) different += v
      all += v
    }
  }
  return all ? different / all : 0
}
export function apart(a: Frame, b: Frame): Apart {
  const out: Apart = { particles: 0, alone: 0, metres: 0, gas: gasApart(a, b) }
  pointsApart(a, b, out)
  return out
}
/** In words: how far the ends of a loop are apart. */
export function apartWords({ alone, metres, gas, particles }: Apart): string {
  const parts = [
    ...(alone ? [`${grouped(alone)} of ${grouped(particles)} particles at both ends have no partner`] : []),
    ...(metres > 0
      ? [`particles are up to ${metres < 0.01 ? `${(metres * 1000).toPrecision(2)} mm` : `${metres.toPrecision(2)} m`} apart`]
      : []),
    ...(gas > 0 ? [`${(gas * 100).toPrecision(2)} % of the gas is elsewhere`] : []),
  ]
  return parts.length ? parts.join(', ') : 'the ends meet exactly'
}
