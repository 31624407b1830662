import { grouped } from '../../shot'
import { ColliderRecords } from '../contact'
import { type Notice, Notices, type VolumePart } from '../frame'
import {
  Arena,
  Block,
  GAS,
  GAS_STEP,
  JOB,
  type Machine,
  MemoryRefused,
  runJob,
  SCALAR_COUNT,
  TILE,
  TILE_GRIDS,
  writeRecord,
} from '../memory'
import { GAS_DYES, type PlanGas } from '../plan'
import type { Flow, Solver, Substep, Take } from '../solver'
import { Amounts } from './amounts'
import { Detail } from './detail'
import { Feeds } from './feeds'
import { Fields } from './fields'
import { Forces } from './forces'
import type { GasState } from './gasState'
import { writeParams } from './params'
import { Pressure } from './pressure'
import { StoredFeeds } from './storedFeeds'
import { TileTable } from './tileTable'
import { around, type Cells, cellsIn, mostCells, nextWindow } from './window'

/** Velocity, m/s, and what it carries. */
export const GAS_GRIDS = ['u', 'v', 'w', 'density', 'temperature', 'fuel', 'flame', 'dyeA', 'dyeB'] as const
export type GasGrid = (typeof GAS_GRIDS)[number]
type Step = keyof typeof GAS_STEP
/** Own steps are as long as the fastest place goes so many voxels. */
const VOXELS_A_STEP = 2.5

/** A gas on a staggered grid, within a window that goes along with what it holds. */
export class Gas implements Solver {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = [
    { flow: 'surfaces', when: 'now' },
    // Those that feed it have gone their way.
    { flow: 'points', when: 'now' },
  ]
  readonly id: string
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly messages: Notices
  /** All that it may have now. */
  private room: Cells
  private readonly record: number
  private readonly job: number
  private readonly records: ColliderRecords
  private readonly program: Forces
  private readonly feeds: Feeds
  private readonly stored: StoredFeeds
  private readonly table: Block
  private readonly tiles: TileTable
  private readonly amounts: Amounts
  private fields: Fields | null = null
  private pressure: Pressure | null = null
  private detail: Detail | null = null
  private plain = false
  /** The cells that hold something. */
  private held: Cells | null = null
  /** The cells into which something comes in this substep. */
  private fed: Cells[] = []
  /** Whether the pressure knows what is solid in its window. */
  private weighed = false
  /** What is left of the divergence, as a share of what there was, and cycles that it took, of the last step. */
  leftOver = 0
  /** Own steps of the last substep. */
  stepped = 0
  cycles = 0

  constructor(
    machine: Machine,
    readonly plan: PlanGas,
    /** Runs what the detail does: for whoever measures it. */
    private readonly timed: (work: () => void) => void = (work) => work(),
  ) {
    this.id = plan.id
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.messages = new Notices(plan.id)
    this.room = { first: [0, 0, 0], count: mostCells(plan.size, plan.voxel) }
    this.record = this.arena.take(GAS.bytes)
    this.job = this.arena.take(JOB.bytes)
    this.records = new ColliderRecords(this.machine)
    this.program = new Forces(this.arena, this.machine, plan.forces, this.records)
    this.table = new Block(this.arena)
    const run = (step: Step, count: number, chunk: number) => this.run(step, count, chunk)
    const grids = TILE_GRIDS + (plan.dyes?.length ?? 0)
    this.tiles = new TileTable(this.arena, this.record, grids, run)
    this.amounts = new Amounts(this.arena, this.record, run)
    this.stored = new StoredFeeds(this.arena, plan, () => this.room)
    this.feeds = new Feeds(
      this.arena,
      plan,
      () => this.room,
      this.records,
      (step, table, count) => {
        writeRecord(this.arena.view(), this.record, GAS, { table })
        this.run(step, count, step === 'splat' ? 1 : 8)
      },
    )
  }
  private makeDetail(): void {
    const { detail, burns } = this.plan
    if (!detail || this.detail || this.plain) return
    this.detail = new Detail(
      this.arena,
      this.machine.host.team.threads,
      { ...detail, burns, dyes: this.plan.dyes?.length ?? 0 },
      (step, count, chunk, pointers) => {
        if (pointers) writeRecord(this.arena.view(), this.record, GAS, pointers)
        this.run(step, count, chunk)
      },
    )
    writeRecord(this.arena.view(), this.record, GAS, { detail: this.detail.record })
  }
  /** Does something with the detail; without memory for it there is none any more, and a notice says so. */
  private withDetail(frame: number, work: (d: Detail) => void): void {
    try {
      this.makeDetail()
      const { detail } = this
      if (detail) this.timed(() => work(detail))
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.plain = true
      this.detail?.dispose()
      this.detail = null
      this.messages.add(
        'memory',
        frame,
        `${this.plan.name} goes on without detail: ${error.message}; make its detail or its bounds smaller, or its voxels larger`,
      )
    }
  }
  get air(): number {
    return this.record
  }
  get notices(): readonly Notice[] {
    return this.messages.all
  }
  /** Cells of the window, along each axis; null while there is nothing. */
  get window(): Cells | null {
    return this.fields?.window ?? null
  }
  /** A copy of one grid of the window, x first; faces as their cells. Empty while there is nothing. */
  grid(name: GasGrid): Float32Array {
    const f = this.fields
    const nth = GAS_GRIDS.indexOf(name)
    const field = f && (nth < 3 ? f.velocity[nth] : f.scalars[f.slots.indexOf(nth - 3)])
    if (!f || !field) return new Float32Array(0)
    return f.inside(field)
  }
  private run(step: Step, count: number, chunk: number): void {
    writeRecord(this.arena.view(), this.record, GAS, { step: GAS_STEP[step] })
    const many = count > chunk && this.fields !== null && cellsIn(this.fields.window) > 4096
    runJob(this.machine, this.job, { kind: 'gas', record: this.record, count, chunk, all: many })
  }
  private rows(step: Step): void {
    const [, ny, nz] = (this.fields as Fields).window.count
    this.run(step, ny * nz, 32)
  }
  private planes(step: Step): void {
    this.run(step, (this.fields as Fields).window.count[2], 4)
  }
  prepare(): void {
    // All that it reads of others is as the substep began; its own state may change at once.
  }
  step(substep: Substep): void {
    const { at } = substep
    this.records.begin()
    this.program.begin()
    const dt = at.dt * Math.max(0, this.plan.timeScale?.(at.t0) ?? 1)
    if (!(dt > 0)) return
    this.resize(substep)
    if (!this.fields) return
    this.stepped = this.stepsIn(dt)
    for (let k = 0; k < this.stepped; k++) this.advance(substep, dt / this.stepped, k, this.stepped)
    this.held = this.tiles.held(this.fields)
  }
  /** The window that this substep needs. One that there is no memory for stays as it was, and a notice says so. */
  private resize(substep: Substep): void {
    let held = this.held
    this.fed = [...this.feeds.cells(substep), ...this.stored.cells(substep)]
    for (const cells of this.fed) held = around(held, cells)
    const moved = this.ride(substep.at.t1)
    const wanted = nextWindow(this.window, held, this.room)
    if (wanted && wanted === this.window && !moved) return
    const old = this.fields
    if (!wanted) {
      this.drop()
      this.detail?.clear()
      return
    }
    try {
      const fresh = this.fieldsIn(wanted)
      if (old) fresh.copyFrom(old)
      this.take(fresh)
      this.run('border', 3, 1)
      this.withDetail(substep.frame, (d) => d.resize(fresh))
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      const message = `${this.plan.name} needs ${grouped(cellsIn(wanted))} voxels: ${error.message}; it goes on in the room that it has: make its voxels larger, or its bounds smaller`
      this.messages.add('memory', substep.frame, message)
    }
  }
  private fieldsIn(window: Cells): Fields {
    const { burns, dyes } = this.plan
    const slots = [0, 1, ...(burns ? [2, 3] : []), ...(dyes ?? []).map((d) => 4 + GAS_DYES.indexOf(d))]
    return new Fields(this.arena, window, slots, burns)
  }
  private take(fields: Fields): void {
    const pressure = (() => {
      try {
        return new Pressure(this.arena, fields, this.record, (step, count, chunk) => this.run(step, count, chunk))
      } catch (error) {
        fields.dispose()
        throw error
      }
    })()
    this.drop()
    this.fields = fields
    this.pressure = pressure
    this.weighed = false
    const { voxel, low, open } = this.plan
    // A window that ends before the gas's own bounds ends in open air.
    const { first, count } = fields.window
    const { room } = this
    const inside = (k: number) => {
      const a = k >> 1
      return k % 2 ? first[a] + count[a] < room.first[a] + room.count[a] : first[a] > room.first[a]
    }
    const bits = open.reduce((sum, is, k) => sum | (is || inside(k) ? 1 << k : 0), 0)
    const corner = low.map((x, a) => x + fields.window.first[a] * voxel)
    writeRecord(this.arena.view(), this.record, GAS, { voxel, low: corner, open: bits })
    fields.describe(this.record, false)
    this.feeds.forget()
  }
  private drop(): void {
    this.pressure?.dispose()
    this.fields?.dispose()
    this.pressure = null
    this.fields = null
    writeRecord(this.arena.view(), this.record, GAS, { velocity: [0, 0, 0], scalars: new Array(SCALAR_COUNT).fill(0) })
  }
  /** Lets the room go along with what it rides on, by whole tiles; whether it has. */
  private ride(t: number): boolean {
    const { shift, voxel } = this.plan
    if (!shift) return false
    const first = shift(t).map((x) => Math.round(x / voxel / TILE) * TILE) as [number, number, number]
    if (first.every((x, a) => x === this.room.first[a])) return false
    this.room = { ...this.room, first }
    return true
  }
  /** How many own steps a substep takes: by the fastest place, at most as many as the plan says. */
  private stepsIn(dt: number): number {
    if (this.plan.fixedSteps) return this.plan.steps
    return Math.max(1, Math.min(this.plan.steps, Math.ceil((this.fastest() * dt) / (VOXELS_A_STEP * this.plan.voxel))))
  }
  /** m/s */
  private fastest(): number {
    const nz = (this.fields as Fields).window.count[2]
    writeRecord(this.arena.view(), this.record, GAS, { table: this.table.reserve(nz * 4) })
    this.planes('fastest')
    return this.arena.f32(this.table.at, nz).reduce((a, b) => Math.max(a, b), 0)
  }
  private advance(substep: Substep, dt: number, nth: number, steps: number): void {
    const f = this.fields as Fields
    const p = this.plan.params(substep.at.t0)
    f.describe(this.record, this.plan.burns)
    writeParams(this.arena.view(), this.record, p, dt)
    this.tiles.forget()
    this.withDetail(substep.frame, (d) => d.begin(f))
    this.feeds.feed(substep, f.window, dt, nth, steps)
    this.stored.feed(substep, f, dt)
    this.force(substep, p.vorticity, nth === 0)
    if (this.plan.burns) this.rows('burn')
    this.rows('push')
    this.run('border', 3, 1)
    this.project(substep)
    this.run('border', 3, 1)
    this.move(dt, substep)
    this.rows('fade')
    this.withDetail(substep.frame, (d) => d.carry(this.tiles.flags(f).flags, substep.at.t0))
  }
  /** Forces at the middles of cells, and what keeps eddies alive. Own steps of one substep share the forces of the first. */
  private force(substep: Substep, vorticity: number, first: boolean): void {
    const f = this.fields as Fields
    if (first) {
      this.program.encode(substep, this.record)
      if (!this.program.isEmpty) {
        f.withForces()
        writeRecord(this.arena.view(), this.record, GAS, { forces: f.push.map((x) => x.first) })
        this.rows('ops')
        f.describe(this.record, this.plan.burns)
      }
    }
    writeRecord(this.arena.view(), this.record, GAS, { push: this.program.isEmpty ? [0, 0, 0] : f.push.map((x) => x.first) })
    this.run('begin', f.window.count[2] + 2, 4)
    if (vorticity > 0) {
      this.rows('curl')
      this.rows('confine')
    }
  }
  private project(substep: Substep): void {
    const f = this.fields as Fields
    const pressure = this.pressure as Pressure
    const solid = this.feeds.solidify(substep, f.window, substep.at.dt, this.weighed, () => {
      f.withSolids()
      f.describe(this.record, this.plan.burns)
    })
    if (solid !== 'same') {
      if (solid === 'none' && f.fluid) f.withSolids()
      pressure.weigh()
      this.weighed = true
    }
    if (f.fluid) {
      pressure.rest()
      this.planes('project')
    }
    pressure.begin()
    this.planes('divergence')
    this.leftOver = pressure.solve()
    this.cycles = pressure.cycles
    this.planes('project')
  }
  /** Everything goes along with the velocity that is free of divergence; what was written becomes the state. */
  private move(dt: number, substep: Substep): void {
    const f = this.fields as Fields
    const wanted = this.amounts.afterMoving(f)
    const reach = Math.max(1, Math.ceil((this.fastest() * dt) / (TILE * this.plan.voxel)))
    const flags = this.tiles.markBusy(f, this.fed, reach)
    this.withDetail(substep.frame, (d) => d.stir(flags, substep.at.t0))
    for (let which = 0; which < 4; which++) {
      writeRecord(this.arena.view(), this.record, GAS, { which }, f.moving(which))
      this.rows('forward')
      this.rows('correct')
    }
    f.swap()
    f.describe(this.record, this.plan.burns)
    this.run('border', 3, 1)
    this.amounts.even(f, wanted)
  }
  /** What a frame keeps of it. */
  capture(): VolumePart[] {
    const { voxel, detail } = this.plan
    const room = this.room.first
    const dyes = this.plan.dyes?.length ? { dyes: this.plan.dyes } : {}
    const part = { kind: 'volume' as const, element: this.id, ...dyes, voxel, low: this.plan.low.map((x, a) => x + room[a] * voxel) }
    if (!this.fields) return [{ ...part, tiles: 0, data: new ArrayBuffer(0) }]
    if (this.detail && detail) return [{ ...part, voxel: voxel / detail.factor, ...this.detail.capture(room) }]
    return [{ ...part, ...this.tiles.capture(this.fields, room) }]
  }
  save(): GasState {
    const f = this.fields
    const fields = f?.save() ?? []
    const detail = this.detail?.save() ?? null
    return {
      bytes: fields.reduce((sum, x) => sum + x.byteLength, 0) + (detail?.bytes ?? 0),
      window: f?.window ?? null,
      fields,
      slots: f?.slots ?? [],
      held: this.held,
      room: this.room,
      detail,
      plain: this.plain,
      notices: [...this.notices],
    }
  }
  restore(s: GasState): void {
    this.messages.restore(s.notices)
    this.held = s.held
    this.room = s.room
    this.plain = s.plain
    this.drop()
    this.detail?.clear()
    if (!s.window) return
    const f = this.fieldsIn(s.window)
    f.restore(s.fields, s.slots)
    this.take(f)
    this.withDetail(0, (d) => {
      d.resize(f)
      if (s.detail && d.fits(s.detail)) d.restore(s.detail)
    })
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.fields = null
    this.pressure = null
    this.arena.dispose()
  }
}
