import { hash3, LUMPS_ACROSS, LUMPS_SIDE, LUMPS_SLOPE, unit } from '../engine'

const SEED = 0x70f7
const OCTAVES = [1, 0.55, 0.3]

const fade = (t: number) => t * t * t * (t * (t * 6 - 15) + 10)
/** Gradient noise that repeats after `cells` (Perlin 2002), about −1 to 1. */
function noise(x: number, y: number, z: number, cells: number): number {
  const [i, j, k] = [x, y, z].map(Math.floor)
  const [fx, fy, fz] = [x - i, y - j, z - k]
  const [u, v, w] = [fx, fy, fz].map(fade)
  let sum = 0
  for (let c = 0; c < 8; c++) {
    const [a, b, d] = [c & 1, (c >> 1) & 1, c >> 2]
    const id = [i + a, j + b, k + d].map((n) => ((n % cells) + cells) % cells)
    const h = hash3(SEED + cells, id[0] + cells * (id[1] + cells * id[2]), 0)
    // A direction, evenly over the ball.
    const up = 2 * unit(h) - 1
    const turn = 2 * Math.PI * unit(hash3(SEED, h, 1))
    const flat = Math.sqrt(1 - up * up)
    const dot = flat * Math.cos(turn) * (fx - a) + flat * Math.sin(turn) * (fy - b) + up * (fz - d)
    sum += dot * (a ? u : 1 - u) * (b ? v : 1 - v) * (d ? w : 1 - w)
  }
  return sum * 1.5
}
let made: Uint8Array | null = null
/**
 * A periodic tile of lumps, four bytes a texel, x first: the slope along each axis (128 is none), and how much is taken away there, 0 to 255. What
 * stands out is round, and creases lie between: noise and the amount of it in one.
 */
export function lumps(): Uint8Array {
  if (made) return made
  const n = LUMPS_SIDE
  const value = new Float32Array(n ** 3)
  for (let t = 0; t < value.length; t++) {
    const p = [t % n, Math.floor(t / n) % n, Math.floor(t / (n * n))].map((x) => x / n)
    let sum = 0
    OCTAVES.forEach((amount, o) => {
      const cells = LUMPS_ACROSS << o
      const v = noise(p[0] * cells, p[1] * cells, p[2] * cells, cells)
      sum += amount * (0.5 * v + 0.9 * (Math.abs(v) - 0.28))
    })
    value[t] = sum
  }
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (const v of value) {
    low = Math.min(low, v)
    high = Math.max(high, v)
  }
  const at = (i: number, j: number, k: number) => {
    const [a, b, c] = [i, j, k].map((x) => (x + n) % n)
    return 1 - (value[a + n * (b + n * c)] - low) / (high - low)
  }
  made = new Uint8Array(value.length * 4)
  const perLump = n / LUMPS_ACROSS / 2
  const byte = (x: number) => Math.round(Math.min(1, Math.max(0, x)) * 255)
  for (let k = 0; k < n; k++)
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++) {
        const slope = [at(i + 1, j, k) - at(i - 1, j, k), at(i, j + 1, k) - at(i, j - 1, k), at(i, j, k + 1) - at(i, j, k - 1)].map((d) =>
          byte(0.5 + (0.5 * d * perLump) / LUMPS_SLOPE),
        )
        made.set([...slope, byte(at(i, j, k))], (i + n * (j + n * k)) * 4)
      }
  return made
}
