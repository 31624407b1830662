import { type Allocator, Block, GAS, type GAS_STEP, SCALAR_COUNT, writeRecord } from '../memory'
import type { Fields } from './fields'

/** More than this is not made up for in one step. */
const MOST_EVEN = 1.05
const FLAME = 3

/** How much of each scalar a gas holds, in cells, kept through moving: interpolation loses a little and gains a little. */
export class Amounts {
  private readonly table: Block

  constructor(
    private heap: Allocator,
    private record: number,
    private run: (step: keyof typeof GAS_STEP, count: number, chunk: number) => void,
  ) {
    this.table = new Block(heap)
  }
  private doubles(count: number): number[] {
    const view = this.heap.view()
    return Array.from({ length: count }, (_, i) => view.getFloat64(this.table.at + i * 8, true))
  }
  private sums(f: Fields): number[] {
    const nz = f.window.count[2]
    writeRecord(this.heap.view(), this.record, GAS, { table: this.table.reserve(nz * SCALAR_COUNT * 8) })
    this.run('sum', nz, 4)
    const all = this.doubles(nz * SCALAR_COUNT)
    return Array.from({ length: SCALAR_COUNT }, (_, n) => all.reduce((s, x, i) => (i % SCALAR_COUNT === n ? s + x : s), 0))
  }
  /** What there should be after the step that is about to move it: what there is, without what leaves through open sides. */
  afterMoving(f: Fields): number[] {
    const before = this.sums(f)
    this.run('leaving', SCALAR_COUNT, 1)
    const left = this.doubles(SCALAR_COUNT)
    return before.map((x, n) => x - left[n])
  }
  /** Makes up for what moving lost or gained, where there is something. Flame comes and goes. */
  even(f: Fields, wanted: readonly number[]): void {
    const now = this.sums(f)
    const by = now.map((x, n) =>
      n !== FLAME && x > 1e-6 && wanted[n] > 0 ? Math.min(MOST_EVEN, Math.max(1 / MOST_EVEN, wanted[n] / x)) : 1,
    )
    this.heap.f32(this.table.at, SCALAR_COUNT).set(by)
    const [, ny, nz] = f.window.count
    this.run('even', ny * nz, 32)
  }
}
