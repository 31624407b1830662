import { VOLUME_TILE } from '../frame'
import { MARCH_BALL } from '../memory'

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
/** Balls in voxels as the kernel takes them, by the layer of tiles that they reach into, and the first of each layer, with their number behind. */
export interface CloudBalls {
  voxel: number
  low: number[]
  tiles: number[]
  balls: Float32Array
  starts: Uint32Array
}
/** A smaller one than this, in voxels, is spread as one of this radius: voxels would miss it. */
const LEAST_RADIUS = 1.5
/** A voxel is such a part of the mean radius. */
const FINE = 0.5
/** Voxels grow by whole steps of this factor, and lie on a comb of whole tiles, so that light does not flicker while a cloud spreads. */
const STEP = Math.SQRT2
const STRIDE = MARCH_BALL.bytes / 4
/** ∫ (1 − d²)² over the unit ball. */
const KERNEL = (32 * Math.PI) / 105

/**
 * Sorts the balls of a cloud for the kernel, in a window of whole tiles that holds them all. A ball as wide as 2r that dims by τ through its middle
 * holds τ / 2r · 4/3 π r³ = 2/3 π r² τ of what dims, in m². Its voxels get that on the mean over all ways to lie between them.
 */
export function cloudBalls({ count, balls, most }: Cloud): CloudBalls {
  const low = [0, 1, 2].map(() => Number.POSITIVE_INFINITY)
  const high = [0, 1, 2].map(() => Number.NEGATIVE_INFINITY)
  let sum = 0
  for (let n = 0, o = 0; n < count; n++, o += CLOUD_BALL) {
    const r = balls[o + 3]
    sum += r
    for (let a = 0; a < 3; a++) {
      if (balls[o + a] - r < low[a]) low[a] = balls[o + a] - r
      if (balls[o + a] + r > high[a]) high[a] = balls[o + a] + r
    }
  }
  let voxel = STEP ** Math.round(Math.log(Math.max(1e-4, (FINE * sum) / count)) / Math.log(STEP))
  // The first tile and the one after the last of each axis; small balls are spread, so that there is one voxel more around.
  const span = () =>
    [0, 1, 2].map((a) => {
      const edge = LEAST_RADIUS * voxel
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
  const corner = tiles.map(([from]) => from * VOLUME_TILE * voxel)
  const layers = tiles[2][1] - tiles[2][0]
  const starts = new Uint32Array(layers + 1)
  const first = new Uint16Array(count)
  const last = new Uint16Array(count)
  for (let n = 0, o = 0; n < count; n++, o += CLOUD_BALL) {
    const r = Math.max(LEAST_RADIUS, balls[o + 3] / voxel)
    const z = (balls[o + 2] - corner[2]) / voxel
    first[n] = Math.max(0, Math.floor((z - r) / VOLUME_TILE))
    last[n] = Math.min(layers - 1, Math.floor((z + r) / VOLUME_TILE))
    for (let k = first[n]; k <= last[n]; k++) starts[k + 1]++
  }
  for (let k = 0; k < layers; k++) starts[k + 1] += starts[k]
  const out = new Float32Array(starts[layers] * STRIDE)
  const next = starts.slice()
  const [cx, cy, cz] = corner
  for (let n = 0, o = 0; n < count; n++, o += CLOUD_BALL) {
    const r = balls[o + 3] / voxel
    const wide = Math.max(LEAST_RADIUS, r)
    const amount = ((2 / 3) * Math.PI * r * r * balls[o + 4]) / (KERNEL * wide * wide * wide)
    for (let k = first[n]; k <= last[n]; k++) {
      const at = next[k]++ * STRIDE
      out[at] = (balls[o] - cx) / voxel
      out[at + 1] = (balls[o + 1] - cy) / voxel
      out[at + 2] = (balls[o + 2] - cz) / voxel
      out[at + 3] = wide
      out[at + 4] = amount
    }
  }
  return { voxel, low: corner, tiles: tiles.map(([from, to]) => to - from), balls: out, starts }
}
