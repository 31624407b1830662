import { hash3, LUMPS_ACROSS, LUMPS_SIDE, LUMPS_SLOPE, unit } from '../engine'

const SEED = 0x70f7
const OCTAVES = [1, 0.55, 0.3]

const fade = (t: number) => t * t * t * (t * (t * 6 - 15) + 10)
/** A direction for each corner of a lattice, evenly over the ball. */
function directions(cells: number): Float64Array {
  const out = new Float64Array(cells ** 3 * 3)
  for (let n = 0; n < cells ** 3; n++) {
    const h = hash3(SEED + cells, n, 0)
    const up = 2 * unit(h) - 1
    const turn = 2 * Math.PI * unit(hash3(SEED, h, 1))
    const flat = Math.sqrt(1 - up * up)
    out.set([flat * Math.cos(turn), flat * Math.sin(turn), up], n * 3)
  }
  return out
}
/** Gradient noise that repeats after `cells` (Perlin 2002), about −1 to 1; x, y and z from 0 to below `cells`. */
function noise(x: number, y: number, z: number, cells: number, towards: Float64Array): number {
  const i = Math.floor(x)
  const j = Math.floor(y)
  const k = Math.floor(z)
  const fx = x - i
  const fy = y - j
  const fz = z - k
  const u = fade(fx)
  const v = fade(fy)
  const w = fade(fz)
  let sum = 0
  for (let c = 0; c < 8; c++) {
    const a = c & 1
    const b = (c >> 1) & 1
    const d = c >> 2
    const o = (((i + a) % cells) + cells * (((j + b) % cells) + cells * ((k + d) % cells))) * 3
    const dot = towards[o] * (fx - a) + towards[o + 1] * (fy - b) + towards[o + 2] * (fz - d)
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
  const octaves = OCTAVES.map((amount, o) => ({ amount, cells: LUMPS_ACROSS << o, towards: directions(LUMPS_ACROSS << o) }))
  for (let t = 0; t < value.length; t++) {
    const x = (t % n) / n
    const y = (Math.floor(t / n) % n) / n
    const z = Math.floor(t / (n * n)) / n
    let sum = 0
    for (const { amount, cells, towards } of octaves) {
      const v = noise(x * cells, y * cells, z * cells, cells, towards)
      sum += amount * (0.5 * v + 0.9 * (Math.abs(v) - 0.28))
    }
    value[t] = sum
  }
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (const v of value) {
    low = Math.min(low, v)
    high = Math.max(high, v)
  }
  const around = (x: number) => (x + n) % n
  const at = (i: number, j: number, k: number) => 1 - (value[around(i) + n * (around(j) + n * around(k))] - low) / (high - low)
  made = new Uint8Array(value.length * 4)
  const perLump = n / LUMPS_ACROSS / 2
  const byte = (x: number) => Math.round(Math.min(1, Math.max(0, x)) * 255)
  const slope = (d: number) => byte(0.5 + (0.5 * d * perLump) / LUMPS_SLOPE)
  for (let k = 0, o = 0; k < n; k++)
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++) {
        made[o++] = slope(at(i + 1, j, k) - at(i - 1, j, k))
        made[o++] = slope(at(i, j + 1, k) - at(i, j - 1, k))
        made[o++] = slope(at(i, j, k + 1) - at(i, j, k - 1))
        made[o++] = byte(at(i, j, k))
      }
  return made
}
