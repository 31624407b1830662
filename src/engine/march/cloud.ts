import { VOLUME_TILE } from '../frame'
import { CLOUD_LEAST } from '../memory'

/** Floats of a ball of a cloud: place and radius, m, and how much it dims through its middle, as an optical depth. */
export const CLOUD_BALL = 5
/** Soft balls that dim and scatter, many to a voxel. */
export interface Cloud {
  count: number
  /** CLOUD_BALL floats each. */
  balls: Float32Array
  /** The most voxels that it may be spread over. */
  most: number
}
/** Whole tiles that hold all balls: the edge of a voxel, m, the lowest corner, m, and how many there are along each axis. */
export interface CloudWindow {
  voxel: number
  low: number[]
  tiles: number[]
}
/** A voxel is such a part of the mean radius. */
const FINE = 0.5
/** Voxels grow by whole steps of this factor, and lie on a comb of whole tiles, so that light does not flicker while a cloud spreads. */
const STEP = Math.SQRT2

/** The window of a cloud. */
export function cloudWindow({ count, balls, most }: Cloud): CloudWindow {
  const { low, high, mean } = boundsOf(count, balls)
  let voxel = STEP ** Math.round(Math.log(Math.max(1e-4, FINE * mean)) / Math.log(STEP))
  // The first tile and the one after the last of each axis; small balls are spread, so that there is one voxel more around.
  const span = () =>
    [0, 1, 2].map((a) => {
      const edge = CLOUD_LEAST * voxel
      const tile = VOLUME_TILE * voxel
      return [Math.floor((low[a] - edge) / tile), Math.ceil((high[a] + edge) / tile)]
    })
  let tiles = span()
  const cells = () => tiles.reduce((product, [from, to]) => product * (to - from) * VOLUME_TILE, 1)
  // About a corner of the comb the smallest window has eight tiles.
  while (cells() > Math.max(most, 8 * VOLUME_TILE ** 3)) {
    voxel *= STEP
    tiles = span()
  }
  return { voxel, low: tiles.map(([from]) => from * VOLUME_TILE * voxel), tiles: tiles.map(([from, to]) => to - from) }
}
/** The box around all balls, and their mean radius. */
function boundsOf(count: number, balls: Float32Array): { low: number[]; high: number[]; mean: number } {
  let [x0, y0, z0] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY]
  let [x1, y1, z1] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY]
  let sum = 0
  for (let o = 0, end = count * CLOUD_BALL; o < end; o += CLOUD_BALL) {
    const x = balls[o]
    const y = balls[o + 1]
    const z = balls[o + 2]
    const r = balls[o + 3]
    sum += r
    if (x - r < x0) x0 = x - r
    if (x + r > x1) x1 = x + r
    if (y - r < y0) y0 = y - r
    if (y + r > y1) y1 = y + r
    if (z - r < z0) z0 = z - r
    if (z + r > z1) z1 = z + r
  }
  return { low: [x0, y0, z0], high: [x1, y1, z1], mean: sum / count }
}
