import { hash3 } from '../../math'
import { BLUE_NOISE as SIDE } from '../../memory'

const CELLS = SIDE * SIDE
/** Places wrap around by their lowest bits: the side is a power of two. */
const WRAP = SIDE - 1
/** Width of the Gaussian by which void and cluster sees how crowded a place is, pixels. */
const SIGMA = 1.9
const SEED = 0x1b1e
/**
 * The order in which places of a periodic tile are filled, x first, so that the first n of any number are spread evenly. It takes a tenth of a
 * second: what it makes is kept in blueNoiseTable.ts.
 * Ulichney, "The void-and-cluster method for dither array generation" (1993).
 */
export function voidAndCluster(): Uint16Array {
  const weight = Float64Array.from({ length: CELLS }, (_, n) => {
    const away = [n % SIDE, Math.floor(n / SIDE)].map((v) => Math.min(v, SIDE - v))
    return Math.exp(-(away[0] ** 2 + away[1] ** 2) / (2 * SIGMA * SIGMA))
  })
  const on = new Uint8Array(CELLS)
  const crowd = new Float64Array(CELLS)
  const put = (at: number, sign: 1 | -1) => {
    on[at] = sign > 0 ? 1 : 0
    const [x, y] = [at % SIDE, Math.floor(at / SIDE)]
    for (let j = 0, n = 0; j < SIDE; j++) {
      const row = ((j - y) & WRAP) * SIDE
      for (let i = 0; i < SIDE; i++, n++) crowd[n] += sign * weight[row + ((i - x) & WRAP)]
    }
  }
  /** The most crowded of those that are on, or the least crowded of those that are off. */
  const extreme = (is: 0 | 1) => {
    let best = -1
    for (let n = 0; n < CELLS; n++) if (on[n] === is && (best < 0 || (is ? crowd[n] > crowd[best] : crowd[n] < crowd[best]))) best = n
    return best
  }
  // A tenth of them anywhere, moved from clusters into voids until nothing gets better.
  const first = Math.floor(CELLS / 10)
  for (let n = 0, k = 0; n < first; k++) {
    const at = hash3(SEED, k, 0) % CELLS
    if (on[at]) continue
    put(at, 1)
    n++
  }
  for (let n = 0; n < CELLS; n++) {
    const from = extreme(1)
    put(from, -1)
    const to = extreme(0)
    put(to, 1)
    if (from === to) break
  }
  const rank = new Uint16Array(CELLS)
  const start = on.slice()
  // Below: taken away again, the most crowded first. Above: into the largest void.
  for (let n = first - 1; n >= 0; n--) {
    const at = extreme(1)
    put(at, -1)
    rank[at] = n
  }
  start.forEach((is, n) => is && put(n, 1))
  for (let n = first; n < CELLS; n++) {
    const at = extreme(0)
    put(at, 1)
    rank[at] = n
  }
  return rank
}
