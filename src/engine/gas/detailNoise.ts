import { hash3 } from '../math'
import { DETAIL_NOISE_NODES as NODES } from '../memory'

const SEED = 0x5f0e
/** Blurs a periodic grid by (1 2 1)/4 along each axis. */
function blur(from: Float32Array): Float32Array {
  let a = from
  for (const step of [1, NODES, NODES * NODES]) {
    const b = new Float32Array(a.length)
    const span = step * NODES
    for (let n = 0; n < a.length; n++) {
      const place = Math.floor(n / step) % NODES
      const low = place ? n - step : n - step + span
      const high = place < NODES - 1 ? n + step : n + step - span
      b[n] = 0.5 * a[n] + 0.25 * (a[low] + a[high])
    }
    a = b
  }
  return a
}
/** The difference of the neighbours along an axis, of a periodic grid. */
function slope(a: Float32Array, axis: number): Float32Array {
  const step = NODES ** axis
  const span = step * NODES
  return a.map((_, n) => {
    const place = Math.floor(n / step) % NODES
    return a[place < NODES - 1 ? n + step : n + step - span] - a[place ? n - step : n - step + span]
  })
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
    const fine = blur(Float32Array.from({ length: NODES ** 3 }, (_, n) => hash3(SEED, n, c) / 2 ** 32 - 0.5))
    const wide = [0, 1, 2, 3].reduce(blur, fine)
    return fine.map((x, n) => x - wide[n])
  })
  const d = (c: number, axis: number) => slope(potential[c], axis)
  const minus = (a: Float32Array, b: Float32Array) => a.map((x, n) => x - b[n])
  const curl = [minus(d(2, 1), d(1, 2)), minus(d(0, 2), d(2, 0)), minus(d(1, 0), d(0, 1))]
  let power = 0
  for (const c of curl) for (const x of c) power += x * x
  const by = 1 / Math.sqrt(power / NODES ** 3)
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
