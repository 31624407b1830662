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

interface Work {
  kind: JobKind
  record: number
  count: number
  chunk: number
  /** On all threads. */
  all: boolean
  /** The columns that it goes over. */
  columns?: number
}
/** Runs a job of one kind over a record. Kernels that only read look at no request to stop, and leave nothing half done. */
export function workOn(machine: Machine, job: number, { all, kind, record, count, chunk, columns = 0 }: Work): void {
  const { heap, host } = machine
  heap.u32(job, JOB.bytes / 4).fill(0)
  writeRecord(heap.view(), job, JOB, { kind: JOB_KIND[kind], record, count, chunk, columns, stop: CONTROL.stop, scratch: machine.scratch })
  if (all) host.team.run(job)
  else host.exports.work(job, 0)
}
/** The same. Throws Stopped when it was asked to stop. */
export function runJob(machine: Machine, job: number, work: Work): void {
  workOn(machine, job, work)
  if (wasStopped(machine.heap)) throw new Stopped()
}
