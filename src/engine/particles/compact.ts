import { type Block, COLUMNS, type Columns, JOB, JOB_KIND, type Machine, writeRecord } from '../memory'

/** From so many on, columns are moved on all threads. */
const MANY = 8192

/** Takes the dead out of a table: the living move to the front, in their order. `job`: where the job that does it stands; `map`: takes a word each. */
export function compact({ heap, host }: Machine, job: number, columns: Columns, died: number, map: Block): void {
  const { count } = columns
  if (died === count) {
    columns.count = 0
    return
  }
  const at = map.reserve(columns.capacity * 4)
  const live = host.exports.survivors(columns.pointer('dead'), count, at)
  moveUp({ heap, host }, job, { table: columns.table, columns: COLUMNS.length, live, map: at })
  columns.count = live
}
/** Moves words to the front of all columns of a table: those that stand where `map` says, which only rises. */
export function moveUp(
  { heap, host }: Pick<Machine, 'heap' | 'host'>,
  job: number,
  { table, columns, live, map }: { table: number; columns: number; live: number; map: number },
): void {
  writeRecord(heap.view(), job, JOB, { kind: JOB_KIND.gather, next: 0, count: columns, columns: table, live, map })
  if (live > MANY) host.team.run(job)
  else host.exports.work(job, 0)
}
