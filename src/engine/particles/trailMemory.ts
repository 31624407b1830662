import { type Allocator, NO_TRAIL, TRAIL, TRAIL_FRESH, TRAIL_LINE, TRAIL_MORE, TRAIL_ROWS } from '../memory'

/** All that trails go on from: of those in use alone, one behind the other. */
export interface TrailWords {
  ring: number
  room: number
  cursor: number
  /** TRAIL_ROWS of the particles, one behind the other. */
  rows: Uint32Array
  /** Which trails are in use, and theirs; of rings the points that they hold. */
  taken: Uint32Array
  records: Uint32Array
  more: Uint32Array
  points: Uint32Array
  velocities: Uint32Array | null
  normals?: Uint32Array | null
  /** Trails whose particle is gone, in the order in which they went. */
  gone: number[]
}
const FIRST_RING = 16
/** Most points that one trail holds, and all of them together. */
export const MAX_RING = 4096
export const MAX_POINTS = 1 << 24
/** Free places among those there are: the next one is near then. */
const SLACK = 1.5
const words = (bytes: number) => bytes >> 2

const SLOT = TRAIL_ROWS.indexOf('slot')
const KEPT_AT = TRAIL_ROWS.indexOf('keptT')
const HEAD = TRAIL_ROWS.indexOf('head')

/**
 * The memory of trails: for each particle a row, for each trail a record and a ring of points. Free places are taken in one round
 * after another, so that trails lie about as their particles do, in the order of birth: what a substep touches is then side by side (taken from a
 * stack they were strewn over all of it: 108 ns a trail and substep instead of 83).
 */
export class TrailMemory {
  /** A pointer to each column of the rows. */
  readonly table: number
  records = 0
  more = 0
  rings = 0
  /** TRAIL_LINE points of each. */
  newest = 0
  velocities = 0
  normals = 0
  /** Points of a ring, a power of two. */
  ring = FIRST_RING
  /** How many particles were followed as the substep before ended. */
  followed = 0
  /** Trails in use. */
  used = 0
  gone: number[] = []
  private taken = new Uint8Array(0)
  private cursor = 0
  private rowRoom = 0
  private room = 0

  /** `drifting`: points have velocities; `turning`: they have normals. */
  constructor(
    private readonly heap: Allocator,
    private readonly drifting: boolean,
    private readonly turning = false,
  ) {
    this.table = heap.take(TRAIL_ROWS.length * 4)
  }
  /** Rows for `count` particles, those behind the followed ones without a trail yet; returns whose is which. Throws MemoryRefused. */
  follow(count: number): Uint32Array {
    if (count > this.rowRoom) {
      // Whole vectors are read, also of the last row.
      const room = Math.ceil((count * 1.5) / 1024) * 1024
      const pointers = TRAIL_ROWS.map((_, c) => this.grown(this.column(c), this.followed, room))
      this.heap.u32(this.table, TRAIL_ROWS.length).set(pointers)
      this.rowRoom = room
    }
    const before = this.followed
    this.followed = count
    const slots = this.numbers()
    if (count > before) slots.fill(NO_TRAIL, before)
    return slots
  }
  private column(c: number): number {
    return this.heap.u32(this.table, TRAIL_ROWS.length)[c]
  }
  /** To be taken again after any allocation. */
  numbers(): Uint32Array {
    return this.followed ? this.heap.u32(this.column(SLOT), this.followed) : new Uint32Array(0)
  }
  /** How many points all rings would hold with so many more trails; room is made by `makeRoom`. */
  pointsWith(trails: number): number {
    return (this.used + trails) * this.ring
  }
  /** Room for so many more trails. Throws MemoryRefused. */
  makeRoom(trails: number): void {
    const wanted = this.used + trails
    if (wanted <= this.room) return
    this.resize(Math.max(wanted, Math.min(Math.max(64, Math.ceil(wanted * SLACK)), MAX_POINTS / this.ring)))
  }
  private resize(room: number): void {
    const old = this.room
    this.records = this.grown(this.records, old * words(TRAIL.bytes), room * words(TRAIL.bytes))
    this.more = this.grown(this.more, old * words(TRAIL_MORE.bytes), room * words(TRAIL_MORE.bytes))
    this.rings = this.grown(this.rings, old * this.ring * 4, room * this.ring * 4)
    this.newest = this.grown(this.newest, old * TRAIL_LINE * 4, room * TRAIL_LINE * 4)
    if (this.drifting) this.velocities = this.grown(this.velocities, old * this.ring * 4, room * this.ring * 4)
    if (this.turning) this.normals = this.grown(this.normals, old * this.ring * 4, room * this.ring * 4)
    const taken = new Uint8Array(room)
    taken.set(this.taken)
    this.taken = taken
    // On with the fresh ones.
    this.cursor = old
    this.room = room
  }
  /** Trails for the particles of some rows, empty; there must be room for them. `reach`: of each, how far back. */
  begin(rows: readonly number[], reach: (row: number) => number): void {
    const { heap, room, taken } = this
    const size = words(TRAIL.bytes)
    const [slots, records] = [this.numbers(), heap.f32(this.records, room * size)]
    const fresh = heap.f32(this.column(KEPT_AT), this.followed)
    const heads = heap.u32(this.column(HEAD), this.followed)
    for (const row of rows) {
      let slot = this.cursor % room
      while (taken[slot]) slot = slot + 1 === room ? 0 : slot + 1
      this.cursor = slot + 1
      taken[slot] = 1
      slots[row] = slot
      fresh[row] = TRAIL_FRESH
      heads[row] = 0
      const at = slot * size
      records.fill(0, at, at + size)
      records[at + words(TRAIL.reach)] = reach(row)
      records[at + words(TRAIL.gone)] = -1
    }
    this.used += rows.length
  }
  /** How many of those whose particle is gone have been so for longer than some seconds; they stand in the order in which they went. */
  goneFor(seconds: number, now: number): number {
    const { gone } = this
    const at = this.heap.f32(this.records, this.room * words(TRAIL.bytes))
    let k = 0
    while (k < gone.length && at[gone[k] * words(TRAIL.bytes) + words(TRAIL.gone)] + seconds < now) k++
    return k
  }
  /** Gives up the first of those whose particle is gone. */
  giveUp(count: number): void {
    if (!count) return
    for (const slot of this.gone.splice(0, count)) this.taken[slot] = 0
    this.used -= count
  }
  /** Doubles all rings, or none of them where memory is refused; trails must be settled. Throws MemoryRefused. */
  lengthen(): void {
    const before = [this.rings, this.velocities, this.normals]
    const fresh: number[] = []
    try {
      for (const at of before) fresh.push(at && this.longer(at))
    } catch (error) {
      this.giveAll(fresh)
      throw error
    }
    this.giveAll(before)
    ;[this.rings, this.velocities, this.normals] = fresh
    this.ring *= 2
  }
  private giveAll(places: readonly number[]): void {
    for (const at of places) if (at) this.heap.give(at)
  }
  /** Whether rings may be that much longer. */
  get mayLengthen(): boolean {
    return this.ring * 2 <= MAX_RING && this.room * this.ring * 2 <= MAX_POINTS
  }
  /** Words at another place with more room. */
  private grown(at: number, count: number, room: number): number {
    const fresh = this.heap.take(room * 4)
    if (count) this.heap.u32(fresh, count).set(this.heap.u32(at, count))
    if (at) this.heap.give(at)
    return fresh
  }
  /** A copy of the rings at `at`, each with room for twice as many points. */
  private longer(at: number): number {
    const { ring, room } = this
    const fresh = this.heap.take(room * ring * 32)
    const [from, to] = [this.heap.u32(at, room * ring * 4), this.heap.u32(fresh, room * ring * 8)]
    this.eachPoint((slot, k) => {
      const a = (slot * ring + (k & (ring - 1))) * 4
      const b = (slot * ring * 2 + (k & (ring * 2 - 1))) * 4
      for (let w = 0; w < 4; w++) to[b + w] = from[a + w]
    })
    return fresh
  }
  /** Takes the points behind the last whole line of each ring from there. */
  private takeNewest(): void {
    const { heap, room, ring } = this
    if (this.drifting || !room) return
    const [all, newest] = [heap.u32(this.rings, room * ring * 4), heap.u32(this.newest, room * TRAIL_LINE * 4)]
    this.eachPoint((slot, k, head) => {
      if (k < head - (head % TRAIL_LINE)) return
      const [a, b] = [(slot * ring + (k & (ring - 1))) * 4, (slot * TRAIL_LINE + (k % TRAIL_LINE)) * 4]
      for (let w = 0; w < 4; w++) newest[b + w] = all[a + w]
    })
  }
  /** Every point that the ring of a trail in use holds, by its number since the trail began; `head`: how many there were. */
  private eachPoint(visit: (slot: number, k: number, head: number) => void): void {
    const view = this.heap.view()
    for (let slot = 0; slot < this.room; slot++) {
      if (!this.taken[slot]) continue
      const r = this.records + slot * TRAIL.bytes
      const head = view.getUint32(r + TRAIL.head, true)
      for (let k = view.getUint32(r + TRAIL.first, true); k < head; k++) visit(slot, k, head)
    }
  }
  /** Of settled trails. */
  save(): TrailWords & { bytes: number } {
    const { ring, room, cursor, heap } = this
    const taken = Uint32Array.from([...this.taken.keys()].filter((slot) => this.taken[slot]))
    const records = this.packed(this.records, words(TRAIL.bytes), taken)
    const more = this.packed(this.more, words(TRAIL_MORE.bytes), taken)
    let count = 0
    this.eachPoint(() => count++)
    const packPoints = (at: number) => {
      const out = new Uint32Array(count * 4)
      if (!count) return out
      const all = heap.u32(at, room * ring * 4)
      let o = 0
      this.eachPoint((slot, k) => {
        const a = (slot * ring + (k & (ring - 1))) * 4
        for (let w = 0; w < 4; w++) out[o++] = all[a + w]
      })
      return out
    }
    const lists = { taken, records, more, rows: this.rows(), points: packPoints(this.rings) }
    const velocities = this.drifting ? packPoints(this.velocities) : null
    const normals = this.turning ? packPoints(this.normals) : null
    const bytes = [...Object.values(lists), velocities, normals].reduce((sum, l) => sum + (l?.byteLength ?? 0), 8 * this.gone.length)
    return { bytes, ring, room, cursor, ...lists, velocities, normals, gone: [...this.gone] }
  }
  private rows(): Uint32Array {
    const n = this.followed
    const out = new Uint32Array(TRAIL_ROWS.length * n)
    if (n) for (let c = 0; c < TRAIL_ROWS.length; c++) out.set(this.heap.u32(this.column(c), n), c * n)
    return out
  }
  private packed(at: number, size: number, taken: Uint32Array): Uint32Array {
    const out = new Uint32Array(taken.length * size)
    if (!taken.length) return out
    const all = this.heap.u32(at, this.room * size)
    taken.forEach((slot, i) => {
      for (let w = 0; w < size; w++) out[i * size + w] = all[slot * size + w]
    })
    return out
  }
  restore(s: TrailWords): void {
    this.giveAll([
      ...TRAIL_ROWS.map((_, c) => this.column(c)),
      this.records,
      this.more,
      this.rings,
      this.newest,
      this.velocities,
      this.normals,
    ])
    this.heap.u32(this.table, TRAIL_ROWS.length).fill(0)
    this.records = this.more = this.rings = this.newest = this.velocities = this.normals = 0
    this.rowRoom = this.room = this.used = this.followed = 0
    this.taken = new Uint8Array(0)
    this.ring = s.ring
    const rows = s.rows.length / TRAIL_ROWS.length
    this.follow(rows)
    if (rows) for (let c = 0; c < TRAIL_ROWS.length; c++) this.heap.u32(this.column(c), rows).set(s.rows.subarray(c * rows, (c + 1) * rows))
    if (s.room) this.resize(s.room)
    this.cursor = s.cursor
    this.used = s.taken.length
    for (const slot of s.taken) this.taken[slot] = 1
    this.gone = [...s.gone]
    if (!s.taken.length) return
    const { ring, room, heap } = this
    const put = (at: number, size: number, list: Uint32Array) => {
      const all = heap.u32(at, room * size)
      s.taken.forEach((slot, i) => {
        for (let w = 0; w < size; w++) all[slot * size + w] = list[i * size + w]
      })
    }
    put(this.records, words(TRAIL.bytes), s.records)
    put(this.more, words(TRAIL_MORE.bytes), s.more)
    const putPoints = (at: number, list: Uint32Array) => {
      const all = heap.u32(at, room * ring * 4)
      let o = 0
      this.eachPoint((slot, k) => {
        const a = (slot * ring + (k & (ring - 1))) * 4
        for (let w = 0; w < 4; w++) all[a + w] = list[o++]
      })
    }
    putPoints(this.rings, s.points)
    this.takeNewest()
    if (s.velocities) putPoints(this.velocities, s.velocities)
    if (s.normals && this.turning) putPoints(this.normals, s.normals)
  }
  /** Most points that a ring holds now. */
  get longest(): number {
    let most = 0
    const view = this.heap.view()
    for (let slot = 0; slot < this.room; slot++) {
      const r = this.records + slot * TRAIL.bytes
      if (this.taken[slot]) most = Math.max(most, view.getUint32(r + TRAIL.head, true) - view.getUint32(r + TRAIL.first, true))
    }
    return most
  }
}
