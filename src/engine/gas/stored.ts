import { grouped } from '../../shot'
import { Notices, type VolumePart } from '../frame'
import { toHalf } from '../math'
import { type Machine, MemoryRefused } from '../memory'
import { GAS_DYES, type PlanGas, type StoredCopy } from '../plan'
import type { Flow, Solver, SolverState, Substep, Take } from '../solver'
import type { GasField } from './probe'
import { BITS, CELLS, MOST_TILES, type Quantity, resample, roomOf } from './resample'
import { type Held, StoredAir } from './storedAir'

/**
 * A gas that files say: grids at rest or by frames, each where it stands, turned and scaled, and many of them in one. They are taken into its own
 * voxels, trilinear between their samples, so that all light, shadows and what asks for it find one gas: densities, flames and dyes of what
 * overlaps add up, and the hottest says how hot it is.
 */
export class StoredGas implements Solver {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = []
  readonly id: string
  private readonly dense: StoredAir | null
  private readonly messages: Notices
  private last: { key: string; held: Held } | null = null
  private frame = 0

  constructor(
    machine: Machine,
    private readonly plan: PlanGas & { stored: NonNullable<PlanGas['stored']> },
  ) {
    this.id = plan.id
    this.dense = plan.sampled ? new StoredAir(machine.heap, plan.voxel) : null
    this.messages = new Notices(plan.id)
  }
  get notices() {
    return this.messages.all
  }
  /** Where its record lies, for who goes along with it. */
  get air(): number {
    return this.dense?.record ?? 0
  }
  /** What it holds and how it moves in the room of now, as a gas that flows has it; null: nobody asks for it. */
  get field(): GasField | null {
    return this.dense
  }
  get bytes(): number {
    return this.dense?.bytes ?? 0
  }
  /** What particles meet in the substep is there before any of them moves. */
  spawn({ at, frame }: Substep): void {
    const { dense: air } = this
    if (!air) return
    const { key, copies } = this.plan.stored(at.t0)
    if (air.key === key) return
    try {
      air.fill(key, copies, this.taken(copies), this.plan.dyes ?? [])
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      air.clear(key)
      this.messages.add('memory', frame, `${this.plan.name} carries no particles: ${error.message}; make its voxels larger`)
    }
  }
  prepare(): void {}
  step(substep: Substep): void {
    this.frame = substep.frame
  }
  capture(t: number): VolumePart[] {
    const { plan } = this
    const { key, copies } = plan.stored(t)
    if (this.last?.key !== key) this.last = { key, held: this.taken(copies) }
    const dyes = plan.dyes?.length ? { dyes: plan.dyes } : {}
    const { low, tiles, data } = this.last.held
    return [{ kind: 'volume', element: this.id, ...dyes, voxel: plan.voxel, low, tiles, data }]
  }
  /** What the copies put into voxels, in a room about them all. */
  private taken(copies: readonly StoredCopy[]): Held {
    const { plan } = this
    const quantities: Quantity[] = ['density', 'temperature', 'flame', ...GAS_DYES.filter((d) => plan.dyes?.includes(d))]
    const room = roomOf(copies, plan.voxel)
    if (!room) return { low: [0, 0, 0], dims: [0, 0, 0], tiles: 0, data: new ArrayBuffer(0) }
    const { tiles, cut } = resample(copies, quantities, room, plan.voxel)
    if (cut)
      this.messages.add(
        'memory',
        this.frame,
        `${plan.name} is larger than ${1 << BITS} tiles of 8³ voxels along a side or ${grouped(MOST_TILES)} in all; what is beyond is left out: make its voxels larger`,
      )
    return { low: room.low, dims: room.dims, ...packed(tiles, quantities.length) }
  }
  save(): SolverState {
    return { bytes: 0 }
  }
  restore(): void {}
  dispose(): void {
    this.last = null
    this.dense?.dispose()
  }
}
/** As halves, without tiles that hold nothing. */
function packed(tiles: ReadonlyMap<number, readonly (Float32Array | undefined)[]>, grids: number): Omit<Held, 'low' | 'dims'> {
  const kept = [...tiles.entries()].filter(([, sums]) => sums.some((s) => s?.some((v) => v > 0))).sort(([a], [b]) => a - b)
  const data = new ArrayBuffer(kept.length * (4 + grids * CELLS * 2))
  const places = new Uint32Array(data, 0, kept.length)
  const halves = new Uint16Array(data, kept.length * 4)
  for (const [n, [key, sums]] of kept.entries()) {
    places[n] = key
    for (let g = 0; g < grids; g++) {
      const from = sums[g]
      if (!from) continue
      const at = (n * grids + g) * CELLS
      for (let i = 0; i < CELLS; i++) if (from[i] > 0) halves[at + i] = toHalf(from[i])
    }
  }
  return { tiles: kept.length, data }
}
