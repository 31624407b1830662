import { hash3, unit, wrapped } from './functions'
import { samePlaces } from './search'

// Gradient noise over space (Perlin 2002: quintic blending, gradients from a table of shuffled numbers), from + - × only. It is its own
// work: forces use the noise of the kernels, which looks the same but runs four particles at a time.

const SIZE = 256
const order = new Uint8Array(SIZE * 2)
const gx = new Float64Array(SIZE),
  gy = new Float64Array(SIZE),
  gz = new Float64Array(SIZE)
{
  const list = Array.from({ length: SIZE }, (_, i) => i)
  for (let i = SIZE - 1; i > 0; i--) {
    const j = Math.floor(unit(hash3(0x5eed, i, 0)) * (i + 1))
    ;[list[i], list[j]] = [list[j], list[i]]
  }
  for (let i = 0; i < SIZE * 2; i++) order[i] = list[i % SIZE]
  // Directions evenly over the ball, by trying points of the cube.
  for (let i = 0; i < SIZE; i++) {
    for (let n = 0; ; n++) {
      const [x, y, z] = [1, 2, 3].map((c) => unit(hash3(0x5eed, i * 64 + n, c)) * 2 - 1)
      const l = x * x + y * y + z * z
      if (l > 1 || l < 0.01) continue
      const k = 1 / Math.sqrt(l)
      gx[i] = x * k
      gy[i] = y * k
      gz[i] = z * k
      break
    }
  }
}
const fade = (f: number) => f * f * f * (f * (f * 6 - 15) + 10)
const at = (h: number, x: number, y: number, z: number) => gx[h] * x + gy[h] * y + gz[h] * z

/** One octave, about -0.8 to 0.8, mean 0; it repeats after 256 cells. */
export function noise3(x: number, y: number, z: number): number {
  const fx = Math.floor(x),
    fy = Math.floor(y),
    fz = Math.floor(z)
  const i = fx & 255,
    j = fy & 255,
    k = fz & 255
  const u = x - fx,
    v = y - fy,
    w = z - fz
  const a = order[i] + j,
    b = order[i + 1] + j
  const aa = order[a & 255] + k,
    ab = order[(a + 1) & 255] + k,
    ba = order[b & 255] + k,
    bb = order[(b + 1) & 255] + k
  const su = fade(u),
    sv = fade(v),
    sw = fade(w)
  const mix = (p: number, q: number, s: number) => p + s * (q - p)
  return mix(
    mix(
      mix(at(order[aa & 255], u, v, w), at(order[ba & 255], u - 1, v, w), su),
      mix(at(order[ab & 255], u, v - 1, w), at(order[bb & 255], u - 1, v - 1, w), su),
      sv,
    ),
    mix(
      mix(at(order[(aa + 1) & 255], u, v, w - 1), at(order[(ba + 1) & 255], u - 1, v, w - 1), su),
      mix(at(order[(ab + 1) & 255], u, v - 1, w - 1), at(order[(bb + 1) & 255], u - 1, v - 1, w - 1), su),
      sv,
    ),
    sw,
  )
}
/**
 * Fractal noise: each octave half the size and half as high. `phase` renews it: the field at every whole number is another one, blended
 * smoothly between. The seed shifts the whole field. `period`: after so many renewals the first field comes again.
 */
export function fractal(seed: number, x: number, y: number, z: number, octaves: number, phase = 0, period = 0): number {
  const n = Math.floor(phase)
  const f = phase - n
  const of = (k: number) => layer(seed, x, y, z, octaves, wrapped(k, period))
  return f === 0 ? of(n) : between(of(n), of(n + 1), fade(f))
}
/** One of the fields that the phase goes through. */
function layer(seed: number, x: number, y: number, z: number, octaves: number, n: number): number {
  const ox = (hash3(seed, n, 1) & 0xffff) / 251,
    oy = (hash3(seed, n, 2) & 0xffff) / 251,
    oz = (hash3(seed, n, 3) & 0xffff) / 251
  let sum = 0,
    height = 1,
    scale = 1
  for (let o = 0; o < octaves; o++) {
    sum += height * noise3(x * scale + ox + o * 17.3, y * scale + oy + o * 5.9, z * scale + oz + o * 31.7)
    height /= 2
    scale *= 2
  }
  return sum
}
/** Two independent fields half way add up to less than either; the root brings the height back. */
const between = (a: number, b: number, w: number): number => (a * (1 - w) + b * w) / Math.sqrt((1 - w) * (1 - w) + w * w)

interface Kept {
  key: string
  places: Float32Array
  values: Float64Array
}
/** Layers that are kept: two of each of a few fields that are renewed. */
const MAX_KEPT = 12
const kept: Kept[] = []
function keptLayer(seed: number, places: Float32Array, k: number, octaves: number, n: number): Float64Array {
  const key = `${seed} ${k} ${octaves} ${n}`
  const at = kept.findIndex((x) => x.key === key && samePlaces(x.places, places))
  if (at >= 0) {
    const [found] = kept.splice(at, 1)
    kept.push(found)
    return found.values
  }
  const values = new Float64Array(places.length / 3)
  for (let v = 0; v < values.length; v++)
    values[v] = layer(seed, places[v * 3] * k, places[v * 3 + 1] * k, places[v * 3 + 2] * k, octaves, n)
  kept.push({ key, places: places.slice(), values })
  if (kept.length > MAX_KEPT) kept.shift()
  return values
}
/**
 * `fractal` at many places xyz, each times `k`: the same numbers. While only the phase goes on, the two fields that it lies between are kept
 * and blended, which is all that changes.
 */
export function fractalOver(seed: number, places: Float32Array, k: number, octaves: number, phase = 0, period = 0): Float64Array {
  const n = Math.floor(phase)
  const f = phase - n
  const a = keptLayer(seed, places, k, octaves, wrapped(n, period))
  if (f === 0) return a
  const b = keptLayer(seed, places, k, octaves, wrapped(n + 1, period))
  const w = fade(f)
  return a.map((x, i) => between(x, b[i], w))
}
