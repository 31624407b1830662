import { VOLUME_GRIDS, VOLUME_TILE, type VolumeGrid, type VolumePart, volumeHalves } from './parts'

/** How the values of one grid of a gas are spread: the largest, and how many voxels hold values in even steps from 0 to a top. */
export interface VolumeCount {
  most: number
  /** Zero, which most hold, is not counted. */
  counts: number[]
}
/** The values of half floats, by their bits. */
let halves: Float32Array | null = null
export function halfTable(): Float32Array {
  if (halves) return halves
  halves = new Float32Array(65536)
  for (let h = 0; h < 65536; h++) {
    const e = (h >> 10) & 31
    const m = h & 1023
    const size = e === 0 ? m * 2 ** -24 : e === 31 ? (m ? 0 : 65504) : (1 + m / 1024) * 2 ** (e - 15)
    halves[h] = h & 0x8000 ? -size : size
  }
  return halves
}
/** Of each grid; `tops`: where their steps end, what is above counts with the last. */
export function volumeCounts(part: VolumePart, tops: Record<VolumeGrid, number>, bins: number): Record<VolumeGrid, VolumeCount> {
  const of = halfTable()
  const count = (grid: VolumeGrid): VolumeCount => {
    const counts = new Array<number>(bins).fill(0)
    const per = bins / tops[grid]
    let most = 0
    for (let n = 0; n < part.tiles; n++)
      for (const h of volumeHalves(part, n, grid)) {
        const v = of[h]
        if (v > most) most = v
        if (v * per >= 0.02) counts[Math.min(bins - 1, Math.floor(v * per))]++
      }
    return { most, counts }
  }
  return Object.fromEntries(VOLUME_GRIDS.map((g) => [g, count(g)])) as Record<VolumeGrid, VolumeCount>
}
/** Voxels that a frame keeps. */
export const volumeVoxels = (part: VolumePart): number => part.tiles * VOLUME_TILE ** 3
