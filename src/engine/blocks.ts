import type { Heap } from './heap'
import type { KernelHost } from './kernels'
import { CONTROL, JOB } from './layout'

/** A block that grows and is given back with the rest. */
export class Block {
  at = 0
  private bytes = 0
  constructor(private heap: Heap) {}
  /** Room for so many bytes; what was there is gone when it grew. */
  room(bytes: number): number {
    if (bytes > this.bytes) {
      this.free()
      this.at = this.heap.take(Math.ceil(bytes * 1.25))
      this.bytes = Math.ceil(bytes * 1.25)
    }
    return this.at
  }
  free(): void {
    if (this.at) this.heap.give(this.at)
    this.at = this.bytes = 0
  }
}
/** Runs a job of one kind over a record; false when it was asked to stop. */
export function runJob(
  heap: Heap,
  host: KernelHost,
  job: number,
  scratch: number,
  o: { kind: number; record: number; count: number; chunk: number; all: boolean },
): boolean {
  const v = heap.view()
  new Uint8Array(heap.memory.buffer, job, JOB.bytes).fill(0)
  v.setInt32(job + JOB.count, o.count, true)
  v.setInt32(job + JOB.chunk, o.chunk, true)
  v.setUint32(job + JOB.stop, CONTROL.stop, true)
  v.setUint32(job + JOB.scratch, scratch, true)
  v.setUint32(job + JOB.kind, o.kind, true)
  v.setUint32(job + JOB.record, o.record, true)
  if (o.all) host.team.run(job)
  else host.exports.work(job, 0)
  return heap.view().getUint32(CONTROL.stop, true) === 0
}
