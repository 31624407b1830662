import { VOLUME_TILE, type VolumeGrid, type VolumePart, volumeHalves } from './parts'
import { halfTable } from './volumeCounts'

/** The values of one grid of a gas at places in the shot, xyz each, trilinear between the middles of voxels; nothing is 0. */
export function volumeAt(part: VolumePart, grid: VolumeGrid, places: Float32Array): Float32Array {
  const of = halfTable()
  const tiles = new Map<number, Uint16Array>()
  const words = new Uint32Array(part.data, 0, part.tiles)
  words.forEach((w, n) => tiles.set(w, volumeHalves(part, n, grid)))
  const at = (i: number, j: number, k: number): number => {
    if (i < 0 || j < 0 || k < 0) return 0
    const tile = tiles.get((i >> 3) | ((j >> 3) << 10) | ((k >> 3) << 20))
    return tile ? of[tile[(i & 7) + VOLUME_TILE * ((j & 7) + VOLUME_TILE * (k & 7))]] : 0
  }
  const out = new Float32Array(places.length / 3)
  for (let n = 0; n < out.length; n++) {
    const p = [0, 1, 2].map((a) => (places[n * 3 + a] - part.low[a]) / part.voxel - 0.5)
    const [i, j, k] = p.map(Math.floor)
    const [x, y, z] = [p[0] - i, p[1] - j, p[2] - k]
    for (let c = 0; c < 8; c++) {
      const [a, b, d] = [c & 1, (c >> 1) & 1, c >> 2]
      out[n] += (a ? x : 1 - x) * (b ? y : 1 - y) * (d ? z : 1 - z) * at(i + a, j + b, k + d)
    }
  }
  return out
}
