import { hash3 } from '../math'
import { DETAIL_NOISE_NODES as NODES } from '../memory'

const SEED = 0x5f0e
const SIZE = NODES ** 3
/**
 * A combination of each node with its neighbours along an axis, of a periodic grid: `own` of itself, `before` and `after` of them. Line by line:
 * to find by division where each node lies took half a second of every start of a gas with detail.
 */
function along(a: Float32Array, axis: number, own: number, before: number, after: number): Float32Array {
  const out = new Float32Array(SIZE)
  const step = NODES ** axis
  const span = step * NODES
  for (let from = 0; from < SIZE; from += span)
    for (let first = from; first < from + step; first++) {
      const last = first + span - step
      let low = a[last]
      let at = a[first]
      for (let n = first; n < last; n += step) {
        const high = a[n + step]
        out[n] = own * at + (before * low + after * high)
        low = at
        at = high
      }
      out[last] = own * at + (before * low + after * a[first])
    }
  return out
}
/** Blurs by (1 2 1)/4 along each axis. */
const blur = (a: Float32Array): Float32Array => [0, 1, 2].reduce((b, axis) => along(b, axis, 0.5, 0.25, 0.25), a)
/** The difference of the neighbours along an axis. */
const slope = (a: Float32Array, axis: number): Float32Array => along(a, axis, 0, -1, 1)
function minus(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(SIZE)
  for (let n = 0; n < SIZE; n++) out[n] = a[n] - b[n]
  return out
}
function whiteNoise(c: number): Float32Array {
  const out = new Float32Array(SIZE)
  for (let n = 0; n < SIZE; n++) out[n] = hash3(SEED, n, c) / 2 ** 32 - 0.5
  return out
}
let made: Float32Array | null = null
/**
 * A periodic tile of velocity, four floats a node with the last 0, x first, one node more along each axis than its period: the curl of white
 * noise of which only a band is left, so free of divergence by central differences; its mean square is 1. After Kim, Thürey, James and Gross
 * (2008), with differences of blurs for their wavelets.
 */
export function detailNoise(): Float32Array {
  if (made) return made
  const potential = [0, 1, 2].map((c) => {
    const fine = blur(whiteNoise(c))
    return minus(fine, blur(blur(blur(blur(fine)))))
  })
  const d = (c: number, axis: number) => slope(potential[c], axis)
  const curl = [minus(d(2, 1), d(1, 2)), minus(d(0, 2), d(2, 0)), minus(d(1, 0), d(0, 1))]
  let power = 0
  for (const c of curl) for (let n = 0; n < SIZE; n++) power += c[n] * c[n]
  const by = 1 / Math.sqrt(power / SIZE)
  const wide = NODES + 1
  const out = new Float32Array(4 * wide ** 3)
  for (let k = 0, o = 0; k < wide; k++)
    for (let j = 0; j < wide; j++)
      for (let i = 0; i < wide; i++, o += 4) {
        const n = (i % NODES) + NODES * ((j % NODES) + NODES * (k % NODES))
        for (let c = 0; c < 3; c++) out[o + c] = curl[c][n] * by
      }
  made = out
  return out
}
