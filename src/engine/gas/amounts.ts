import { type Allocator, Block, GAS, type GAS_STEP, writeRecord } from '../memory'
import type { Fields } from './fields'

/** More than this is not made up for in one step. */
const MOST_EVEN = 1.05

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
    writeRecord(this.heap.view(), this.record, GAS, { table: this.table.reserve(nz * 32) })
    this.run('sum', nz, 4)
    const all = this.doubles(nz * 4)
    return [0, 1, 2, 3].map((n) => all.reduce((s, x, i) => (i % 4 === n ? s + x : s), 0))
  }
  /** What there should be after the step that is about to move it: what there is, without what leaves through open sides. */
  afterMoving(f: Fields): number[] {
    const before = this.sums(f)
    this.run('leaving', 1, 1)
    const left = this.doubles(4)
    return before.map((x, n) => x - left[n])
  }
  /** Makes up for what moving lost or gained, where there is something. Flame comes and goes. */
  even(f: Fields, wanted: readonly number[]): void {
    const now = this.sums(f)
    const by = [0, 1, 2].map((n) => (now[n] > 1e-6 && wanted[n] > 0 ? Math.min(MOST_EVEN, Math.max(1 / MOST_EVEN, wanted[n] / now[n])) : 1))
    this.heap.f32(this.table.at, 4).set([...by, 1])
    const [, ny, nz] = f.window.count
    this.run('even', ny * nz, 32)
  }
}
