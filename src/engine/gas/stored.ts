import { Notices, VOLUME_TILE, type VolumePart } from '../frame'
import type { StoredGrid } from '../geometry'
import { apply, invert, type Matrix, multiply, toHalf } from '../math'
import { type Machine, MemoryRefused } from '../memory'
import { GAS_DYES, type PlanGas, type StoredAmount, type StoredCopy } from '../plan'
import type { Flow, Solver, SolverState, Substep, Take } from '../solver'
import type { GasField } from './probe'
import { matrixOf, Sampler } from './sampler'
import { type Held, StoredAir } from './storedAir'

const CELLS = VOLUME_TILE ** 3
/** Tiles of a frame at most: 134 million voxels, a gigabyte of a gas with heat and flame. */
const MOST_TILES = 262_144
/** Bits of a coordinate of a tile. */
const BITS = 10
type What = keyof StoredCopy['amounts']
/**
 * A gas that files say: grids at rest or by frames, each where it stands, turned and scaled, and many of them in one. They are taken into its own
 * voxels, trilinear between their samples, so that all light, shadows and what asks for it find one gas: densities, flames and dyes of what
 * overlaps add up, and the hottest says how hot it is.
 */
export class StoredGas implements Solver {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[] = []
  readonly id: string
  private readonly air_: StoredAir | null
  private readonly messages: Notices
  private last: { key: string; held: Held } | null = null
  private frame = 0

  constructor(
    machine: Machine,
    private readonly plan: PlanGas & { stored: NonNullable<PlanGas['stored']> },
  ) {
    this.id = plan.id
    this.air_ = plan.aired ? new StoredAir(machine.heap, plan.voxel) : null
    this.messages = new Notices(plan.id)
  }
  get notices() {
    return this.messages.all
  }
  /** Where its record lies, for who goes along with it. */
  get air(): number {
    return this.air_?.record ?? 0
  }
  /** What it holds and how it moves in the room of now, as a gas that flows has it; null: nobody asks for it. */
  get field(): GasField | null {
    return this.air_
  }
  get bytes(): number {
    return this.air_?.bytes ?? 0
  }
  /** What particles meet in the substep is there before any of them moves. */
  spawn({ at, frame }: Substep): void {
    const { air_: air } = this
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
    const whats: What[] = ['density', 'temperature', 'flame', ...GAS_DYES.filter((d) => plan.dyes?.includes(d))]
    const room = roomOf(copies, plan.voxel)
    if (!room) return { low: [0, 0, 0], dims: [0, 0, 0], tiles: 0, data: new ArrayBuffer(0) }
    const { low, dims } = room
    const { voxel } = plan
    // Places are counted from the middle of the first voxel.
    const toShot = Float64Array.from([voxel, 0, 0, low[0] + voxel / 2, 0, voxel, 0, low[1] + voxel / 2, 0, 0, voxel, low[2] + voxel / 2])
    const toRoom = invert(toShot) as Matrix
    const tiles = new Map<number, Float32Array[]>()
    let full = room.cut
    for (const copy of copies) {
      const grids = new Map<string, { grid: StoredGrid; into: Matrix; back: Matrix } | null>()
      const gridOf = (name: string) => {
        const known = grids.get(name)
        if (known !== undefined) return known
        const grid = copy.volume.read(name)
        const out = grid?.channels === 1 ? multiply(copy.matrix, matrixOf(grid)) : null
        const back = out && invert(out)
        const made = grid && out && back ? { grid, into: multiply(back, toShot), back: multiply(toRoom, out) } : null
        grids.set(name, made)
        return made
      }
      for (const [at, what] of whats.entries()) {
        const amount = copy.amounts[what]
        const g = amount && gridOf(amount.grid)
        if (!g) continue
        for (const key of touched(g.grid, g.back, dims)) {
          let sums = tiles.get(key)
          if (!sums) {
            if (tiles.size >= MOST_TILES) {
              full = true
              continue
            }
            sums = []
            tiles.set(key, sums)
          }
          sums[at] ??= new Float32Array(CELLS)
          add(sums[at], key, g.grid, g.into, amount, what === 'temperature')
        }
      }
    }
    if (full)
      this.messages.add(
        'memory',
        this.frame,
        `${plan.name} is larger than ${1 << BITS} tiles of 8³ voxels along a side or ${MOST_TILES.toLocaleString('en-US')} in all; what is beyond is left out: make its voxels larger`,
      )
    return { low, dims, ...packed(tiles, whats.length) }
  }
  save(): SolverState {
    return { bytes: 0 }
  }
  restore(): void {}
  dispose(): void {
    this.last = null
    this.air_?.dispose()
  }
}
/**
 * The room about all copies: its low corner, and its size in tiles. Its voxels lie as the samples of the first grid do, so that a copy that is
 * neither turned nor scaled is taken as it is.
 */
function roomOf(copies: readonly StoredCopy[], voxel: number): { low: number[]; dims: number[]; cut: boolean } | null {
  const from = [Infinity, Infinity, Infinity]
  const to = [-Infinity, -Infinity, -Infinity]
  let anchor: number[] | null = null
  for (const { volume, matrix, amounts } of copies)
    for (const name of new Set(Object.values(amounts).map((a) => a?.grid ?? ''))) {
      const grid = volume.read(name)
      if (!grid?.count || grid.channels !== 1) continue
      const m = multiply(matrix, matrixOf(grid))
      anchor ??= [...apply(m, 0, 0, 0)]
      const box = Sampler.of(grid).box
      for (let c = 0; c < 8; c++) {
        const p = apply(m, ...([0, 1, 2].map((a) => ((c >> a) & 1 ? box.high[a] : box.low[a])) as [number, number, number]))
        for (let a = 0; a < 3; a++) {
          from[a] = Math.min(from[a], p[a])
          to[a] = Math.max(to[a], p[a])
        }
      }
    }
  if (!anchor) return null
  const edge = anchor.map((v) => v - voxel / 2)
  const first = from.map((v, a) => Math.floor((v - edge[a]) / voxel / VOLUME_TILE + 1e-6))
  const dims = to.map((v, a) => Math.floor((v - edge[a]) / voxel / VOLUME_TILE + 1e-6) - first[a] + 1)
  const most = 1 << BITS
  return {
    low: first.map((v, a) => edge[a] + v * VOLUME_TILE * voxel),
    dims: dims.map((n) => Math.min(most, n)),
    cut: dims.some((n) => n > most),
  }
}
/** Tiles of the room into which a leaf reaches, half a sample beyond its own. */
function touched(grid: StoredGrid, back: Matrix, dims: readonly number[]): Set<number> {
  const out = new Set<number>()
  for (let n = 0; n < grid.count; n++) {
    const from = [Infinity, Infinity, Infinity]
    const to = [-Infinity, -Infinity, -Infinity]
    for (let c = 0; c < 8; c++) {
      const corner = [0, 1, 2].map((a) => grid.origins[n * 3 + a] + ((c >> a) & 1 ? VOLUME_TILE : -1))
      const p = apply(back, corner[0], corner[1], corner[2])
      for (let a = 0; a < 3; a++) {
        from[a] = Math.min(from[a], p[a])
        to[a] = Math.max(to[a], p[a])
      }
    }
    const first = from.map((v) => Math.max(0, Math.floor(Math.ceil(v) / VOLUME_TILE)))
    const last = to.map((v, a) => Math.min(dims[a] - 1, Math.floor(Math.floor(v) / VOLUME_TILE)))
    for (let z = first[2]; z <= last[2]; z++)
      for (let y = first[1]; y <= last[1]; y++) for (let x = first[0]; x <= last[0]; x++) out.add(x | (y << BITS) | (z << (2 * BITS)))
  }
  return out
}
/** Adds a grid to the voxels of a tile; of heat the most counts. */
function add(sums: Float32Array, key: number, grid: StoredGrid, m: Matrix, { times, less = 0 }: StoredAmount, most: boolean): void {
  const sampler = Sampler.of(grid)
  const last = (1 << BITS) - 1
  const [ox, oy, oz] = [key & last, (key >> BITS) & last, key >> (2 * BITS)].map((v) => v * VOLUME_TILE)
  for (let i = 0; i < CELLS; i++) {
    const x = ox + (i & 7)
    const y = oy + ((i >> 3) & 7)
    const z = oz + (i >> 6)
    const v =
      sampler.at(m[0] * x + m[1] * y + m[2] * z + m[3], m[4] * x + m[5] * y + m[6] * z + m[7], m[8] * x + m[9] * y + m[10] * z + m[11]) *
        times -
      less
    if (!(v > 0)) continue
    sums[i] = most ? Math.max(sums[i], v) : sums[i] + v
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
