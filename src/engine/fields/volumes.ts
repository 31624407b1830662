import { Block, JOB, type Machine, runJob, VOLUME, writeRecord } from '../memory'
import type { VolumeRequest } from '../ops'

/** Fewer nodes than this are filled on one thread. */
const FEW = 4096
const same = (a: Uint32Array, b: Uint32Array) => a.length === b.length && a.every((w, i) => w === b[i])

interface Kept {
  request: VolumeRequest
  data: Block
  ops: Block
  /** The moment that asked for it last. */
  moment: number
}
/**
 * Velocity volumes: filled when a system first asks for one at a moment, shared by all that ask for the same, and kept for as
 * long as what flows there stays the same.
 */
export class Volumes {
  private kept: Kept[] = []
  private moment = 0
  private job: number
  /** How many grids were filled so far. */
  filled = 0
  constructor(private machine: Machine) {
    this.job = machine.heap.take(JOB.bytes)
  }
  /** Goes on to the next moment; what nobody asked for at the last one is given back. */
  begin(): void {
    for (const k of this.kept) if (k.moment < this.moment) this.free(k)
    this.kept = this.kept.filter((k) => k.moment === this.moment)
    this.moment++
  }
  /** A pointer to the volume, ready to be sampled. Throws MemoryRefused, and Stopped. */
  of(request: VolumeRequest): number {
    const fits = (k: Kept) =>
      k.request.cell === request.cell &&
      k.request.dims.every((d, a) => d === request.dims[a]) &&
      k.request.low.every((d, a) => d === request.low[a])
    const known = this.kept.find((k) => fits(k) && same(k.request.words, request.words))
    if (known) {
      known.moment = this.moment
      return known.data.at
    }
    let k = this.kept.find((x) => x.moment < this.moment && fits(x)) ?? this.kept.find((x) => x.moment < this.moment)
    if (!k) {
      const { heap } = this.machine
      k = { request, data: new Block(heap), ops: new Block(heap), moment: this.moment }
      this.kept.push(k)
    }
    k.request = request
    k.moment = this.moment
    try {
      this.fill(k)
    } catch (error) {
      this.free(k)
      this.kept = this.kept.filter((x) => x !== k)
      throw error
    }
    return k.data.at
  }
  private fill({ request, data, ops }: Kept): void {
    const { heap } = this.machine
    const { dims, low, cell } = request
    const nodes = dims[0] * dims[1] * dims[2]
    const at = data.reserve(VOLUME.bytes + nodes * 16)
    const program = ops.reserve(request.words.byteLength + 16)
    heap.u32(program, request.words.length).set(request.words)
    writeRecord(heap.view(), at, VOLUME, { dims, low, inverse: 1 / cell, cell, ops: program, opCount: request.ops })
    this.filled++
    runJob(this.machine, this.job, { kind: 'volume', record: at, count: nodes, chunk: 256, all: nodes > FEW })
  }
  private free(k: Kept): void {
    k.data.free()
    k.ops.free()
  }
  dispose(): void {
    for (const k of this.kept) this.free(k)
    this.kept = []
    this.machine.heap.give(this.job)
  }
}
