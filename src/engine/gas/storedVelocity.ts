import { VOLUME_TILE } from '../frame'
import { invert, type Matrix, multiply } from '../math'
import type { StoredCopy } from '../plan'
import { matrixOf, Sampler } from './sampler'

/** How the copies of files in a room move: its low corner, m, and the edge of its voxels, m. */
export class StoredVelocity {
  private readonly copies: { sampler: Sampler; m: Matrix; turn: Matrix }[]

  constructor(copies: readonly StoredCopy[], low: readonly number[], voxel: number) {
    // Places are counted from the middle of the first voxel.
    const toShot = Float64Array.from([voxel, 0, 0, low[0] + voxel / 2, 0, voxel, 0, low[1] + voxel / 2, 0, 0, voxel, low[2] + voxel / 2])
    this.copies = copies.flatMap((c) => {
      const grid = c.velocity ? c.volume.read(c.velocity) : null
      const back = grid?.channels === 3 ? invert(multiply(c.matrix, matrixOf(grid))) : null
      return grid && back ? [{ sampler: Sampler.of(grid), m: multiply(back, toShot), turn: c.matrix }] : []
    })
  }
  /** None of them says how it moves. */
  get isEmpty(): boolean {
    return !this.copies.length
  }
  /** Of the cells of a tile, x first, what there is at their lower faces across an axis, m/s, of each copy that moves there. */
  over(tile: readonly number[], axis: number, add: (cell: number, v: number) => void): void {
    for (const { sampler, m, turn } of this.copies) {
      const [p, q, r] = [turn[axis * 4], turn[axis * 4 + 1], turn[axis * 4 + 2]]
      for (let i = 0; i < VOLUME_TILE ** 3; i++) {
        const x = tile[0] * VOLUME_TILE + (i & 7) - (axis === 0 ? 0.5 : 0)
        const y = tile[1] * VOLUME_TILE + ((i >> 3) & 7) - (axis === 1 ? 0.5 : 0)
        const z = tile[2] * VOLUME_TILE + (i >> 6) - (axis === 2 ? 0.5 : 0)
        const gx = m[0] * x + m[1] * y + m[2] * z + m[3]
        const gy = m[4] * x + m[5] * y + m[6] * z + m[7]
        const gz = m[8] * x + m[9] * y + m[10] * z + m[11]
        const v =
          (p === 0 ? 0 : p * sampler.at(gx, gy, gz, 0)) +
          (q === 0 ? 0 : q * sampler.at(gx, gy, gz, 1)) +
          (r === 0 ? 0 : r * sampler.at(gx, gy, gz, 2))
        if (v !== 0) add(i, v)
      }
    }
  }
}
