import type { Fields, PASSES, Values } from '../memory'
import { END_LIMITS_CODE, type Op } from './define'
import { FULL, type Share } from './share'

/** A look at neighbours that an op asks for before the substep's forces. */
export interface PassRequest {
  kind: (typeof PASSES)[number]
  /** Its place among the plan's systems; −1: its own. */
  system: number
  radius: number
  /** What its kernel needs. */
  words: number[]
  /** Columns that it leaves. */
  columns: number
  /** Where in the ops the pointer to them belongs, and of more than one behind it their stride. */
  at: number
  /** Without anybody to ask its op says so itself; any other is dropped. */
  optional?: boolean
}
/** A record of an object that an op needs. */
export interface SurfaceRequest {
  at: number
  /** Its place among the plan's objects. */
  object: number
  /** Of a chase: which of its places. */
  pick?: 'nearest' | 'kept' | 'inTurn' | 'middle'
  /** A region of it, whose amounts go behind the record. */
  region?: string
  /** A limit to what is not there lets nothing through, or all, by itself; any other op is dropped. */
  optional?: boolean
}
/** A velocity volume that an op samples: its nodes from the low corner on, `cell` m apart, and the ops that make what flows there in a second. */
export interface VolumeRequest {
  dims: readonly [number, number, number]
  low: readonly [number, number, number]
  cell: number
  words: Uint32Array
  ops: number
  /** Where in the ops the pointer to it belongs. */
  at: number
}

/** The ops of one substep for one system, as the kernels read them. Encoders, one a file, write into it. */
export class OpWriter {
  private f: Float32Array
  private i: Int32Array
  private u: Uint32Array
  private at = 0
  count = 0
  /** What gravity adds up to so far, m/s². */
  weight: [number, number, number] = [0, 0, 0]
  /** What the ops need before they can run: where their pointers belong. */
  passes: PassRequest[] = []
  surfaces: SurfaceRequest[] = []
  volumes: VolumeRequest[] = []
  /** Where pointers to gases belong, by their places among the plan's. */
  airs: { at: number; gas: number }[] = []
  /** Where the number of particles in a phase belongs. */
  counts: { at: number; phase: number }[] = []

  constructor(private buffer: ArrayBuffer = new ArrayBuffer(16384)) {
    this.f = new Float32Array(buffer)
    this.i = new Int32Array(buffer)
    this.u = new Uint32Array(buffer)
  }
  clear(): void {
    this.at = 0
    this.count = 0
    this.weight = [0, 0, 0]
    this.passes = []
    this.surfaces = []
    this.volumes = []
    this.airs = []
    this.counts = []
  }
  /**
   * Writes an op. `tail`: the numbers behind its operands. Returns where it begins, for `wordOf`.
   */
  write<F extends Fields>(op: Op<F>, values: Values<F>, seed = 0, share: Share = FULL, tail?: ArrayLike<number>): number {
    const size = op.words.bytes / 4 + (tail?.length ?? 0)
    this.reserve(size)
    const start = this.at
    this.u[start] = op.code
    this.u[start + 1] = size * 4
    this.f[start + 2] = share.value
    this.f[start + 3] = share.vary
    this.u[start + 4] = seed
    for (const name in values) {
      const { type } = op.words.fields[name]
      const out = type === 'f32' ? this.f : type === 'i32' ? this.i : this.u
      const value = values[name]
      const to = this.wordOf(start, op, name)
      if (typeof value === 'number') out[to] = value
      else out.set(value, to)
    }
    if (tail) this.f.set(tail, start + op.words.bytes / 4)
    this.at += size
    this.count++
    return start
  }
  /** Takes over the ops of another writer behind its own; returns where their words begin. */
  append(other: OpWriter): number {
    const from = this.at
    this.reserve(other.at)
    this.u.set(other.words, from)
    this.at += other.at
    this.count += other.count
    return from
  }
  /** Where a word of an op stands, for requests and `patch`. */
  wordOf<F extends Fields>(start: number, op: Op<F>, name: keyof F): number {
    return start + (op.words[name] as number) / 4
  }
  private reserve(size: number): void {
    if ((this.at + size) * 4 <= this.buffer.byteLength) return
    const grown = new ArrayBuffer(Math.max(this.buffer.byteLength * 2, (this.at + size) * 4))
    new Uint32Array(grown).set(this.u)
    this.buffer = grown
    this.f = new Float32Array(grown)
    this.i = new Int32Array(grown)
    this.u = new Uint32Array(grown)
  }
  /** Puts a pointer, or another word, where it was missing. */
  patch(at: number, word: number): void {
    this.u[at] = word
  }
  /** Makes nothing of an op whose target is not there. It ends the limits before it, as its own end would. */
  drop(at: number): void {
    this.u[this.startOf(at)] = END_LIMITS_CODE
  }
  get words(): Uint32Array {
    return this.u.subarray(0, this.at)
  }
  /** The words without what reads columns of the particles themselves, as neighbours leave them: for probes, which are none of them. */
  get withoutNeighbours(): Uint32Array {
    const words = this.words.slice()
    for (const p of this.passes) words[p.optional ? p.at : this.startOf(p.at)] = p.optional ? 0 : END_LIMITS_CODE
    return words
  }
  /** The words of some ops, from the n-th on up to another, without what reads columns. */
  slice(from: number, to: number): Uint32Array {
    const words = this.withoutNeighbours
    let o = 0
    let begin = 0
    for (let k = 0; k < to; k++) {
      if (k === from) begin = o
      o += words[o + 1] / 4
    }
    return words.subarray(from === to ? o : begin, o)
  }
  private startOf(at: number): number {
    let o = 0
    while (o + this.u[o + 1] / 4 <= at) o += this.u[o + 1] / 4
    return o
  }
}
