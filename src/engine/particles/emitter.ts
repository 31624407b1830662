import { grouped } from '../../shot'
import type { Notices } from '../frame'
import { stretchOf } from '../geometry'
import { cosTurns, hash3, identity, posePath, unit } from '../math'
import { BIRTH, BIRTH_KIND, Block, type Columns, type Machine, MemoryRefused, pathWords, SCRATCH, writeRecord } from '../memory'
import type { ObjectState } from '../objects'
import type { BirthBatch, BirthParams, BirthPlan, PlanSystem } from '../plan'
import type { PointSource, Substep } from '../solver'
import { type BirthPlace, birthPlace } from './birthPlace'

/** Births and casts start this far off the surface, metres, so that a particle is not on the wrong side by rounding. */
const BIRTH_OFF = 2e-4
const ORIGIN = identity()

/** Where particles of one batch come from. */
interface Source {
  object: ObjectState | null
  /** The particles of another system. */
  points: PointSource | null
  place: BirthPlace | null
}

const isGrown = (on: BirthParams['on']): on is 'tips' | 'lines' => on === 'tips' || on === 'lines'

/** Spawns the particles of one system: batches that are due, each particle at its own moment. */
export class Emitter {
  private record: number
  /** Where births start on what grows. */
  private sites: Block
  /** How many each birth has spawned so far: the number of its next particle. */
  private numbers: number[]
  /** The id of the next particle. */
  nextId = 0
  constructor(
    private machine: Machine,
    private plan: PlanSystem,
    private columns: Columns,
    private notices: Notices,
  ) {
    this.record = machine.heap.take(BIRTH.bytes)
    this.sites = new Block(machine.heap)
    this.numbers = plan.births.map(() => 0)
  }
  beginAgain(): void {
    this.numbers.fill(0)
  }
  /** Spawns what is due; returns how many. */
  spawn(substep: Substep, objects: readonly ObjectState[], timeScale: number): number {
    const before = this.columns.count
    const { t0, t1 } = substep.at
    this.plan.births.forEach((birth, i) => {
      const { grownOn } = birth
      const grown = grownOn === undefined ? undefined : (t: number) => substep.metresGrown(grownOn, t)
      for (const batch of birth.due(t0, t1, grown)) if (batch.count > 0) this.spawnBatch(birth, i, batch, substep, objects, timeScale)
    })
    return this.columns.count - before
  }
  private spawnBatch(
    birth: BirthPlan,
    i: number,
    batch: BirthBatch,
    substep: Substep,
    objects: readonly ObjectState[],
    timeScale: number,
  ): void {
    const { columns } = this
    const number = this.numbers[i]
    this.numbers[i] += batch.count
    const p = birth.params(substep.at.t0)
    const first = columns.count
    const count = this.roomFor(batch.count, substep.frame)
    if (count <= 0) return
    const source = isGrown(p.on)
      ? this.grownSource(p.on, p.source, birth.seed, { ...batch, count, number }, substep, objects)
      : this.sourceOf(p, substep, objects)
    if (!source) return
    this.write(birth, p, batch, source, { first, count, number, substep })
    this.machine.host.exports.birth(this.record)
    const missed = this.machine.heap.view().getUint32(this.record + BIRTH.missed, true)
    if (missed)
      this.notices.add(
        'source',
        substep.frame,
        `${grouped(missed)} births of ${this.plan.name} found no place inside their source and start on its faces; is it closed, and not all but flat?`,
      )
    columns.count = first + count
    columns.clear(first, count)
    // A newborn's age is minus its time until its moment comes, which goes by as slowly as the rest of its life.
    if (timeScale !== 1) {
      const ages = columns.floats('age')
      for (let k = first; k < first + count; k++) ages[k] *= timeScale
    }
    this.nextId += count
  }
  /** How many of so many there is room for; the rest is reported. */
  roomFor(wanted: number, frame: number): number {
    const { plan, columns } = this
    const first = columns.count
    const count = Math.min(wanted, plan.limit - first)
    if (count < wanted)
      this.notices.add(
        'limit',
        frame,
        `${plan.name} reached its limit of ${grouped(plan.limit)} particles; births wait until some have died`,
      )
    if (count <= 0) return 0
    try {
      columns.reserve(first + count)
      return count
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.notices.add('memory', frame, `${plan.name}: ${error.message}; its births wait`)
      return Math.min(count, columns.capacity - first)
    }
  }
  /** On what grows over an object: a place for each birth, at its own moment. Null: there is nothing now. */
  private grownSource(
    on: 'tips' | 'lines',
    source: number,
    seed: number,
    { count, number, at, spacing }: { count: number; number: number; at: number; spacing: number },
    substep: Substep,
    objects: readonly ObjectState[],
  ): Source | null {
    const object = source >= 0 ? objects[source] : null
    const grown = object ? substep.grownOn(source, on) : []
    if (!object || !grown.length) return null
    const all = grown.reduce((sum, g) => sum + g.weight, 0)
    const bytes = count * 12
    const positions = this.sites.reserve(bytes * 3)
    const { heap } = this.machine
    const [starts, ends, normals] = [0, 1, 2].map((k) => heap.f32(positions + k * bytes, count * 3))
    const place = new Float64Array(9)
    for (let k = 0; k < count; k++) {
      let rest = unit(hash3(seed, number + k, 70)) * all
      const g = grown.find((x) => (rest -= x.weight) < 0) ?? grown[grown.length - 1]
      const t = substep.at.t0 + Math.min(Math.max(at + spacing * k, 0), substep.at.dt)
      g.place(unit(hash3(seed, number + k, 71)), t, place)
      // The kernel takes them in turn, by the number of the birth.
      const o = ((number + k) % count) * 3
      starts.set(place.subarray(0, 3), o)
      ends.set(place.subarray(3, 6), o)
      normals.set(place.subarray(6), o)
    }
    const lists = { positions, positionsEnd: positions + bytes, normals: positions + 2 * bytes, count }
    const none = { indices: 0, areas: 0, guide: 0, guideCount: 0, amounts: 0, whole: 0, first: 0, cast: null }
    return { object, points: null, place: { ...none, ...lists, kind: BIRTH_KIND.sites } }
  }
  /** Null: there is nothing to start from now. */
  private sourceOf(p: BirthParams, { frame, points }: Substep, objects: readonly ObjectState[]): Source | null {
    const others = p.system !== undefined && p.system >= 0 ? points[p.system] : null
    if (others) return others.count ? { object: null, points: others, place: null } : null
    const object = p.source >= 0 ? objects[p.source] : null
    if (!object?.surface) return { object, points: null, place: null }
    const { scratch } = this.machine
    const place = birthPlace(
      p,
      object.surface,
      p.region ? object.region(p.region) : null,
      this.plan.name,
      { stack: scratch + SCRATCH.stack, hit: scratch + SCRATCH.hit },
      (message) => this.notices.add('source', frame, message),
      stretchOf(object.m0),
    )
    if (place !== 'nowhere') return { object, points: null, place }
    this.notices.add('region', frame, `the region that ${this.plan.name} starts from is empty; its births wait until there is some of it`)
    return null
  }
  private write(
    birth: BirthPlan,
    p: BirthParams,
    batch: BirthBatch,
    { object, points, place }: Source,
    { first, count, number, substep }: { first: number; count: number; number: number; substep: Substep },
  ): void {
    const { scratch } = this.machine
    const [life, lifeVary] = this.plan.life(substep.at.t0)
    const normal = p.along === 'normal'
    const bounds = object?.surface?.bounds
    const where = {
      kind: points ? BIRTH_KIND.particles : (place?.kind ?? BIRTH_KIND.point),
      positions: points ? points.columns.table : (place?.positions ?? 0),
      positionsEnd: place?.positionsEnd ?? 0,
      amounts: place?.amounts ?? 0,
      normals: place?.normals ?? 0,
      indices: place?.indices ?? 0,
      areas: place?.areas ?? 0,
      guide: place?.guide ?? 0,
      guideCount: place?.guideCount ?? 0,
      guideScale: place && place.whole > 0 ? place.guideCount / place.whole : 0,
      triFirst: place?.first ?? 0,
      triCount: points ? points.count : (place?.count ?? 0),
      order: p.on === 'lattice' || isGrown(p.on) ? 1 : 0,
      nodes: place?.cast?.nodes ?? 0,
      leaves: place?.cast?.leaves ?? 0,
      low: bounds?.min ?? [0, 0, 0],
      high: bounds?.max ?? [0, 0, 0],
      share: p.share ?? 1,
      off: place && place.kind !== BIRTH_KIND.inside && p.on !== 'lattice' ? BIRTH_OFF : 0,
      m0: object?.m0 ?? ORIGIN,
      m1: object?.m1 ?? ORIGIN,
      path: pathWords(posePath(object?.m0 ?? ORIGIN, object?.m1 ?? ORIGIN)),
    }
    const launch = {
      away: normal ? 0 : 1,
      direction: normal ? [0, 1, 0] : p.direction,
      cosSpread: cosTurns(p.spreadTurns),
      speed: p.speed,
      speedVary: p.speedVary,
      outward: p.outward ?? 0,
      outwardVary: p.outwardVary ?? 0,
      slide: p.slide ?? 0,
      slideVary: p.slideVary ?? 0,
      anyway: p.anyway ?? 0,
      anywayVary: p.anywayVary ?? 0,
      inherit: p.inherit,
    }
    writeRecord(this.machine.heap.view(), this.record, BIRTH, where, launch, {
      columns: this.columns.table,
      first,
      count,
      seed: birth.seed,
      number,
      id: this.nextId,
      life,
      lifeVary,
      dt: substep.at.dt,
      time0: batch.at,
      spacing: batch.spacing,
      stack: scratch + SCRATCH.stack,
      hit: scratch + SCRATCH.hit,
      missed: 0,
    })
  }
  /** Numbers of the next particles by the id of the birth. */
  save(): Record<string, number> {
    return Object.fromEntries(this.plan.births.map((b, i) => [b.id, this.numbers[i]]))
  }
  /** By id: a changed plan may have other births, and those begin at zero. */
  restore(numbers: Record<string, number>, nextId: number): void {
    this.numbers = this.plan.births.map((b) => numbers[b.id] ?? 0)
    this.nextId = nextId
  }
}
