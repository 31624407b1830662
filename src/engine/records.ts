import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { COLLIDER, JOB, JOB_MEASURE, WAYS } from './layout'
import { type Matrix, sameMatrix } from './matrix'
import type { ContactParams, ContactPlan } from './plan'
import type { Surface } from './surfaces'
import { Block, runJob } from './blocks'
import type { ObjectState } from './objectState'

/** A word for an element's id that is never 0: FNV-1a. */
export function hashOf(id: string): number {
  let h = 0x811c9dc5
  for (let i = 0; i < id.length; i++) h = Math.imul(h ^ id.charCodeAt(i), 0x01000193)
  return h >>> 0 || 1
}
const usable = (o: ObjectState | undefined): o is ObjectState =>
  !!(o?.in0 && o.in1 && (o.endless || (o.surface && o.surface.mesh.indices.length > 0)))

/** What of an object a record holds beyond its places: which of its listed places, and picks of its faces, are needed. */
export interface RecordNeeds {
  /** Places on it are looked for: without triangles, or an endless plane, there are none. */
  surface?: boolean
  picks?: boolean
  sites?: boolean
}
/** Records of objects in the World's memory, for one system in its space: those it meets, and those its forces go after. */
export class Records {
  /** Colliders, one behind the other. */
  private met: Block
  private others: Block[] = []
  colliders: { id: string; at: number }[] = []

  private job: number
  constructor(
    private heap: Heap,
    private host: KernelHost,
    private scratch: number,
  ) {
    this.met = new Block(heap)
    this.job = heap.take(JOB.bytes)
  }
  /** The grid of distances of an object, or 0. */
  private distances(o: ObjectState): number {
    if (!o.cells || o.endless || !o.surface || o.sides === 'both') return 0
    return o.surface.forDistances(o.cells, (record, slabs) =>
      runJob(this.heap, this.host, this.job, this.scratch, { kind: JOB_MEASURE, record, count: slabs, chunk: 1, all: true }),
    )
  }
  /** Writes the records of all that are met; returns where they begin. `wider`: metres that particles reach beyond their place. */
  meet(contacts: readonly ContactPlan[], t: number, objects: ObjectState[], wider: number): number {
    const answers = new Map<number, ContactParams & { seed: number }>()
    for (const c of contacts) {
      const p = c.params(t)
      for (const i of c.colliders) {
        answers.delete(i)
        if (p.way !== 'pass') answers.set(i, { ...p, seed: c.seed })
      }
    }
    const list = [...answers].filter(([i]) => usable(objects[i]))
    this.colliders = []
    if (!list.length) return 0
    // Blocks of the surfaces first: taking memory moves views.
    const grids = list.map(([i]) => {
      this.prepare(objects[i], {})
      return this.distances(objects[i])
    })
    const at = this.met.room(list.length * COLLIDER.bytes)
    list.forEach(([i, a], n) => {
      const c = at + n * COLLIDER.bytes
      const o = objects[i]
      this.write(c, o, wider)
      const v = this.heap.view()
      const f = (offset: number, x: number) => v.setFloat32(c + offset, x, true)
      f(COLLIDER.keep, a.keep)
      f(COLLIDER.keepVary, a.keepVary)
      f(COLLIDER.rub, a.friction)
      f(COLLIDER.rubVary, a.frictionVary)
      f(COLLIDER.letGo, a.letGo)
      f(COLLIDER.passes, a.passes)
      v.setUint32(c + COLLIDER.way, WAYS.indexOf(a.way), true)
      v.setUint32(c + COLLIDER.seed, a.seed, true)
      v.setUint32(c + COLLIDER.met, 0, true)
      v.setUint32(c + COLLIDER.grid, grids[n], true)
      this.colliders.push({ id: o.id, at: c })
    })
    return at
  }
  /** Forgets the records that forces asked for. */
  private asked = 0
  begin(): void {
    this.asked = 0
  }
  /** The record of an object that a force goes after, or 0 when it has no surface now. */
  of(o: ObjectState | undefined, needs: RecordNeeds): number {
    if (!o?.in0 || !o.in1) return 0
    if (!usable(o) && needs.surface) return 0
    this.prepare(o, needs)
    if (this.asked === this.others.length) this.others.push(new Block(this.heap))
    const at = this.others[this.asked++].room(COLLIDER.bytes)
    this.write(at, o, 0)
    const v = this.heap.view()
    const u = (offset: number, x: number) => v.setUint32(at + offset, x, true)
    const picks = needs.picks && !o.endless ? o.surface?.forPicks() : null
    u(COLLIDER.areas, picks?.areas ?? 0)
    u(COLLIDER.count, picks?.count ?? 0)
    const sites = needs.sites && !o.endless ? o.surface?.vertices() : null
    u(COLLIDER.sites, sites?.positions ?? 0)
    u(COLLIDER.sitesEnd, sites ? sites.positionsEnd || sites.positions : 0)
    u(COLLIDER.siteCount, sites?.count ?? 0)
    return at
  }
  private prepare(o: ObjectState, needs: RecordNeeds): void {
    if (o.endless || !o.surface) return
    o.surface.forCast()
    o.surface.forPlaces()
    if (needs.picks) o.surface.forPicks()
    if (needs.sites) o.surface.vertices()
  }
  private write(c: number, o: ObjectState, wider: number): void {
    const cast = o.endless || !o.surface?.mesh.indices.length ? null : o.surface.forCast()
    const places = cast ? o.surface?.forPlaces() : null
    const moving = !sameMatrix(o.m0, o.m1)
    const v = this.heap.view()
    const u = (offset: number, x: number) => v.setUint32(c + offset, x, true)
    const f = (offset: number, x: number) => v.setFloat32(c + offset, x, true)
    const both = o.sides ? o.sides === 'both' : !!cast && !cast.closed
    u(COLLIDER.kind, o.endless ? 1 : 0)
    u(COLLIDER.flags, (both ? 1 : 0) | (moving ? 2 : 0) | (o.surface?.changes && !o.endless ? 4 : 0))
    u(COLLIDER.nodes, cast?.nodes ?? 0)
    u(COLLIDER.leaves, cast?.leaves ?? 0)
    u(COLLIDER.ends, cast?.ends ?? 0)
    u(COLLIDER.triangles, cast?.triangles ?? 0)
    u(COLLIDER.indices, places?.indices ?? 0)
    u(COLLIDER.from, places?.from ?? 0)
    u(COLLIDER.to, places?.to ?? 0)
    u(COLLIDER.hash, hashOf(o.id))
    f(COLLIDER.thick, o.thick)
    f(COLLIDER.scale, scaleOf(o.in1 as Matrix))
    const box = o.endless || !o.surface ? [-1e30, -1e30, -1e30, 1e30, 1e30, 1e30] : worldBox(o.surface, o.m0, o.m1, moving, o.thick + wider)
    box.forEach((x, k) => f(COLLIDER.box + k * 4, x))
    const write = (offset: number, m: Matrix | null) => m?.forEach((x, k) => f(offset + k * 4, x))
    write(COLLIDER.out0, o.m0)
    write(COLLIDER.out1, o.m1)
    write(COLLIDER.in0, o.in0)
    write(COLLIDER.in1, o.in1)
  }
  dispose(): void {
    this.met.free()
    this.heap.give(this.job)
    for (const b of this.others) b.free()
    this.others = []
  }
}
/** Own metres for a metre of the world: exact for an even scale, the mean square for another. */
const scaleOf = (m: Matrix): number =>
  Math.sqrt(
    (m[0] * m[0] + m[1] * m[1] + m[2] * m[2] + m[4] * m[4] + m[5] * m[5] + m[6] * m[6] + m[8] * m[8] + m[9] * m[9] + m[10] * m[10]) / 3,
  )

function worldBox(s: Surface, m0: Matrix, m1: Matrix, moving: boolean, wider: number): number[] {
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]
  for (const m of moving ? [m0, m1] : [m0]) {
    for (let c = 0; c < 8; c++) {
      const x = c & 1 ? s.bounds.max[0] : s.bounds.min[0],
        y = c & 2 ? s.bounds.max[1] : s.bounds.min[1],
        z = c & 4 ? s.bounds.max[2] : s.bounds.min[2]
      for (let a = 0; a < 3; a++) {
        const w = m[a * 4] * x + m[a * 4 + 1] * y + m[a * 4 + 2] * z + m[a * 4 + 3]
        box[a] = Math.min(box[a], w)
        box[3 + a] = Math.max(box[3 + a], w)
      }
    }
  }
  // Between two poses the inverse is only nearly the inverse of the pose between; the margin covers the difference.
  const margin = (moving ? 0.02 * Math.max(box[3] - box[0], box[4] - box[1], box[5] - box[2]) + 1e-3 : 1e-3) + wider
  return box.map((v, i) => (i < 3 ? v - margin : v + margin))
}
