import { MemoryRefused } from './errors'
import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { JOB, JOB_VOLUME, VOLUME } from './layout'
import { Block, runJob } from './blocks'
import type { VolumeWanted } from './ops'

/** Fewer nodes than this are made on one thread. */
const FEW = 4096
const same = (a: Uint32Array, b: Uint32Array) => a.length === b.length && a.every((w, i) => w === b[i])

interface Kept {
  wanted: VolumeWanted
  data: Block
  ops: Block
  /** The moment that asked for it last. */
  moment: number
}
/**
 * The velocity volumes of one World: made when a system first asks for one at a moment, shared by all that ask for the same, and kept for
 * as long as what flows there stays the same.
 */
export class Volumes {
  private kept: Kept[] = []
  private moment = 0
  private job: number
  /** How many grids were filled so far. */
  filled = 0
  constructor(
    private heap: Heap,
    private host: KernelHost,
    private scratch: number,
  ) {
    this.job = heap.take(JOB.bytes)
  }
  /** Goes on to the next moment; what nobody asked for at the last one is given back. */
  begin(): void {
    for (const k of this.kept) if (k.moment < this.moment) this.free(k)
    this.kept = this.kept.filter((k) => k.moment === this.moment)
    this.moment++
  }
  /** A pointer to the volume, ready to be sampled; 0 when it was asked to stop. Throws MemoryRefused. */
  of(wanted: VolumeWanted): number {
    const equal = (k: Kept) =>
      k.wanted.cell === wanted.cell &&
      k.wanted.dims.every((d, a) => d === wanted.dims[a]) &&
      k.wanted.low.every((d, a) => d === wanted.low[a])
    const known = this.kept.find((k) => equal(k) && same(k.wanted.words, wanted.words))
    if (known) {
      known.moment = this.moment
      return known.data.at
    }
    let k = this.kept.find((x) => x.moment < this.moment && equal(x)) ?? this.kept.find((x) => x.moment < this.moment)
    if (!k) {
      k = { wanted, data: new Block(this.heap), ops: new Block(this.heap), moment: this.moment }
      this.kept.push(k)
    }
    k.wanted = wanted
    k.moment = this.moment
    try {
      if (this.fill(k)) return k.data.at
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      this.drop(k)
      throw error
    }
    this.drop(k)
    return 0
  }
  private fill({ wanted, data, ops }: Kept): boolean {
    const nodes = wanted.dims[0] * wanted.dims[1] * wanted.dims[2]
    const at = data.room(VOLUME.data + nodes * 16)
    const recipe = ops.room(wanted.words.byteLength + 16)
    this.heap.u32(recipe, wanted.words.length).set(wanted.words)
    const v = this.heap.view()
    for (let a = 0; a < 3; a++) {
      v.setInt32(at + VOLUME.dims + a * 4, wanted.dims[a], true)
      v.setFloat32(at + VOLUME.low + a * 4, wanted.low[a], true)
    }
    v.setFloat32(at + VOLUME.inverse, 1 / wanted.cell, true)
    v.setFloat32(at + VOLUME.cell, wanted.cell, true)
    v.setUint32(at + VOLUME.ops, recipe, true)
    v.setInt32(at + VOLUME.opCount, wanted.ops, true)
    this.filled++
    return runJob(this.heap, this.host, this.job, this.scratch, {
      kind: JOB_VOLUME,
      record: at,
      count: nodes,
      chunk: 256,
      all: nodes > FEW,
    })
  }
  private free(k: Kept): void {
    k.data.free()
    k.ops.free()
  }
  private drop(k: Kept): void {
    this.free(k)
    this.kept = this.kept.filter((x) => x !== k)
  }
  dispose(): void {
    for (const k of this.kept) this.free(k)
    this.kept = []
    this.heap.give(this.job)
  }
}
