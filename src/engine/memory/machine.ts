import { Stopped } from './errors'
import type { Allocator } from './heap'
import { CONTROL, JOB, JOB_KIND, type JobKind } from './layout'
import { writeRecord } from './record'
import type { KernelHost } from './team'

/** What a solver computes with: memory, kernels, and the scratch of all threads. */
export interface Machine {
  readonly heap: Allocator
  readonly host: KernelHost
  readonly scratch: number
}
export const wasStopped = (heap: Allocator): boolean => heap.view().getUint32(CONTROL.stop, true) !== 0

/** Runs a job of one kind over a record. `all`: on all threads. Throws Stopped when it was asked to stop. */
export function runJob(
  machine: Machine,
  job: number,
  o: { kind: JobKind; record: number; count: number; chunk: number; all: boolean },
): void {
  const { heap, host } = machine
  new Uint8Array(heap.memory.buffer, job, JOB.bytes).fill(0)
  writeRecord(heap.view(), job, JOB, {
    count: o.count,
    chunk: o.chunk,
    stop: CONTROL.stop,
    scratch: machine.scratch,
    kind: JOB_KIND[o.kind],
    record: o.record,
  })
  if (o.all) host.team.run(job)
  else host.exports.work(job, 0)
  if (wasStopped(heap)) throw new Stopped()
}
