import { hash3 } from '../math'
import type { ColumnName, Columns } from '../memory'
import type { OpWriter } from '../ops'
import type { PlanSystem } from '../plan'

/** A system whose next substep was prepared. */
export interface Prepared {
  readonly plan: PlanSystem
  readonly ops: OpWriter
  /** How many ops there are up to and with each force. */
  readonly marks: readonly { id: string; ops: number }[]
  readonly dt: number
  readonly count: number
  value(name: ColumnName, i: number): number
  otherColumns(): Columns
  arm(words: Uint32Array, ops: number, from: number, count: number, table: number): void
  runJob(all: boolean): void
}
/** No picture asks for more than this, m/s². */
const FAR_TOO_HARD = 1e5
const PLACE = ['px', 'py', 'pz'] as const
const VELOCITY = ['vx', 'vy', 'vz'] as const

/**
 * The acceleration, m/s², of resting particles at places xyz by the forces of the substep that was prepared, without what their neighbours
 * do. `only`: of one force, by its place.
 */
export function probe(system: Prepared, places: Float32Array, only?: number): Float32Array {
  const n = places.length / 3
  const out = new Float32Array(places.length)
  if (!(system.dt > 0)) return out
  const columns = system.otherColumns()
  try {
    columns.reserve(n)
    columns.count = n
    for (const name of columns.names) columns.words(name).fill(0)
    PLACE.forEach((name, a) => {
      const column = columns.floats(name)
      for (let i = 0; i < n; i++) column[i] = places[i * 3 + a]
    })
    columns.floats('life').fill(1e6)
    const seeds = columns.words('seed')
    for (let i = 0; i < n; i++) seeds[i] = hash3(system.plan.seed, i, 40)
    const upTo = (k: number) => system.marks[k]?.ops ?? 0
    if (only === undefined) system.arm(system.ops.withoutNeighbours, upTo(system.marks.length - 1), 0, n, columns.table)
    else system.arm(system.ops.slice(upTo(only - 1), upTo(only)), upTo(only) - upTo(only - 1), 0, n, columns.table)
    system.runJob(n > 2048)
    VELOCITY.forEach((name, a) => {
      columns.floats(name).forEach((v, i) => {
        out[i * 3 + a] = v / system.dt
      })
    })
  } finally {
    columns.dispose()
  }
  return out
}
/** Which force is likely to have thrown particles to non-finite places, by what it does where some are, or would be; null when none is that strong. */
export function offenderOf(system: Prepared): { id: string; name: string } | null {
  const n = Math.min(16, system.count)
  const places = new Float32Array(Math.max(1, n) * 3)
  for (let i = 0; i < n; i++) for (let a = 0; a < 3; a++) places[i * 3 + a] = system.value(PLACE[a], Math.floor((i * system.count) / n))
  let strongest = 0
  let which = -1
  system.marks.forEach((_, k) => {
    const hardest = probe(system, places, k).reduce((m, v) => Math.max(m, Number.isFinite(v) ? Math.abs(v) : Number.MAX_VALUE), 0)
    if (hardest > strongest) [strongest, which] = [hardest, k]
  })
  const force = system.plan.forces.find((f) => f.id === system.marks[which]?.id)
  return force && strongest > FAR_TOO_HARD ? { id: force.id, name: force.name ?? force.id } : null
}
