import type { Flame } from './look'

/** Light that tiles give: eight floats each, power by colour and nothing, the middle in voxels, and the weight of it. */
export type Shines = Float32Array

/**
 * At most so many lights for all that shines: tiles are taken together in blocks, which grow until there are few enough. `low`: the corner of the
 * window, m.
 */
export function flamesOf(shines: Shines, tiles: number, voxel: number, low: readonly number[], most: number): Flame[] {
  for (let wide = 8; ; wide *= 2) {
    const blocks = new Map<string, number[]>()
    for (let n = 0; n < tiles; n++) {
      const s = shines.subarray(n * 8, n * 8 + 8)
      if (!(s[7] > 0)) continue
      const key = `${Math.floor(s[4] / wide)} ${Math.floor(s[5] / wide)} ${Math.floor(s[6] / wide)}`
      const b = blocks.get(key) ?? [0, 0, 0, 0, 0, 0, 0]
      for (let a = 0; a < 3; a++) {
        b[a] += s[a]
        b[3 + a] += s[4 + a] * s[7]
      }
      b[6] += s[7]
      blocks.set(key, b)
    }
    if (blocks.size > most && wide < 4096) continue
    return [...blocks.values()].map((b) => ({
      place: [0, 1, 2].map((a) => low[a] + (b[3 + a] / b[6]) * voxel) as Flame['place'],
      radius: 0.35 * wide * voxel,
      power: [0, 1, 2].map((a) => b[a] * voxel ** 3) as Flame['power'],
    }))
  }
}
