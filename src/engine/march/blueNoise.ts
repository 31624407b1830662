import { BLUE_NOISE as SIDE } from '../memory'
import { BLUE_NOISE_RANKS } from './blueNoiseTable'

const CELLS = SIDE * SIDE
let made: Float32Array | null = null
/** A periodic tile of blue noise, x first: each of (n + ½)/4096 once, so that every threshold of it is spread evenly and neighbours differ (void and cluster, Ulichney 1993). */
export function blueNoise(): Float32Array {
  if (made) return made
  const bytes = atob(BLUE_NOISE_RANKS)
  const rank = (n: number) => bytes.charCodeAt(2 * n) + 256 * bytes.charCodeAt(2 * n + 1)
  made = Float32Array.from({ length: CELLS }, (_, n) => (rank(n) + 0.5) / CELLS)
  return made
}
