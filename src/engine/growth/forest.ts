import { grouped } from '../../shot'
import { hash3, noise1, unit } from '../math'
import { Stopped } from '../memory'
import type { GrowthParams } from '../plan'
import { type AmountAt, amountOn } from './starts'
import { Trodden } from './trodden'
import { type SurfacePlace, type V3, type WalkableMesh, Walker } from './walk'

/** Lines on a surface, all that will ever be there, with the moment at which growth comes to each point. */
export interface Grown {
  /** By line: its first point (one more behind the last), generation, seed, and from which moment of the shot it may be seen (s). */
  readonly offsets: ArrayLike<number>
  readonly generations: ArrayLike<number>
  readonly seeds: ArrayLike<number>
  readonly since: ArrayLike<number>
  /** By point: triangle, shares of its corners, seconds of growth, metres from the line's beginning. */
  readonly triangles: ArrayLike<number>
  readonly b1: ArrayLike<number>
  readonly b2: ArrayLike<number>
  readonly times: ArrayLike<number>
  readonly metres: ArrayLike<number>
  /** Seconds until all has grown. */
  readonly lasts: number
  /** Why it was stopped before all had grown; null: it was not. */
  readonly stopped: string | null
}
/** How much of a region each vertex has (0 to 1), below which share lines end, and how far their reach goes by it (0 to 1). */
export interface GrowthRegion {
  amounts: Float32Array
  edge: number
  reach?: number
}
/** Where a first line begins, and with what. */
export interface Start {
  place: SurfacePlace
  seed: number
  /** Which way it sets out, in the object's own space, where it is not by the parameters. */
  heading?: readonly [number, number, number]
  /** Seconds of growth at which it begins, and the moment of the shot from which it may be seen; without: at once, always. */
  at?: number
  since?: number
}
/** Points and lines at which it stops. */
const MOST_POINTS = 500_000
const MOST_LINES = 200_000
/** How much of its reach a fork has at a share of the line. */
function reachAlong(along: GrowthParams['along'], share: number): number {
  if (!along) return 1
  if (along === 'ellipse') return Math.sqrt(Math.max(0, 1 - share * share))
  const x = Math.min(1, share) * (along.length - 1)
  const i = Math.min(Math.floor(x), along.length - 2)
  return along[i] + (along[i + 1] - along[i]) * (x - i)
}
const signed = (h: number): number => unit(h) * 2 - 1

interface Line {
  from: SurfacePlace
  direction: V3
  seed: number
  generation: number
  /** By the parameters alone. */
  fullReach: number
  speed: number
  /** Seconds at which it begins. */
  at: number
  since: number
  parent: number
}
interface Fork {
  place: SurfacePlace
  direction: V3
  s: number
  k: number
}

/**
 * Lines on a surface that can be added to. What is added does not change what is there: it may end at it. The same for the same mesh,
 * parameters, and starts in their order.
 */
export class Forest implements Grown {
  readonly offsets: number[] = [0]
  readonly generations: number[] = []
  readonly seeds: number[] = []
  readonly since: number[] = []
  readonly triangles: number[] = []
  readonly b1: number[] = []
  readonly b2: number[] = []
  readonly times: number[] = []
  readonly metres: number[] = []
  lasts = 0
  stopped: string | null = null
  private readonly places: number[] = []
  private readonly owners: number[] = []
  private readonly trodden: Trodden
  private readonly walker: Walker
  private readonly step: number
  private readonly amount: AmountAt | null
  private readonly at = new Float64Array(3)
  private isAskedToStop: () => boolean = () => false

  constructor(
    private readonly surface: WalkableMesh,
    private readonly p: GrowthParams,
    private readonly region: GrowthRegion | null = null,
  ) {
    this.step = Math.max(1e-5, p.detail)
    this.trodden = new Trodden(this.step * 0.95, this.places, this.owners)
    this.walker = new Walker(surface)
    this.amount = region && amountOn(surface, region.amounts)
  }
  /**
   * Grows all lines from some starts, generation after generation, each in the order of its parents. Throws Stopped where `stopped` says so;
   * the forest is of no use then.
   */
  add(starts: readonly Start[], stopped: () => boolean = () => false): void {
    const { p } = this
    this.isAskedToStop = stopped
    let now = starts.map((s) => this.first(s))
    for (let g = 0; g < p.generations && now.length && !this.stopped; g++) {
      const next: Line[] = []
      for (const line of now) {
        if (this.triangles.length > MOST_POINTS || this.generations.length >= MOST_LINES) {
          this.stop(g, now.length)
          break
        }
        const number = this.generations.length
        const { forks, length } = this.walk(line, number)
        // More than there may be are not even looked at.
        if (next.length <= MOST_LINES) for (const f of forks) this.fork(line, number, f, length, next)
      }
      now = next
    }
  }
  private stop(generation: number, lines: number): void {
    const what = this.triangles.length > MOST_POINTS ? `${grouped(MOST_POINTS)} points` : `${grouped(MOST_LINES)} lines`
    this.stopped = `it stopped at ${what}, in generation ${generation + 1} of ${this.p.generations}, with ${grouped(lines)} lines in it; forks twice as far apart would be half as many, one generation less far fewer`
  }
  private first({ place, seed, heading, at, since }: Start): Line {
    const { p, surface } = this
    const to = heading ?? p.direction
    const direction = to
      ? this.turned(place, surface.laid(place.triangle, to), (p.directionSpread * signed(hash3(seed, 0, 84))) / 360)
      : this.turned(place, surface.laid(place.triangle, [1, 0, 0]), unit(hash3(seed, 0, 84)))
    const fullReach = Math.max(0, p.reach + p.reachVary * signed(hash3(seed, 1, 84)))
    return { from: place, direction, seed, generation: 0, fullReach, speed: p.speed, at: at ?? 0, since: since ?? -Infinity, parent: -1 }
  }
  /** A direction in a triangle, turned within it. */
  private turned(place: SurfacePlace, d: ArrayLike<number>, turns: number): V3 {
    const { walker } = this
    walker.start(place, d)
    walker.turn(turns)
    return [walker.d[0], walker.d[1], walker.d[2]]
  }
  /** How much of the region there is at a place; all of it without one. */
  private amountAt({ triangle, b0, b1, b2 }: SurfacePlace): number {
    return this.amount ? this.amount(triangle, b0, b1, b2) : 1
  }
  /** How far lines that begin at a place reach by the region. */
  private reachAt(place: SurfacePlace): number {
    const by = this.region?.reach ?? 0
    return by > 0 ? 1 - by + by * this.amountAt(place) : 1
  }
  /** Puts all points of a line; gives what forks from it, and its length. */
  private walk(line: Line, number: number): { forks: Fork[]; length: number } {
    const { p, step, walker, at } = this
    const edge = this.region?.edge ?? 0
    this.generations.push(line.generation)
    this.seeds.push(line.seed)
    this.since.push(line.since)
    let s = 0
    const curl = p.curl + p.curlVary * signed(hash3(line.seed, 2, 84))
    const meets = unit(hash3(line.seed, 3, 84)) < p.meets
    const reach = line.fullReach * this.reachAt(line.from)
    walker.start(line.from, line.direction)
    this.put(line, number, 0)
    let forkAt = p.spacing * (1 + p.spacingVary * signed(hash3(line.seed, 4, 84)))
    const forks: Fork[] = []
    for (let k = 0; s < reach; k++) {
      if ((k & 255) === 0 && this.isAskedToStop()) throw new Stopped()
      const h = Math.min(step, reach - s)
      if (h < step * 1e-3) break
      // Curls by so much on the whole, and wanders about that.
      const bend = curl + p.wander * noise1(line.seed, s / Math.max(step, p.wanderSize))
      walker.turn((bend * h) / 360)
      const on = walker.go(h)
      if (!on || (this.amount && this.amountAt(walker.place) < edge)) break
      s += h
      this.put(line, number, s)
      if (meets && k > 1 && this.trodden.near(at[0], at[1], at[2], number, line.parent)) break
      if (s >= forkAt && line.generation + 1 < p.generations) {
        forks.push({ place: walker.place, direction: [walker.d[0], walker.d[1], walker.d[2]], s, k: forks.length })
        forkAt += p.spacing * Math.max(0.1, 1 + p.spacingVary * signed(hash3(line.seed, 100 + forks.length, 85)))
      }
    }
    this.offsets.push(this.triangles.length)
    this.lasts = Math.max(this.lasts, line.at + s / Math.max(1e-6, line.speed))
    return { forks, length: s }
  }
  /** A point where the walker is, so many metres along. */
  private put(line: Line, number: number, s: number): void {
    const { walker, at, places } = this
    const { corners } = this.surface
    const o = walker.triangle * 9
    for (let a = 0; a < 3; a++) at[a] = corners[o + a] * walker.b[0] + corners[o + 3 + a] * walker.b[1] + corners[o + 6 + a] * walker.b[2]
    places.push(at[0], at[1], at[2])
    this.owners.push(number)
    this.triangles.push(walker.triangle)
    this.b1.push(walker.b[1])
    this.b2.push(walker.b[2])
    this.times.push(line.at + s / Math.max(1e-6, line.speed))
    this.metres.push(s)
    this.trodden.add()
  }
  /** Adds the lines that leave one, s metres long, at a place of it. */
  private fork(line: Line, number: number, f: Fork, s: number, next: Line[]): void {
    const { p } = this
    const end = line.at + s / Math.max(1e-6, line.speed)
    for (let n = 0; n < p.forks; n++) {
      const seed = hash3(line.seed, f.k * 16 + n, 86)
      // To one side and the other by turns.
      const side = (f.k + n) % 2 === 0 ? 1 : -1
      const angle = side * (p.angle + p.angleVary * signed(hash3(seed, 0, 87)))
      const shape = reachAlong(p.along, s > 0 ? f.s / s : 0)
      const fullReach =
        line.fullReach * p.childReach * shape * Math.max(0, 1 + (p.reachVary / Math.max(1e-9, p.reach)) * signed(hash3(seed, 1, 87)))
      if (fullReach < this.step) continue
      const at = p.first === 'base' ? line.at + f.s / line.speed : p.first === 'tip' ? end + (s - f.s) / line.speed : end
      const direction = this.turned(f.place, f.direction, angle / 360)
      const [speed, generation] = [line.speed * p.childSpeed, line.generation + 1]
      next.push({ from: f.place, direction, seed, generation, fullReach, speed, at, since: line.since, parent: number })
    }
  }
}
