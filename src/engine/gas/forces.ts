import type { ColliderRecords } from '../contact'
import { Volumes } from '../fields'
import { type Allocator, Block, GAS, type Machine, writeRecord } from '../memory'
import { OpWriter } from '../ops'
import type { ForcePlan } from '../plan'
import type { Substep } from '../solver'

/** The program of the forces that move a gas. */
export class Forces {
  private readonly ops = new OpWriter()
  private readonly volumes: Volumes
  private readonly program: Block

  constructor(
    private heap: Allocator,
    machine: Machine,
    private plan: readonly ForcePlan[],
    private records: ColliderRecords,
  ) {
    this.volumes = new Volumes(machine)
    this.program = new Block(heap)
  }
  begin(): void {
    this.volumes.begin()
  }
  /** Whether there is anything in the newest program. */
  get isEmpty(): boolean {
    return !this.ops.count
  }
  /** Writes the program of a substep, and into the gas's record where it lies. Those that lack what they need are left out. */
  encode(substep: Substep, gas: number): void {
    const { ops } = this
    ops.clear()
    for (const force of this.plan) force.encode(ops, { ...substep.at })
    for (const s of ops.surfaces) {
      const record = this.records.target(substep.objects[s.object], { surface: s.pick !== 'middle' })
      ops.patch(s.at, record)
      if (!record && !s.optional) ops.drop(s.at)
    }
    for (const a of ops.airs) ops.patch(a.at, substep.airs[a.gas] ?? 0)
    for (const v of ops.volumes) ops.patch(v.at, this.volumes.of(v))
    for (const x of ops.passes) if (!x.optional) ops.drop(x.at)
    if (!ops.count) return
    const { words } = ops
    const program = this.program.reserve(words.byteLength)
    this.heap.u32(program, words.length).set(words)
    writeRecord(this.heap.view(), gas, GAS, { ops: program, opCount: ops.count })
  }
}
