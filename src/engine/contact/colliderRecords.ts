import type { Surface } from '../geometry'
import { hashOf, type Matrix, type PosePath, posePath } from '../math'
import { ALL_PHASES, Arena, Block, COLLIDER, CONTACT_MODES, JOB, type Machine, pathWords, runJob, writeRecord } from '../memory'
import type { ObjectState } from '../objects'
import type { ContactParams, ContactPlan } from '../plan'

const FLAG = { both: 1, moving: 2, changing: 4 } as const
const isUsable = (o: ObjectState | undefined): o is ObjectState =>
  !!(o?.in0 && o.in1 && (o.endless || (o.surface && o.surface.mesh.indices.length > 0)))

/** What of an object a record holds beyond its places: which of its listed places, and picks of its faces, are needed. */
export interface RecordNeeds {
  /** Places on it are looked for: without triangles, or an endless plane, there are none. */
  surface?: boolean
  picks?: boolean
  sites?: boolean
}
/** What happens where particles in some phases, a bit each, meet an object. */
type Answer = ContactParams & { seed: number; phases: number }
/** Of each object, the last card that names it decides for a phase; phases in which nothing is said pass through. */
function answersTo(contacts: readonly ContactPlan[], t: number): [object: number, Answer][] {
  const answers = new Map<number, Answer[]>()
  for (const c of contacts) {
    const p = c.params(t)
    const phases = c.phases ?? ALL_PHASES
    for (const i of c.colliders) {
      const left = (answers.get(i) ?? []).flatMap((a) => (a.phases & ~phases ? [{ ...a, phases: (a.phases & ~phases) >>> 0 }] : []))
      // Behind those that are left: the order of records is that of the cards.
      answers.delete(i)
      answers.set(i, p.mode === 'pass' ? left : [...left, { ...p, seed: c.seed, phases }])
    }
  }
  return [...answers].flatMap(([i, list]) => list.map((a): [number, Answer] => [i, a]))
}
/** Records of objects in the World's memory, for one system in its space: those it meets, and those its forces go after. */
export class ColliderRecords {
  private arena: Arena
  private machine: Machine
  private met: Block
  private targets: Block[] = []
  private usedTargets = 0
  private job: number
  /** Those that are met, one behind the other. */
  colliders: { id: string; at: number }[] = []

  constructor(machine: Machine) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.met = new Block(this.arena)
    this.job = this.arena.take(JOB.bytes)
  }
  /** Writes the records of all that are met; returns where they begin. `reach`: metres that particles extend beyond their place. */
  collect(contacts: readonly ContactPlan[], t: number, objects: readonly ObjectState[], reach: number): number {
    const list = answersTo(contacts, t).filter(([i]) => isUsable(objects[i]))
    this.colliders = []
    if (!list.length) return 0
    // Blocks of the surfaces first: taking memory moves views.
    const grids = list.map(([i]) => {
      this.prepare(objects[i], {})
      return this.distanceGrid(objects[i])
    })
    const first = this.met.reserve(list.length * COLLIDER.bytes)
    list.forEach(([i, answer], n) => {
      const at = first + n * COLLIDER.bytes
      this.write(at, objects[i], reach)
      const { restitution, restitutionVary, friction, frictionVary, letGo, passes, seed, phases } = answer
      const kinds = { mode: CONTACT_MODES.indexOf(answer.mode), contacts: 0, grid: grids[n], phases }
      const response = { restitution, restitutionVary, friction, frictionVary, letGo, passes, seed }
      writeRecord(this.arena.view(), at, COLLIDER, response, kinds)
      this.colliders.push({ id: objects[i].id, at })
    })
    return first
  }
  private distanceGrid(o: ObjectState): number {
    if (!o.cells || o.endless || !o.surface || o.sides === 'both') return 0
    return o.surface.forDistances(o.cells, (record, slabs) =>
      runJob(this.machine, this.job, { kind: 'measure', record, count: slabs, chunk: 1, all: true }),
    )
  }
  /** How many contacts there were with each since the records were written. */
  contactCounts(): { id: string; count: number }[] {
    const v = this.arena.view()
    return this.colliders.map((c) => ({ id: c.id, count: v.getUint32(c.at + COLLIDER.contacts, true) }))
  }
  /** Forgets the records that forces asked for. */
  begin(): void {
    this.usedTargets = 0
  }
  /** The record of an object that a force goes after, or 0 when it has no surface now. */
  target(o: ObjectState | undefined, needs: RecordNeeds): number {
    if (!o?.in0 || !o.in1) return 0
    if (!isUsable(o) && needs.surface) return 0
    this.prepare(o, needs)
    if (this.usedTargets === this.targets.length) this.targets.push(new Block(this.arena))
    const at = this.targets[this.usedTargets++].reserve(COLLIDER.bytes)
    this.write(at, o, 0)
    const picks = needs.picks && !o.endless ? o.surface?.forPicks() : null
    const sites = needs.sites && !o.endless ? o.surface?.vertices() : null
    writeRecord(this.arena.view(), at, COLLIDER, {
      areas: picks?.areas ?? 0,
      count: picks?.count ?? 0,
      sites: sites?.positions ?? 0,
      sitesEnd: sites ? sites.positionsEnd || sites.positions : 0,
      siteCount: sites?.count ?? 0,
    })
    return at
  }
  /** The amounts of a region for each vertex of an object, or 0 when it has none of that name. */
  amounts(o: ObjectState, region: string): number {
    const at = o.endless ? null : o.region(region)
    return (at && o.surface?.forBirth(at).amounts) || 0
  }
  private prepare(o: ObjectState, needs: RecordNeeds): void {
    if (o.endless || !o.surface) return
    o.surface.forCast()
    o.surface.forPlaces()
    if (needs.picks) o.surface.forPicks()
    if (needs.sites) o.surface.vertices()
  }
  private write(at: number, o: ObjectState, reach: number): void {
    const cast = o.endless || !o.surface?.mesh.indices.length ? null : o.surface.forCast()
    const places = cast ? o.surface?.forPlaces() : null
    const path = posePath(o.m0, o.m1)
    const moving = path.motion !== 'still'
    const both = o.sides ? o.sides === 'both' : !!cast && !cast.closed
    const changing = o.surface?.changes && !o.endless
    const wholeWorld = [-1e30, -1e30, -1e30, 1e30, 1e30, 1e30]
    const matrices = { out0: o.m0, out1: o.m1, ...(o.in0 ? { in0: o.in0 } : {}), ...(o.in1 ? { in1: o.in1 } : {}) }
    writeRecord(
      this.arena.view(),
      at,
      COLLIDER,
      {
        kind: o.endless ? 1 : 0,
        flags: (both ? FLAG.both : 0) | (moving ? FLAG.moving : 0) | (changing ? FLAG.changing : 0),
        nodes: cast?.nodes ?? 0,
        leaves: cast?.leaves ?? 0,
        ends: cast?.ends ?? 0,
        triangles: cast?.triangles ?? 0,
        indices: places?.indices ?? 0,
        from: places?.from ?? 0,
        to: places?.to ?? 0,
        hash: hashOf(o.id),
        thickness: o.thickness,
        scale: scaleOf(o.in1 as Matrix),
        box: o.endless || !o.surface ? wholeWorld : worldBox(o.surface, o.m0, o.m1, path, o.thickness + reach),
      },
      matrices,
      {
        path: pathWords(path),
      },
    )
  }
  dispose(): void {
    this.arena.dispose()
  }
}
/** Own metres for a metre of the world: exact for an even scale, the mean square for another. */
function scaleOf(m: Matrix): number {
  let sum = 0
  for (const k of [0, 1, 2, 4, 5, 6, 8, 9, 10]) sum += m[k] * m[k]
  return Math.sqrt(sum / 3)
}

function worldBox(s: Surface, m0: Matrix, m1: Matrix, path: PosePath, reach: number): number[] {
  const moving = path.motion !== 'still'
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]
  for (const m of moving ? [m0, m1] : [m0]) {
    for (let c = 0; c < 8; c++) {
      const x = c & 1 ? s.bounds.max[0] : s.bounds.min[0]
      const y = c & 2 ? s.bounds.max[1] : s.bounds.min[1]
      const z = c & 4 ? s.bounds.max[2] : s.bounds.min[2]
      for (let a = 0; a < 3; a++) {
        const w = m[a * 4] * x + m[a * 4 + 1] * y + m[a * 4 + 2] * z + m[a * 4 + 3]
        box[a] = Math.min(box[a], w)
        box[3 + a] = Math.max(box[3 + a], w)
      }
    }
  }
  const margin = 1e-3 + reach + (moving ? sagitta(s, m0, m1, path) : 0)
  return box.map((v, i) => (i < 3 ? v - margin : v + margin))
}
/** How far the ways of a surface's points bulge out between the poses at both ends: each goes at most half a turn about the origin. */
function sagitta(s: Surface, m0: Matrix, m1: Matrix, { turn }: PosePath): number {
  const far = Math.sqrt([0, 1, 2].reduce((sum, a) => sum + Math.max(Math.abs(s.bounds.min[a]), Math.abs(s.bounds.max[a])) ** 2, 0))
  const size = Math.sqrt(Math.max(...[m0, m1].map((m) => [0, 1, 2, 4, 5, 6, 8, 9, 10].reduce((sum, k) => sum + m[k] * m[k], 0))))
  return far * size * (1 - turn[3])
}
