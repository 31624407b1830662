import { type Allocator, GAS, SCALAR_COUNT, writeRecord } from '../memory'
import { type Cells, shared } from './window'

/** One grid of floats with a cell around it. */
export interface Field {
  /** Its block. */
  at: number
  /** Its first cell inside. */
  first: number
}
/** The cells of a field without those around, x first. */
export function insideOf(all: Float32Array, [nx, ny, nz]: readonly number[], row: number, slab: number): Float32Array {
  const out = new Float32Array(nx * ny * nz)
  for (let k = 0, o = 0; k < nz; k++)
    for (let j = 0; j < ny; j++, o += nx) {
      const at = 1 + (j + 1) * row + (k + 1) * slab
      out.set(all.subarray(at, at + nx), o)
    }
  return out
}
/** The grids of a gas in one window, and where they lie: fields that carry over, and those that a step works with. */
export class Fields {
  readonly row: number
  readonly slab: number
  readonly floats: number
  velocity: Field[]
  scalars: Field[]
  hats: Field[]
  /** The largest values that moving may give. Vorticity lies there before. */
  highs: Field[]
  /** Where the next state is written; forces and vorticity lie there before. */
  outVelocity: Field[]
  outScalars: Field[]
  expand: Field | null
  fluid: Field | null = null
  solid: Field[] = []
  /** What forces do, for all own steps of a substep. */
  push: Field[] = []

  constructor(
    private heap: Allocator,
    readonly window: Cells,
    /** Which of the scalars it has: their places in the gas's record, in order. */
    readonly slots: readonly number[],
    burns: boolean,
  ) {
    const [nx, ny, nz] = window.count
    this.row = nx + 2
    this.slab = this.row * (ny + 2)
    // Vectors read a little beyond the last row.
    this.floats = this.slab * (nz + 2) + 16
    const scalars = slots.length
    const made: Field[] = []
    const take = (n: number) =>
      Array.from({ length: n }, () => {
        const f = this.take()
        made.push(f)
        return f
      })
    try {
      this.velocity = take(3)
      this.scalars = take(scalars)
      this.hats = take(scalars)
      this.highs = take(Math.max(2, scalars))
      this.outVelocity = take(3)
      this.outScalars = take(scalars)
      this.expand = burns ? take(1)[0] : null
    } catch (error) {
      for (const f of made) heap.give(f.at)
      throw error
    }
  }
  private take(): Field {
    const at = this.heap.take(this.floats * 4)
    return { at, first: at + (1 + this.row + this.slab) * 4 }
  }
  /** Room for what is solid; nothing is yet. */
  withSolids(): void {
    if (!this.fluid) {
      this.fluid = this.take()
      this.solid = [this.take(), this.take(), this.take()]
    }
    this.heap.f32(this.fluid.at, this.floats).fill(1)
    for (const s of this.solid) this.heap.f32(s.at, this.floats).fill(0)
  }
  /** Room for what forces do. */
  withForces(): void {
    if (!this.push.length) this.push = [this.take(), this.take(), this.take()]
  }
  /** What was written becomes the state. */
  swap(): void {
    ;[this.velocity, this.outVelocity] = [this.outVelocity, this.velocity]
    ;[this.scalars, this.outScalars] = [this.outScalars, this.scalars]
  }
  /** Of what carries over, the part that another window shares. */
  copyFrom(other: Fields): void {
    const { first, count } = shared(this.window, other.window)
    const pairs = [...this.velocity, ...this.scalars].map((f, i) => [f, [...other.velocity, ...other.scalars][i]] as const)
    for (const [to, from] of pairs) {
      const a = this.heap.f32(to.at, this.floats)
      const b = this.heap.f32(from.at, other.floats)
      for (let k = 0; k < count[2]; k++)
        for (let j = 0; j < count[1]; j++) {
          const o = this.indexOf(first[0], first[1] + j, first[2] + k)
          const p = other.indexOf(first[0], first[1] + j, first[2] + k)
          a.set(b.subarray(p, p + count[0]), o)
        }
    }
  }
  /** A copy of a field without the cells around, x first. */
  inside(field: Field): Float32Array {
    return insideOf(this.heap.f32(field.at, this.floats), this.window.count, this.row, this.slab)
  }
  /** Copies of all that carries over: velocity, and the scalars of its slots. */
  save(): Float32Array[] {
    return [...this.velocity, ...this.scalars].map((x) => this.heap.f32(x.at, this.floats).slice())
  }
  /** Takes what was saved in the same window. It may come from before a change of the gas: a scalar that it did not have is nothing. */
  restore(saved: readonly Float32Array[], slots: readonly number[]): void {
    this.velocity.forEach((x, a) => this.heap.f32(x.at, this.floats).set(saved[a]))
    this.scalars.forEach((x, i) => {
      const nth = slots.indexOf(this.slots[i])
      const to = this.heap.f32(x.at, this.floats)
      if (nth < 0) to.fill(0)
      else to.set(saved[this.velocity.length + nth])
    })
  }
  /** The place of a cell, counted over all that the gas may have, in a field's floats. */
  indexOf(i: number, j: number, k: number): number {
    const { first } = this.window
    return 1 + i - first[0] + (1 + j - first[1]) * this.row + (1 + k - first[2]) * this.slab
  }
  /** Pointers of its scalars at their places in the record. */
  slotted(pointers: readonly number[]): number[] {
    const out = new Array<number>(SCALAR_COUNT).fill(0)
    this.slots.forEach((slot, i) => {
      out[slot] = pointers[i]
    })
    return out
  }
  /**
   * Where what is moved goes: the forward step, its bounds and what comes of it, of a component of velocity in the first place, or of all scalars.
   * The forward step of velocity reaches to the sides of the window, where a scalar's is nothing: they have fields of their own for it.
   */
  moving(which: number): { hats: number[]; highs: number[]; outs: number[] } {
    const one = ({ first }: Field) => [first, ...new Array<number>(SCALAR_COUNT - 1).fill(0)]
    const all = (fields: readonly Field[]) => this.slotted(fields.map((f) => f.first))
    return which === 3
      ? { hats: all(this.hats), highs: all(this.highs), outs: all(this.outScalars) }
      : { hats: one(this.highs[1]), highs: one(this.hats[0]), outs: one(this.outVelocity[which]) }
  }
  /** Writes where everything lies into the gas's record. */
  describe(record: number, expand: boolean): void {
    const at = (list: readonly Field[], n: number) => Array.from({ length: n }, (_, i) => list[i]?.first ?? 0)
    const slotted = (list: readonly Field[]) => this.slotted(list.slice(0, this.slots.length).map((f) => f.first))
    writeRecord(this.heap.view(), record, GAS, {
      dims: this.window.count,
      row: this.row,
      slab: this.slab,
      velocity: at(this.velocity, 3),
      scalars: slotted(this.scalars),
      hats: slotted(this.hats),
      highs: slotted(this.highs),
      outs: slotted(this.outScalars),
      fluid: this.fluid?.first ?? 0,
      solid: at(this.solid, 3),
      forces: at(this.outVelocity, 3),
      // The amount of vorticity is read across borders: it lies in a field around which nothing was ever written.
      curl: [this.outScalars[0].first, this.outScalars[1].first, this.hats[1].first, this.highs[0].first],
      expand: expand ? (this.expand?.first ?? 0) : 0,
    })
  }
  dispose(): void {
    const all = [
      ...this.velocity,
      ...this.scalars,
      ...this.hats,
      ...this.highs,
      ...this.outVelocity,
      ...this.outScalars,
      ...this.solid,
      ...this.push,
    ]
    for (const f of [...all, this.expand, this.fluid]) if (f) this.heap.give(f.at)
  }
}
