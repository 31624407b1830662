import { fractal, toHalf } from '../math'
import type { LightMap, MarchLight, MarchScene, MarchView } from './look'

type Vec3 = readonly [number, number, number]
/** A thin gas over the whole shot by formula. Lengths in metres. */
export interface FogLook {
  /** 1/m: how much it takes of light on its way, at its densest. */
  extinction: number
  /** It is as dense up to this height, above which it halves every `halves`; null: it is the same everywhere. */
  level: number
  halves: number | null
  /** Share of what it takes that goes on in another direction, by colour. */
  albedo: Vec3
  /** How far ahead it scatters: the mean cosine, −1 to 1 (Henyey and Greenstein 1941). */
  forward: number
  /** Share of the light of the surroundings. */
  surroundings: number
  /** Patches: how much they take away and add, 0 to 1, their size, how far they have drifted, and how far they have renewed themselves. */
  patches: { amount: number; size: number; drift: Vec3; phase: number; seed: number } | null
}
/** What of the fog is in front of places: coarse pictures, nearer ones closer together. */
export interface FogFront {
  width: number
  height: number
  depths: number
  /** View depth of the last, m; the picture k of n lies at reach · (k / (n − 1))². */
  reach: number
  /** Half floats: light that comes from in front, and how much of what is behind is left; x first, from the lower left, nearest first. */
  data: Uint16Array
}
/** Looks at a light within a piece of the way that lies close to it. */
const LOOKS = 4
/** Nearer to a light than this it is no brighter, m. */
const LIGHT_RADIUS = 0.05
/** A map of what a light sees is wrong by so much of the distance. */
const BIAS = 0.01

/** How dense it is at a height, as a share of its densest. */
const densityAt = (f: FogLook, y: number): number =>
  f.halves === null || y <= f.level ? 1 : Math.exp((-Math.LN2 * (y - f.level)) / f.halves)
/** Its integral over the height from its level on. */
function heightIntegral(f: FogLook, y: number): number {
  if (f.halves === null || y <= f.level) return y - f.level
  const scale = f.halves / Math.LN2
  return scale * (1 - Math.exp((f.level - y) / scale))
}
/** The mean of its density between two heights, exactly. */
export function meanDensity(f: FogLook, y0: number, y1: number): number {
  const rise = y1 - y0
  return Math.abs(rise) < 1e-4 ? densityAt(f, (y0 + y1) / 2) : (heightIntegral(f, y1) - heightIntegral(f, y0)) / rise
}
/** Of light from one direction, the share of the scattered that goes on at an angle, per steradian. */
export function phaseOf(g: number, cosine: number): number {
  const d = 1 + g * g - 2 * g * cosine
  return (1 - g * g) / (4 * Math.PI * d * Math.sqrt(d))
}
/** Whether a light sees a place. */
function sees({ size, data, rows }: LightMap, x: number, y: number, z: number): boolean {
  const row = (r: number) => rows[r * 4] * x + rows[r * 4 + 1] * y + rows[r * 4 + 2] * z + rows[r * 4 + 3]
  const w = row(2)
  const u = Math.floor(((row(0) / w) * 0.5 + 0.5) * size)
  const v = Math.floor(((row(1) / w) * 0.5 + 0.5) * size)
  if (!(w > 0) || u < 0 || v < 0 || u >= size || v >= size) return true
  const nearest = data[v * size + u]
  return nearest === 0 || row(3) <= nearest * (1 + BIAS)
}
const ALWAYS = [0, Number.POSITIVE_INFINITY] as const
/** Between which depths a ray lies in the cone of a light; nowhere: the second is not larger. */
function lit({ spot, place }: MarchLight, eye: Vec3, ray: Vec3): readonly [number, number] {
  // Wider than half of all around, or nearly so, it is no cone to be cut.
  if (!spot || spot.from <= 0.05) return ALWAYS
  const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  const o = eye.map((v, a) => v - place[a])
  const [ra, oa, c] = [dot(ray, spot.aim), dot(o, spot.aim), spot.from * spot.from]
  const A = ra * ra - c * dot(ray, ray)
  const B = ra * oa - c * dot(o, ray)
  const C = oa * oa - c * dot(o, o)
  const inside = (d: number) => oa + ra * d >= 0 && A * d * d + 2 * B * d + C >= 0
  const root = B * B - A * C
  if (!(root > 0) || Math.abs(A) < 1e-12) return inside(0) || inside(1e6) ? ALWAYS : [0, 0]
  const [d1, d2] = [(-B - Math.sqrt(root)) / A, (-B + Math.sqrt(root)) / A].sort((p, q) => p - q)
  // Of the three pieces that it is cut into, those in the cone: before the eye there is one at most.
  const pieces = [[Number.NEGATIVE_INFINITY, d1] as const, [d1, d2] as const, [d2, Number.POSITIVE_INFINITY] as const]
  const middles = [d1 - 1, (d1 + d2) / 2, d2 + 1]
  for (const [n, [from, to]] of pieces.entries()) if (to > 0 && inside(middles[n])) return [Math.max(0, from), to]
  return [0, 0]
}
/** The light of one source in a fog, along a ray. */
class Beam {
  /** Between which depths it may shine on the ray. */
  private from = 0
  private to = 0
  /** Of a sun the share that is scattered to the eye. */
  private even = 0
  private ray: Vec3 = [0, 0, 0]
  private long = 1

  constructor(
    private readonly l: MarchLight,
    private readonly eye: Vec3,
    private readonly fogs: readonly FogLook[],
  ) {}
  /** `long`: metres of the ray for one of depth. */
  begin(ray: Vec3, long: number): void {
    const { l } = this
    this.ray = ray
    this.long = long
    ;[this.from, this.to] = lit(l, this.eye, ray)
    if (l.sun) this.even = (l.place[0] * ray[0] + l.place[1] * ray[1] + l.place[2] * ray[2]) / long
  }
  /** Irradiance times the share that goes on to the eye, on the mean between two depths; `forward` of the fog that scatters it. */
  between(from: number, to: number, forward: number): number {
    const enters = Math.max(from, this.from)
    const leaves = Math.min(to, this.to)
    if (enters >= leaves) return 0
    const share = (leaves - enters) / (to - from)
    const middle = this.at((enters + leaves) / 2, forward)
    // Close to a light it changes within a piece.
    if (this.near * 3 > (leaves - enters) * this.long) return share * middle
    let sum = 0
    for (let q = 0; q < LOOKS; q++) sum += this.at(enters + ((q + 0.5) / LOOKS) * (leaves - enters), forward)
    return (share * sum) / LOOKS
  }
  /** Metres to the light from where it was last looked at. */
  private near = 0
  private at(d: number, forward: number): number {
    const { l, eye, ray } = this
    const x = eye[0] + ray[0] * d
    const y = eye[1] + ray[1] * d
    const z = eye[2] + ray[2] * d
    this.near = Number.POSITIVE_INFINITY
    if (l.sun) return l.shadow && !sees(l.shadow, x, y, z) ? 0 : phaseOf(forward, this.even)
    const dx = x - l.place[0]
    const dy = y - l.place[1]
    const dz = z - l.place[2]
    const squared = dx * dx + dy * dy + dz * dz
    const far = Math.sqrt(squared)
    this.near = far
    const one = 1 / Math.max(far, 1e-6)
    let shine = 1 / Math.max(squared, LIGHT_RADIUS * LIGHT_RADIUS)
    if (l.spot) {
      const { aim, from, to } = l.spot
      const cosine = (dx * aim[0] + dy * aim[1] + dz * aim[2]) * one
      const f = Math.min(1, Math.max(0, (cosine - from) / Math.max(1e-6, to - from)))
      shine *= f * f * (3 - 2 * f)
    }
    if (shine < 1e-7 || (l.shadow && !sees(l.shadow, x, y, z))) return 0
    let before = 0
    for (const f of this.fogs) before += f.extinction * meanDensity(f, l.place[1], y)
    const cosine = (-(dx * ray[0] + dy * ray[1] + dz * ray[2]) * one) / this.long
    return shine * phaseOf(forward, cosine) * Math.exp(-before * far)
  }
}
/** Rays between which patches are looked up. */
const PATCH_RAYS = 4
/** How much denser a fog is by its patches, on every few rays and at the middle of every piece: they are larger than what lies between. */
function patchesOf(
  f: FogLook,
  view: FogView,
  { width, height, depths, reach }: FogSize,
): ((i: number, j: number, k: number) => number) | null {
  const { patches } = f
  if (!patches) return null
  const nx = Math.ceil(width / PATCH_RAYS) + 1
  const ny = Math.ceil(height / PATCH_RAYS) + 1
  const values = new Float32Array(nx * ny * depths)
  const { eye, ahead, right, up } = view
  const { size, drift, phase, seed, amount } = patches
  for (let j = 0, o = 0; j < ny; j++)
    for (let i = 0; i < nx; i++, o += depths) {
      const u = ((i * PATCH_RAYS + 0.5) / width) * 2 - 1
      const v = ((j * PATCH_RAYS + 0.5) / height) * 2 - 1
      for (let k = 1; k < depths; k++) {
        const d = (reach * ((k - 1) ** 2 + k * k)) / 2 / (depths - 1) ** 2
        const at = (a: number) => (eye[a] + (ahead[a] + right[a] * u + up[a] * v) * d - drift[a]) / size
        values[o + k] = Math.max(0, 1 + 1.6 * amount * fractal(seed, at(0), at(1), at(2), 2, phase))
      }
    }
  return (i, j, k) => {
    const x = i / PATCH_RAYS
    const y = j / PATCH_RAYS
    const [x0, y0] = [Math.floor(x), Math.floor(y)]
    const o = (y0 * nx + x0) * depths + k
    const near = values[o] + (values[o + depths] - values[o]) * (x - x0)
    const p = o + nx * depths
    return near + (values[p] + (values[p + depths] - values[p]) * (x - x0) - near) * (y - y0)
  }
}
type FogView = Pick<MarchView, 'eye' | 'ahead' | 'right' | 'up'>
interface FogSize {
  width: number
  height: number
  depths: number
  reach: number
}
/**
 * Fogs before all places of a view up to a depth. Along each ray in pieces: what a piece takes is exact (the height by its integral, patches by
 * their middle), and what it sends on is that of a light that is even within it (Hillaire 2015); lights are dimmed by the fog before them. Scattered
 * once.
 */
export function fogFront(fogs: readonly FogLook[], scene: MarchScene, view: FogView, size: FogSize): FogFront {
  const { width, height, depths, reach } = size
  const { eye, ahead, right, up } = view
  const data = new Uint16Array(width * height * depths * 4)
  const plane = width * height * 4
  const lights = scene.lights.filter((l) => l.colour.some((v) => v > 0))
  const beams = lights.map((l) => new Beam(l, eye, fogs))
  const patches = fogs.map((f) => patchesOf(f, view, size))
  const even = [0, 1, 2].map((a) => (scene.above[a] + scene.below[a]) / 2)
  const edges = Array.from({ length: depths }, (_, k) => reach * (k / (depths - 1)) ** 2)
  const one = toHalf(1)
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const u = ((i + 0.5) / width) * 2 - 1
      const v = ((j + 0.5) / height) * 2 - 1
      const ray: Vec3 = [ahead[0] + right[0] * u + up[0] * v, ahead[1] + right[1] * u + up[1] * v, ahead[2] + right[2] * u + up[2] * v]
      const long = Math.sqrt(ray[0] * ray[0] + ray[1] * ray[1] + ray[2] * ray[2])
      for (const b of beams) b.begin(ray, long)
      let left = 1
      let r = 0
      let g = 0
      let b = 0
      let o = (j * width + i) * 4
      data[o + 3] = one
      for (let k = 1; k < depths; k++) {
        const from = edges[k - 1]
        const to = edges[k]
        let all = 0
        let sr = 0
        let sg = 0
        let sb = 0
        for (let n = 0; n < fogs.length; n++) {
          const f = fogs[n]
          const thick = f.extinction * meanDensity(f, eye[1] + ray[1] * from, eye[1] + ray[1] * to) * (patches[n]?.(i, j, k) ?? 1)
          if (!(thick > 1e-9)) continue
          all += thick
          let lr = f.surroundings * even[0]
          let lg = f.surroundings * even[1]
          let lb = f.surroundings * even[2]
          for (let q = 0; q < beams.length; q++) {
            const shine = beams[q].between(from, to, f.forward)
            if (shine === 0) continue
            const { colour } = lights[q]
            lr += shine * colour[0]
            lg += shine * colour[1]
            lb += shine * colour[2]
          }
          sr += thick * f.albedo[0] * lr
          sg += thick * f.albedo[1] * lg
          sb += thick * f.albedo[2] * lb
        }
        if (all > 0) {
          const passes = Math.exp(-all * (to - from) * long)
          const sent = (left * (1 - passes)) / all
          r += sr * sent
          g += sg * sent
          b += sb * sent
          left *= passes
        }
        o += plane
        data[o] = toHalf(r)
        data[o + 1] = toHalf(g)
        data[o + 2] = toHalf(b)
        data[o + 3] = toHalf(left)
      }
    }
  return { width, height, depths, reach, data }
}
