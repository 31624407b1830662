import { ColliderRecords } from '../contact'
import { Volumes } from '../fields'
import { type Notice, Notices, type VolumePart } from '../frame'
import { Arena, Block, GAS, GAS_STEP, JOB, type Machine, MemoryRefused, runJob, TILE, TILE_GRIDS, writeRecord } from '../memory'
import { OpWriter } from '../ops'
import { AIR_KELVIN, type PlanGas } from '../plan'
import type { Flow, Solver, SolverState, Substep, Take } from '../solver'
import { Feeds } from './feeds'
import { Fields } from './fields'
import { Pressure } from './pressure'
import { cellsOfTiles, markTiles, placeOf, spread } from './tiles'
import { around, type Cells, cellsIn, mostCells, nextWindow } from './window'

export interface GasState extends SolverState {
  window: Cells | null
  /** Velocity and scalars, with the cells around. */
  fields: Float32Array[]
  held: Cells | null
  notices: Notice[]
}
/** Velocity, m/s, and what it carries. */
export const GAS_GRIDS = ['u', 'v', 'w', 'density', 'temperature', 'fuel', 'flame'] as const
export type GasGrid = (typeof GAS_GRIDS)[number]
type Step = keyof typeof GAS_STEP
/** Own steps are as long as the fastest place goes so many voxels. */
const VOXELS_A_STEP = 2.5
/** More than this is not made up for in one step. */
const MOST_EVEN = 1.05
const HALF_BYTES = 2
const CELLS_OF_TILE = TILE ** 3

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
  private readonly most: readonly number[]
  private readonly record: number
  private readonly job: number
  private readonly records: ColliderRecords
  private readonly volumes: Volumes
  private readonly feeds: Feeds
  private readonly ops = new OpWriter()
  private readonly program: Block
  private readonly table: Block
  private readonly packed: Block
  private readonly busy: Block
  private fields: Fields | null = null
  private pressure: Pressure | null = null
  /** The cells that hold something. */
  private held: Cells | null = null
  /** The cells into which something comes in this substep. */
  private fed: Cells[] = []
  /** Whether the pressure knows what is solid in its window. */
  private weighed = false
  /** What is left of the divergence, as a share of what there was, and cycles that it took, of the last step. */
  leftOver = 0
  cycles = 0

  constructor(
    machine: Machine,
    readonly plan: PlanGas,
  ) {
    this.id = plan.id
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.messages = new Notices(plan.id)
    this.most = mostCells(plan.size, plan.voxel)
    this.record = this.arena.take(GAS.bytes)
    this.job = this.arena.take(JOB.bytes)
    this.records = new ColliderRecords(this.machine)
    this.volumes = new Volumes(this.machine)
    this.program = new Block(this.arena)
    this.table = new Block(this.arena)
    this.packed = new Block(this.arena)
    this.busy = new Block(this.arena)
    this.feeds = new Feeds(this.arena, plan, this.most, this.records, (step, table, count) => {
      writeRecord(this.arena.view(), this.record, GAS, { table })
      this.run(step, count, step === 'splat' ? 1 : 8)
    })
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
    const field = f && [...f.velocity, ...f.scalars][GAS_GRIDS.indexOf(name)]
    if (!f || !field) return new Float32Array(0)
    const [nx, ny, nz] = f.window.count
    const all = this.arena.f32(field.at, f.floats)
    const out = new Float32Array(nx * ny * nz)
    for (let k = 0, o = 0; k < nz; k++)
      for (let j = 0; j < ny; j++, o += nx) {
        const at = 1 + (j + 1) * f.row + (k + 1) * f.slab
        out.set(all.subarray(at, at + nx), o)
      }
    return out
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
    this.volumes.begin()
    const dt = at.dt * Math.max(0, this.plan.timeScale?.(at.t0) ?? 1)
    if (!(dt > 0)) return
    this.resize(substep)
    if (!this.fields) return
    const steps = this.stepsIn(dt)
    for (let k = 0; k < steps; k++) this.advance(substep, dt / steps, k, steps)
    this.held = this.cellsHeld()
  }
  /** The window that this substep needs. One that there is no memory for stays as it was, and a notice says so. */
  private resize(substep: Substep): void {
    let held = this.held
    this.fed = [...this.feeds.cells(substep)]
    for (const cells of this.fed) held = around(held, cells)
    const wanted = nextWindow(this.window, held, this.most)
    if (wanted && wanted === this.window) return
    const old = this.fields
    if (!wanted) {
      this.drop()
      return
    }
    try {
      const fresh = this.fieldsIn(wanted)
      if (old) fresh.copyFrom(old)
      this.take(fresh)
      this.run('border', 1, 1)
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      const message = `${this.plan.name} needs ${cellsIn(wanted).toLocaleString('en-US')} voxels: ${error.message}; it goes on in the room that it has: make its voxels larger, or its bounds smaller`
      this.messages.add('memory', substep.frame, message)
    }
  }
  private fieldsIn(window: Cells): Fields {
    return new Fields(this.arena, window, this.plan.burns)
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
    const inside = (k: number) => (k % 2 ? first[k >> 1] + count[k >> 1] < this.most[k >> 1] : first[k >> 1] > 0)
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
    writeRecord(this.arena.view(), this.record, GAS, { velocity: [0, 0, 0], scalars: [0, 0, 0, 0] })
  }
  /** How many own steps a substep takes: by the fastest place, at most as many as the plan says. */
  private stepsIn(dt: number): number {
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
    const left = (half: number | null) => (half === null ? 1 : half > 0 ? 2 ** (-dt / half) : 0)
    f.describe(this.record, this.plan.burns)
    writeRecord(this.arena.view(), this.record, GAS, {
      ...{ dt, air: AIR_KELVIN, lift: p.lift, weight: p.weight, vorticity: p.vorticity, cooling: p.cooling },
      ...{ densityLeft: left(p.densityHalf), heatLeft: left(p.heatHalf), ignition: p.ignition, burnRate: p.burnRate },
      ...{ heat: p.heat, soot: p.soot, expansion: p.expansion, flameLife: p.flameLife },
    })
    this.feeds.feed(substep, f.window, dt, nth, steps)
    this.force(substep, p.vorticity, nth === 0)
    if (this.plan.burns) this.rows('burn')
    this.rows('push')
    this.run('border', 1, 1)
    this.project(substep)
    this.run('border', 1, 1)
    this.move(dt)
    this.rows('fade')
  }
  /** Forces at the middles of cells, and what keeps eddies alive. Own steps of one substep share the forces of the first. */
  private force(substep: Substep, vorticity: number, first: boolean): void {
    const f = this.fields as Fields
    if (first) this.applyForces(substep)
    if (f.push.length && this.ops.count) f.bring(f.push, f.outVelocity)
    else f.clear(f.outVelocity)
    if (vorticity > 0) {
      this.rows('curl')
      this.rows('confine')
    }
  }
  private applyForces(substep: Substep): void {
    const f = this.fields as Fields
    this.ops.clear()
    for (const force of this.plan.forces) force.encode(this.ops, { ...substep.at })
    for (const s of this.ops.surfaces) {
      const record = this.records.target(substep.objects[s.object], { surface: s.pick !== 'middle' })
      this.ops.patch(s.at, record)
      if (!record && !s.optional) this.ops.drop(s.at)
    }
    for (const a of this.ops.airs) this.ops.patch(a.at, substep.airs[a.gas] ?? 0)
    for (const v of this.ops.volumes) this.ops.patch(v.at, this.volumes.of(v))
    for (const x of this.ops.passes) if (!x.optional) this.ops.drop(x.at)
    if (this.ops.count) {
      f.withForces()
      f.clear(f.outVelocity)
      const { words } = this.ops
      const program = this.program.reserve(words.byteLength)
      this.arena.u32(program, words.length).set(words)
      writeRecord(this.arena.view(), this.record, GAS, { ops: program, opCount: this.ops.count })
      this.rows('ops')
      f.bring(f.outVelocity, f.push)
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
  private move(dt: number): void {
    const f = this.fields as Fields
    const before = this.sums()
    this.run('leaving', 1, 1)
    const left = this.doubles(4)
    const hats = f.hats.map((x) => x.first)
    this.markBusy(dt)
    for (let which = 0; which < 4; which++) {
      const outs = which === 3 ? f.outScalars.map((x) => x.first) : [f.outVelocity[which].first]
      const pad = (list: number[]) => [0, 1, 2, 3].map((i) => list[i] ?? 0)
      writeRecord(this.arena.view(), this.record, GAS, { which, hats: pad(hats), outs: pad(outs) })
      this.rows('forward')
      this.rows('correct')
    }
    f.swap()
    f.describe(this.record, this.plan.burns)
    this.run('border', 1, 1)
    this.even(before.map((x, n) => x - left[n]))
  }
  /** The tiles to which what there is may come within a step: those that hold something, and around them as far as the fastest goes. */
  private markBusy(dt: number): void {
    const reach = Math.max(1, Math.ceil((this.fastest() * dt) / (TILE * this.plan.voxel)))
    const { flags, dims } = this.tiles()
    // What comes in may be too little to be seen at first, and must add up.
    for (const c of this.fed) markTiles(flags, dims, c, (this.fields as Fields).window)
    const bytes = spread(Uint8Array.from(flags), dims, reach)
    const at = this.busy.reserve(bytes.length)
    new Uint8Array(this.arena.memory.buffer, at, bytes.length).set(bytes)
    writeRecord(this.arena.view(), this.record, GAS, { busy: at })
  }
  private doubles(count: number): number[] {
    const view = this.arena.view()
    return Array.from({ length: count }, (_, i) => view.getFloat64(this.table.at + i * 8, true))
  }
  /** What there is of each scalar, in cells. */
  private sums(): number[] {
    const nz = (this.fields as Fields).window.count[2]
    writeRecord(this.arena.view(), this.record, GAS, { table: this.table.reserve(nz * 32) })
    this.planes('sum')
    const all = this.doubles(nz * 4)
    return [0, 1, 2, 3].map((n) => all.reduce((s, x, i) => (i % 4 === n ? s + x : s), 0))
  }
  /** Moving by interpolation loses a little and gains a little; what there should be is made up for where there is something. Flame comes and goes. */
  private even(wanted: readonly number[]): void {
    const now = this.sums()
    const by = [0, 1, 2].map((n) => (now[n] > 1e-6 && wanted[n] > 0 ? Math.min(MOST_EVEN, Math.max(1 / MOST_EVEN, wanted[n] / now[n])) : 1))
    this.arena.f32(this.table.at, 4).set([...by, 1])
    this.rows('even')
  }
  /** Whether each tile of the window holds anything, x first. */
  private tiles(): { flags: Uint32Array; dims: number[] } {
    const f = this.fields as Fields
    const dims = f.window.count.map((n) => n / TILE)
    const n = dims[0] * dims[1] * dims[2]
    f.describe(this.record, false)
    writeRecord(this.arena.view(), this.record, GAS, { table: this.table.reserve(n * 4) })
    this.run('tiles', n, 16)
    return { flags: this.arena.u32(this.table.at, n).slice(), dims }
  }
  private cellsHeld(): Cells | null {
    const { flags, dims } = this.tiles()
    return cellsOfTiles(flags, dims, (this.fields as Fields).window)
  }
  /** The tiles that hold something, as half floats. */
  capture(): VolumePart[] {
    const part = { kind: 'volume' as const, element: this.id, voxel: this.plan.voxel, low: [...this.plan.low] }
    if (!this.fields) return [{ ...part, tiles: 0, data: new ArrayBuffer(0) }]
    const { flags, dims } = this.tiles()
    const kept = [...flags.keys()].filter((t) => flags[t])
    const { first } = this.fields.window
    const bytes = kept.length * TILE_GRIDS * CELLS_OF_TILE * HALF_BYTES
    const data = new ArrayBuffer(kept.length * 4 + bytes)
    const places = new Uint32Array(data, 0, kept.length)
    kept.forEach((t, n) => {
      const at = placeOf(t, dims).map((x, a) => x + first[a] / TILE)
      places[n] = at[0] | (at[1] << 10) | (at[2] << 20)
    })
    if (kept.length) {
      const table = this.table.reserve(kept.length * 4)
      const out = this.packed.reserve(bytes)
      this.arena.u32(table, kept.length).set(kept)
      writeRecord(this.arena.view(), this.record, GAS, { table, ops: out })
      this.run('pack', kept.length, 8)
      new Uint8Array(data, kept.length * 4).set(new Uint8Array(this.arena.memory.buffer, out, bytes))
    }
    return [{ ...part, tiles: kept.length, data }]
  }
  save(): GasState {
    const f = this.fields
    const fields = f ? [...f.velocity, ...f.scalars].map((x) => this.arena.f32(x.at, f.floats).slice()) : []
    return {
      bytes: fields.reduce((sum, x) => sum + x.byteLength, 0),
      window: f?.window ?? null,
      fields,
      held: this.held,
      notices: [...this.notices],
    }
  }
  restore(s: GasState): void {
    this.messages.restore(s.notices)
    this.held = s.held
    this.drop()
    if (!s.window) return
    const f = this.fieldsIn(s.window)
    ;[...f.velocity, ...f.scalars].forEach((x, i) => this.arena.f32(x.at, f.floats).set(s.fields[i]))
    this.take(f)
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
