import { Arena, type Block, type Columns, JOB, type Machine, PASS, PASSES, runJob, writeRecord } from '../memory'
import type { PassRequest, VolumeRequest } from '../ops'
import type { Flow, Solver, SolverState, Take } from '../solver'
import { Grid } from './grid'
import { Volumes } from './volumes'

const CHUNK = 256
/** Passes that ask nobody how fast it is: copies of velocities are half of what a grid writes. */
const STILL: ReadonlySet<PassRequest['kind']> = new Set(['counting', 'closest'])

/** What several solvers read of each other at one moment: passes over neighbours, with one grid for all that ask for the same radius, and velocity volumes. */
export class Neighbourhood implements Solver {
  readonly gives: readonly Flow[] = ['fields']
  readonly takes: readonly Take[] = []
  private arena: Arena
  private machine: Machine
  private volumes: Volumes
  private pool: Grid[] = []
  private used = 0
  private now = new Map<string, Grid>()
  private job: number
  private record: number
  constructor(
    readonly id: string,
    machine: Machine,
  ) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.job = this.arena.take(JOB.bytes)
    this.record = this.arena.take(PASS.bytes)
    this.volumes = new Volumes(this.machine)
  }
  /** Forgets the grids of the moment before; volumes stay while they stay the same. */
  prepare(): void {
    this.now.clear()
    this.used = 0
    this.volumes.begin()
  }
  step(): void {
    // It is asked by those who step.
  }
  volume(request: VolumeRequest): number {
    return this.volumes.of(request)
  }
  /** Velocity volumes filled so far. */
  get volumesFilled(): number {
    return this.volumes.filled
  }
  private grid(key: string, make: (g: Grid) => void): Grid {
    const known = this.now.get(key)
    if (known) return known
    if (this.used === this.pool.length) this.pool.push(new Grid(this.machine))
    const g = this.pool[this.used++]
    make(g)
    this.now.set(key, g)
    return g
  }
  /**
   * Fills `out` for all particles that ask. Bytes from one of its columns to the next come back, how many had too many neighbours, and the grid's record.
   * `key`: a name for the particles that are asked.
   */
  pass(request: PassRequest, asking: Columns, asked: Columns, key: string, out: Block) {
    const count = asking.count
    const stride = Math.ceil((count + 8) / 4) * 16
    const at = out.reserve(stride * request.columns)
    const radius = Math.min(request.radius, 1e6)
    const ordered = request.kind === 'ordered'
    const moves = !STILL.has(request.kind)
    const grid = ordered
      ? this.grid(`${key} all`, (g) => g.list(asked))
      : this.grid(`${key} ${radius}${moves ? '' : ' still'}`, (g) => g.build(asked, radius, moves))
    const { heap } = this.machine
    const own = asking === asked && !ordered ? 1 : 0
    const words = { grid: grid.record, kind: PASSES.indexOf(request.kind), out: at, stride, asking: asking.table, count, own }
    writeRecord(heap.view(), this.record, PASS, words, { words: request.words })
    runJob(this.machine, this.job, { kind: 'neighbours', record: this.record, count, chunk: CHUNK, all: count > CHUNK })
    return { stride, crowded: heap.view().getUint32(this.job + JOB.crowded, true), grid: grid.record }
  }
  capture(): [] {
    return []
  }
  save(): SolverState {
    return { bytes: 0 }
  }
  restore(): void {
    // It holds nothing from one moment to the next that could not be made again.
  }
  get bytes(): number {
    return this.arena.usedBytes
  }
  dispose(): void {
    this.arena.dispose()
  }
}
