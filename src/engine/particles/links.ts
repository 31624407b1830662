import type { Neighbourhood } from '../fields'
import { Notices, STRIP_COLUMNS, STRIP_POINT_COLUMNS, type StripsPart, stripColumn, stripOffsets, stripPoints, stripWords } from '../frame'
import { hash3, unit } from '../math'
import { Arena, Block, type Columns, type Machine, MemoryRefused } from '../memory'
import type { LinkParams, LinkPlan } from '../plan'
import type { Flow, Solver, SolverState, Substep, Take } from '../solver'
import type { Follower } from './follower'
import type { ParticleSystem } from './particleSystem'

/** Numbers of a link: how much of it is there (0 to 1), metres when it was made, where its ends were last. */
const NUMBERS = 8
const [PRESENCE, REST, ENDS] = [0, 1, 2]
/** What links need of the particles that they join. */
export type LinksOf = Pick<ParticleSystem, 'id' | 'element' | 'columns' | 'stats'> & { followers: Follower[] }
interface LinkState extends SolverState {
  /** Ids of both ends, one behind the other, sorted. */
  ids: Uint32Array
  numbers: Float32Array
  notices: Notices['all']
}
/** Of the hashes that say who has links, and which are left out for a moment. */
const STREAM = 71
/** More links than that are cut off. */
const MOST = 2_000_000

/**
 * Links between particles that are near each other: a pair is linked when each of both is among the nearest of the other, so that nobody has more
 * than so many, whatever the order. They come and go over a time; which pairs there are is found once a frame.
 */
export class Links implements Solver, Follower {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = [{ flow: 'points', when: 'now' }]
  readonly id: string
  built = { strips: 0, points: 0 }
  readonly feels = false
  private readonly arena: Arena
  private readonly messages: Notices
  private readonly blocks: [Block, Block]
  private ids: Uint32Array = new Uint32Array(0)
  private numbers: Float32Array = new Float32Array(0)
  private fresh = true

  /** `other`: whose particles those of `system` are linked to; its own where it is the same. */
  constructor(
    machine: Machine,
    private readonly plan: LinkPlan,
    private readonly system: LinksOf,
    private readonly other: LinksOf,
    private readonly near: Neighbourhood,
  ) {
    this.id = `links ${plan.id}`
    this.arena = new Arena(machine.heap)
    this.messages = new Notices(system.element)
    this.blocks = [new Block(this.arena), new Block(this.arena)]
    system.followers.push(this)
  }
  get notices() {
    return this.messages.all
  }
  follow(): void {
    // It looks when all have moved.
  }
  beginFrame(): void {
    this.fresh = true
  }
  prepare(): void {
    // It reads nothing before all have moved.
  }
  step(substep: Substep): void {
    if (!this.fresh) return
    this.fresh = false
    const p = this.plan.params(substep.at.t0)
    let pairs: Uint32Array
    try {
      pairs = this.pairs(p)
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.messages.add(
        'memory',
        substep.frame,
        `${this.plan.name}: ${error.message}; no links are drawn: a smaller distance or fewer each need less`,
      )
      pairs = new Uint32Array(0)
    }
    if (pairs.length / 2 > MOST) {
      const [would, most] = [pairs.length / 2, MOST].map((n) => n.toLocaleString('en-US'))
      this.messages.add(
        'limit',
        substep.frame,
        `${this.plan.name}: ${would} links would be over ${most}; only these are drawn: fewer each or a smaller distance make fewer`,
      )
      pairs = pairs.subarray(0, MOST * 2)
    }
    this.update(pairs, p)
  }
  /** Rows of all pairs that are linked by where they are, of the first and of the second, sorted by both. */
  private pairs(p: LinkParams): Uint32Array {
    const [a, b] = [this.system.columns, this.other.columns]
    const most = Math.min(16, Math.max(1, Math.round(p.most)))
    if (!a.count || !b.count || !(p.distance > 0)) return new Uint32Array(0)
    const own = this.system === this.other
    const request = { kind: 'closest' as const, system: -1, radius: p.distance, words: [p.distance ** 2, most], columns: most, at: 0 }
    const look = (asking: Columns, asked: Columns, key: string, out: Block) =>
      this.near.pass(request, asking, asked, `${key} as it is after the substep`, out).stride >> 2
    const step = look(a, b, this.other.id, this.blocks[0])
    const stepBack = own ? step : look(b, a, this.system.id, this.blocks[1])
    // Memory may have moved by the second pass: the lists are taken now.
    const theirs = new Int32Array(this.arena.memory.buffer, this.blocks[0].at, step * most)
    const back = own ? theirs : new Int32Array(this.arena.memory.buffer, this.blocks[1].at, stepBack * most)
    const chosen = this.chosen(a)
    const out = new Uint32Array(a.count * most * 2)
    let n = 0
    for (let i = 0; i < a.count; i++) {
      if (chosen && !chosen[i]) continue
      const first = n
      for (let k = 0; k < most; k++) {
        const j = theirs[i + k * step]
        if (j < 0) break
        // Of its own each pair comes once.
        if (own && (j <= i || (chosen && !chosen[j]))) continue
        let m = 0
        while (m < most && back[j + m * stepBack] !== i) m++
        if (m === most) continue
        // By the second: there are few.
        let at = n
        for (; at > first && out[at - 1] > j; at -= 2) out[at + 1] = out[at - 1]
        out[n] = i
        out[at + 1] = j
        n += 2
      }
    }
    return out.subarray(0, n)
  }
  /** Who has links at all: a share of them, those in a phase; null: all. */
  private chosen(a: Columns): Uint8Array | null {
    const { share, phases, seed } = this.plan
    if (share >= 1 && phases === undefined) return null
    const seeds = a.words('seed')
    const phase = a.words('phase')
    const out = new Uint8Array(a.count)
    for (let i = 0; i < a.count; i++)
      out[i] = (phases === undefined || ((phases >>> phase[i]) & 1) === 1) && unit(hash3(seed, seeds[i], STREAM)) < share ? 1 : 0
    return out
  }
  /** Links that are there grow, those that are not fade: both lists are sorted, and go side by side. */
  private update(pairs: Uint32Array, p: LinkParams): void {
    const seconds = this.plan.frameSeconds
    const grow = p.fadeIn > 0 ? seconds / p.fadeIn : 1
    const fade = p.fadeOut > 0 ? seconds / p.fadeOut : 1
    const [a, b] = [placesOf(this.system.columns), placesOf(this.other.columns)]
    const [oldIds, old] = [this.ids, this.numbers]
    const ids = new Uint32Array(pairs.length + oldIds.length)
    const numbers = new Float32Array((ids.length / 2) * NUMBERS)
    let [i, j, n] = [0, 0, 0]
    while (i < pairs.length || j < oldIds.length) {
      const [first, second] = i < pairs.length ? [a.ids[pairs[i]], b.ids[pairs[i + 1]]] : [0, 0]
      const order = i >= pairs.length ? 1 : j >= oldIds.length ? -1 : first - oldIds[j] || second - oldIds[j + 1]
      const o = (n / 2) * NUMBERS
      const was = (j / 2) * NUMBERS
      // Where both are: of a pair it is known.
      const row = order <= 0 ? pairs[i] : a.row(oldIds[j])
      const other = order <= 0 ? pairs[i + 1] : b.row(oldIds[j + 1])
      if (order < 0) numbers[o + PRESENCE] = Math.min(1, grow)
      else for (let k = 0; k < NUMBERS; k++) numbers[o + k] = old[was + k]
      a.put(row, numbers, o + ENDS)
      b.put(other, numbers, o + ENDS + 3)
      if (order < 0) numbers[o + REST] = stretched(numbers, o)
      else {
        // One that is kept holds while it is not stretched too far.
        const holds =
          order === 0 || (p.stretch !== null && row >= 0 && other >= 0 && stretched(numbers, o) <= numbers[o + REST] * (1 + p.stretch))
        numbers[o + PRESENCE] = holds ? Math.min(1, numbers[o + PRESENCE] + grow) : numbers[o + PRESENCE] - fade
      }
      if (numbers[o + PRESENCE] > 0) {
        ids[n] = order <= 0 ? first : oldIds[j]
        ids[n + 1] = order <= 0 ? second : oldIds[j + 1]
        n += 2
      }
      if (order >= 0) j += 2
      if (order <= 0) i += 2
    }
    this.ids = ids.subarray(0, n)
    this.numbers = numbers.subarray(0, (n / 2) * NUMBERS)
  }
  capture(t: number): StripsPart[] {
    const p = this.plan.params(t)
    const count = this.ids.length / 2
    const [a, b] = [placesOf(this.system.columns), placesOf(this.other.columns)]
    const part: StripsPart = {
      ...{ kind: 'strips', element: this.system.element, act: this.plan.id, strips: count, points: count * 2 },
      data: new ArrayBuffer(stripWords(count, count * 2) * 4),
    }
    const offsets = stripOffsets(part)
    const strip = Object.fromEntries(STRIP_COLUMNS.map((n) => [n, stripColumn(part, n)]))
    const point = Object.fromEntries(STRIP_POINT_COLUMNS.map((n) => [n, stripPoints(part, n)]))
    const places = new Float32Array(6)
    const beat = p.glitch ? Math.floor(t * p.glitch.rate) : 0
    const own = this.system.columns
    const [seeds, phases, ages, lives] = own.count
      ? [own.words('seed'), own.words('phase'), own.floats('age'), own.floats('life')]
      : [new Uint32Array(0), new Uint32Array(0), new Float32Array(0), new Float32Array(0)]
    for (let k = 0; k < count; k++) {
      offsets[k] = k * 2
      const [id, to] = [this.ids[k * 2], this.ids[k * 2 + 1]]
      const o = k * NUMBERS
      // Where they are now, or were last.
      const row = a.row(id)
      for (let q = 0; q < 6; q++) places[q] = this.numbers[o + ENDS + q]
      a.put(row, places, 0)
      b.put(b.row(to), places, 3)
      const out = p.glitch !== null && unit(hash3(hash3(this.plan.seed, id, to), beat, STREAM + 1)) < p.glitch.share
      strip.id[k] = id
      strip.seed[k] = row < 0 ? id : seeds[row]
      strip.phase[k] = row < 0 ? 0 : phases[row]
      strip.age[k] = row < 0 ? 0 : ages[row]
      strip.life[k] = row < 0 ? 1 : lives[row]
      strip.fade[k] = out ? 0 : this.numbers[o + PRESENCE]
      const metres = stretched(places, -ENDS)
      for (let e = 0; e < 2; e++) {
        const i = k * 2 + e
        point.px[i] = places[e * 3]
        point.py[i] = places[e * 3 + 1]
        point.pz[i] = places[e * 3 + 2]
        // Over the distance at which they part, not along it.
        point.along[i] = Math.min(1, metres / p.distance)
        point.metres[i] = e * metres
      }
    }
    offsets[count] = count * 2
    this.built = { strips: count, points: count * 2 }
    const { followers } = this.system
    const sum = (of: 'strips' | 'points') => followers.reduce((n, f) => n + f.built[of], 0)
    this.system.stats.trails = { strips: sum('strips'), points: sum('points') }
    return [part]
  }
  save(): LinkState {
    const { ids, numbers } = this
    return { bytes: ids.byteLength + numbers.byteLength, ids: ids.slice(), numbers: numbers.slice(), notices: this.notices }
  }
  restore(s: LinkState): void {
    this.ids = s.ids.slice()
    this.numbers = s.numbers.slice()
    this.fresh = true
    this.messages.restore(s.notices)
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
/** How far apart both ends of a link are, m. */
const stretched = (n: Float32Array, o: number): number =>
  Math.sqrt((n[o + ENDS] - n[o + ENDS + 3]) ** 2 + (n[o + ENDS + 1] - n[o + ENDS + 4]) ** 2 + (n[o + ENDS + 2] - n[o + ENDS + 5]) ** 2)
/** Places of particles by their ids, which are sorted: those that are asked for in order are found at once. */
function placesOf(columns: Columns) {
  const ids = columns.words('id')
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => columns.floats(n))
  let last = 0
  return {
    ids,
    /** −1 for one that is gone. */
    row(id: number): number {
      if (ids[last] === id) return last
      let [low, high] = ids[last] < id ? [last, ids.length] : [0, Math.min(last, ids.length)]
      while (low < high) {
        const middle = (low + high) >> 1
        if (ids[middle] < id) low = middle + 1
        else high = middle
      }
      if (ids[low] !== id) return -1
      last = low
      return low
    },
    /** The place of a row; of none the numbers stay. */
    put(row: number, to: Float32Array, at: number): void {
      if (row < 0) return
      to[at] = x[row]
      to[at + 1] = y[row]
      to[at + 2] = z[row]
    },
  }
}
