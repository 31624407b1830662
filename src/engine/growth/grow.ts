import { runningAreas } from '../geometry'
import { hash3, noise1, unit } from '../math'
import type { GrowthParams } from '../plan'
import { type SurfacePlace, type V3, type WalkableMesh, Walker } from './walk'

/** Lines on a surface, all that will ever be there, with the moment at which growth comes to each point. */
export interface Grown {
  /** By line: its first point (one more behind the last), generation, seed, reach in metres. */
  offsets: Uint32Array
  generations: Uint8Array
  seeds: Uint32Array
  /** By point: triangle, shares of its corners, seconds, metres from the line's beginning. */
  triangles: Uint32Array
  b1: Float32Array
  b2: Float32Array
  times: Float32Array
  metres: Float32Array
  /** Seconds until all has grown. */
  lasts: number
  /** Why it was stopped before all had grown; null: it was not. */
  stopped: string | null
}
/** Points and lines at which it stops. */
const MOST_POINTS = 500_000
const MOST_LINES = 200_000
const signed = (h: number): number => unit(h) * 2 - 1

interface Line {
  from: SurfacePlace
  direction: V3
  seed: number
  generation: number
  reach: number
  speed: number
  /** Seconds at which it begins. */
  at: number
  parent: number
}
/** Cells of space that hold points of lines: who comes near one has met a line. Points of a cell are a chain. */
class Trodden {
  private heads = new Int32Array(1 << 16).fill(-1)
  private next: number[] = []
  constructor(
    private size: number,
    private places: number[],
    private lines: number[],
  ) {}
  private cell(x: number, y: number, z: number): number {
    return (Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)) & (this.heads.length - 1)
  }
  private cellOf(point: number): number {
    const o = point * 3
    const { places, size } = this
    return this.cell(Math.floor(places[o] / size), Math.floor(places[o + 1] / size), Math.floor(places[o + 2] / size))
  }
  /** Adds the last point. */
  add(): void {
    const point = this.lines.length - 1
    if (point > this.heads.length) this.grow()
    const cell = this.cellOf(point)
    this.next[point] = this.heads[cell]
    this.heads[cell] = point
  }
  private grow(): void {
    this.heads = new Int32Array(this.heads.length * 4).fill(-1)
    for (let p = 0; p < this.next.length; p++) {
      const cell = this.cellOf(p)
      this.next[p] = this.heads[cell]
      this.heads[cell] = p
    }
  }
  /** Whether a point of another line is nearer than the size of a cell. */
  near(x: number, y: number, z: number, own: number, parent: number): boolean {
    const { size, lines, places } = this
    const [cx, cy, cz] = [Math.floor(x / size), Math.floor(y / size), Math.floor(z / size)]
    for (let i = -1; i <= 1; i++)
      for (let j = -1; j <= 1; j++)
        for (let k = -1; k <= 1; k++)
          for (let p = this.heads[this.cell(cx + i, cy + j, cz + k)]; p >= 0; p = this.next[p]) {
            if (lines[p] === own || lines[p] === parent) continue
            const o = p * 3
            const far = (places[o] - x) ** 2 + (places[o + 1] - y) ** 2 + (places[o + 2] - z) ** 2
            if (far < size * size) return true
          }
    return false
  }
}
/** How much of a region there is at a place of the surface, 0 to 1. */
type AmountAt = (triangle: number, b0: number, b1: number, b2: number) => number
const amountOn = ({ mesh: { indices } }: WalkableMesh, amounts: Float32Array): AmountAt => {
  return (t, b0, b1, b2) => b0 * amounts[indices[t * 3]] + b1 * amounts[indices[t * 3 + 1]] + b2 * amounts[indices[t * 3 + 2]]
}
/** Places that are tried for one by which the region lets a line begin. */
const TRIES = 512

/** Evenly by area, by the amounts of a region, or about a place: where lines begin. */
function starts(surface: WalkableMesh, p: GrowthParams, seed: number, amount: AmountAt | null, edge: number): SurfacePlace[] {
  const areas = runningAreas(surface.mesh)
  const total = areas[areas.length - 1] ?? 0
  const anywhere = (h: number): SurfacePlace => {
    const wanted = unit(hash3(h, 1, 81)) * total
    let [low, high] = [0, areas.length - 1]
    while (low < high) {
      const middle = (low + high) >> 1
      if (areas[middle] <= wanted) low = middle + 1
      else high = middle
    }
    const r = Math.sqrt(unit(hash3(h, 2, 81)))
    const s = unit(hash3(h, 3, 81))
    return { triangle: low, b0: 1 - r, b1: r * (1 - s), b2: r * s }
  }
  /** Null: the region has next to nothing. */
  const drawn = (h: number): SurfacePlace | null => {
    if (!amount) return anywhere(h)
    for (let n = 0; n < TRIES; n++) {
      const own = hash3(h, n, 88)
      const place = anywhere(own)
      const here = amount(place.triangle, place.b0, place.b1, place.b2)
      if (here >= edge && unit(hash3(own, 4, 81)) < here) return place
    }
    return null
  }
  if (!total) return []
  const out: SurfacePlace[] = []
  for (let k = 0; k < p.lines; k++) {
    if (!p.near) {
      const place = drawn(hash3(seed, k, 80))
      if (place) out.push(place)
      continue
    }
    // The nearest of many places; the next lines begin about there.
    let best: { far: number; place: SurfacePlace } | null = null
    const tries = p.near.radius > 0 ? 64 : 4096
    for (let n = 0; n < tries; n++) {
      const place = drawn(hash3(seed, p.near.radius > 0 ? k * tries + n : n, 82))
      if (!place) break
      const at = surface.placeOf(place)
      const [x, y, z] = p.near.place
      // Within the radius one is as good as another.
      const far = Math.max(p.near.radius, Math.sqrt((at[0] - x) ** 2 + (at[1] - y) ** 2 + (at[2] - z) ** 2))
      if (!best || far < best.far) best = { far, place }
    }
    if (best) out.push(best.place)
  }
  return out
}

/**
 * Grows all lines, generation after generation, each in the order of its parents; the same for the same mesh, parameters and seed. `region`:
 * lines begin by its amounts (of each vertex), and end at its edge.
 */
export function grow(
  surface: WalkableMesh,
  p: GrowthParams,
  seed: number,
  region: { amounts: Float32Array; edge: number } | null = null,
): Grown {
  const amount = region && amountOn(surface, region.amounts)
  const edge = region?.edge ?? 0
  const offsets: number[] = [0]
  const generations: number[] = []
  const seeds: number[] = []
  const triangles: number[] = []
  const [b1, b2, times, metres, places, owners]: number[][] = [[], [], [], [], [], []]
  const step = Math.max(1e-5, p.detail)
  const trodden = new Trodden(step * 0.95, places, owners)
  let lasts = 0
  let stopped: string | null = null
  const walker = new Walker(surface)
  /** A direction in a triangle, turned within it. */
  const turned = (place: SurfacePlace, d: ArrayLike<number>, turns: number): V3 => {
    walker.start(place, d)
    walker.turn(turns)
    return [walker.d[0], walker.d[1], walker.d[2]]
  }
  let now: Line[] = starts(surface, p, seed, amount, edge).map((from, k) => {
    const own = hash3(seed, k, 83)
    const direction = p.direction
      ? turned(from, surface.laid(from.triangle, p.direction), (p.directionSpread * signed(hash3(own, 0, 84))) / 360)
      : turned(from, surface.laid(from.triangle, [1, 0, 0]), unit(hash3(own, 0, 84)))
    const reach = Math.max(0, p.reach + p.reachVary * signed(hash3(own, 1, 84)))
    return { from, direction, seed: own, generation: 0, reach, speed: p.speed, at: 0, parent: -1 }
  })
  for (let g = 0; g < p.generations && now.length && !stopped; g++) {
    const next: Line[] = []
    for (const line of now) {
      if (triangles.length > MOST_POINTS || generations.length >= MOST_LINES) {
        const what =
          triangles.length > MOST_POINTS ? `${MOST_POINTS.toLocaleString('en-US')} points` : `${MOST_LINES.toLocaleString('en-US')} lines`
        stopped = `it stopped at ${what}, in generation ${g + 1} of ${p.generations}, with ${now.length.toLocaleString('en-US')} lines in it; forks twice as far apart would be half as many, one generation less far fewer`
        break
      }
      const number = generations.length
      generations.push(line.generation)
      seeds.push(line.seed)
      let s = 0
      const curl = p.curl + p.curlVary * signed(hash3(line.seed, 2, 84))
      const meets = unit(hash3(line.seed, 3, 84)) < p.meets
      const { corners } = surface
      const at = new Float64Array(3)
      /** Where the walker is. */
      const look = () => {
        const o = walker.triangle * 9
        for (let a = 0; a < 3; a++)
          at[a] = corners[o + a] * walker.b[0] + corners[o + 3 + a] * walker.b[1] + corners[o + 6 + a] * walker.b[2]
      }
      const put = () => {
        places.push(at[0], at[1], at[2])
        owners.push(number)
        triangles.push(walker.triangle)
        b1.push(walker.b[1])
        b2.push(walker.b[2])
        times.push(line.at + s / Math.max(1e-6, line.speed))
        metres.push(s)
        trodden.add()
      }
      walker.start(line.from, line.direction)
      look()
      put()
      let forkAt = p.spacing * (1 + p.spacingVary * signed(hash3(line.seed, 4, 84)))
      const forks: { place: SurfacePlace; direction: V3; s: number; k: number }[] = []
      for (let k = 0; s < line.reach; k++) {
        const h = Math.min(step, line.reach - s)
        if (h < step * 1e-3) break
        // Curls by so much on the whole, and wanders about that.
        const bend = curl + p.wander * noise1(line.seed, s / Math.max(step, p.wanderSize))
        walker.turn((bend * h) / 360)
        const on = walker.go(h)
        if (!on || (amount && amount(walker.triangle, walker.b[0], walker.b[1], walker.b[2]) < edge)) break
        s += h
        look()
        put()
        if (meets && k > 1 && trodden.near(at[0], at[1], at[2], number, line.parent)) break
        if (s >= forkAt && line.generation + 1 < p.generations) {
          forks.push({ place: walker.place, direction: [walker.d[0], walker.d[1], walker.d[2]], s, k: forks.length })
          forkAt += p.spacing * Math.max(0.1, 1 + p.spacingVary * signed(hash3(line.seed, 100 + forks.length, 85)))
        }
      }
      offsets.push(triangles.length)
      const end = line.at + s / Math.max(1e-6, line.speed)
      lasts = Math.max(lasts, end)
      // More than there may be are not even looked at.
      for (const f of next.length > MOST_LINES ? [] : forks)
        for (let n = 0; n < p.forks; n++) {
          const own = hash3(line.seed, f.k * 16 + n, 86)
          // To one side and the other by turns.
          const side = (f.k + n) % 2 === 0 ? 1 : -1
          const angle = side * (p.angle + p.angleVary * signed(hash3(own, 0, 87)))
          // Shorter towards the tip, as an ellipse.
          const share = s > 0 ? f.s / s : 0
          const shape = p.shorter ? Math.sqrt(Math.max(0, 1 - share * share)) : 1
          const reach =
            line.reach * p.childReach * shape * Math.max(0, 1 + (p.reachVary / Math.max(1e-9, p.reach)) * signed(hash3(own, 1, 87)))
          if (reach < step) continue
          const begins = p.first === 'base' ? line.at + f.s / line.speed : p.first === 'tip' ? end + (s - f.s) / line.speed : end
          const direction = turned(f.place, f.direction, angle / 360)
          const speed = line.speed * p.childSpeed
          next.push({ from: f.place, direction, seed: own, generation: line.generation + 1, reach, speed, at: begins, parent: number })
        }
    }
    now = next
  }
  return {
    offsets: Uint32Array.from(offsets),
    generations: Uint8Array.from(generations),
    seeds: Uint32Array.from(seeds),
    triangles: Uint32Array.from(triangles),
    b1: Float32Array.from(b1),
    b2: Float32Array.from(b2),
    times: Float32Array.from(times),
    metres: Float32Array.from(metres),
    lasts,
    stopped,
  }
}
