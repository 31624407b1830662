// Looking into a system between two substeps, while its state stays as it is.
import { Columns } from './columns'
import type { ColumnName } from './layout'
import { hash3 } from './math'
import type { StepTime } from './plan'
import type { ObjectState } from './objectState'
import type { SystemRun } from './system'

/** No picture asks for more than this, m/s². */
const FAR_TOO_HARD = 1e5

/**
 * What each force adds to the velocity of one particle in the substep that was prepared, as an acceleration in m/s²: with the forces before
 * it already felt, so that they add up to what it really feels. Nothing of the state changes.
 */
export function forcesOn(run: SystemRun, i: number): { id: string; a: [number, number, number] }[] {
  if (!(run.dt > 0)) return []
  // Kernels write four at a time.
  const from = i & ~3,
    n = Math.min(4, run.count - from)
  const kept = run.columns.names.map((name) => run.columns.words(name).slice(from, from + n))
  const speed = () => (['vx', 'vy', 'vz'] as const).map((c) => run.word(c, i))
  let before = speed()
  const out = run.marks.map(({ id, ops }) => {
    run.arm(run.ops.words, ops, from, from + n, run.columns.table)
    run.runJob(false)
    const after = speed()
    const a = after.map((v, k) => (v - before[k]) / run.dt) as [number, number, number]
    before = after
    run.columns.names.forEach((name, k) => run.columns.words(name).set(kept[k], from))
    return { id, a }
  })
  return out
}
/**
 * The acceleration, m/s², of resting particles at places xyz by the forces of the substep that was prepared, without what their neighbours
 * do. `only`: of one force, by its place.
 */
export function probe(run: SystemRun, places: Float32Array, only?: number): Float32Array {
  const n = places.length / 3
  const out = new Float32Array(places.length)
  if (!(run.dt > 0)) return out
  const columns = new Columns(run.heap, run.plan.extraColumns)
  try {
    columns.reserve(n)
    columns.count = n
    for (const name of columns.names) columns.words(name).fill(0)
    const f = (name: ColumnName) => run.heap.f32(columns.pointer(name), n)
    ;(['px', 'py', 'pz'] as const).forEach((name, a) =>
      f(name).forEach((_, i, list) => {
        list[i] = places[i * 3 + a]
      }),
    )
    f('life').fill(1e6)
    columns.words('seed').forEach((_, i, list) => {
      list[i] = hash3(run.plan.seed, i, 40)
    })
    const words = only === undefined ? run.ops.lonely : run.ops.slice(run.marks[only - 1]?.ops ?? 0, run.marks[only].ops)
    run.arm(
      words,
      only === undefined ? (run.marks.at(-1)?.ops ?? 0) : run.marks[only].ops - (run.marks[only - 1]?.ops ?? 0),
      0,
      n,
      columns.table,
    )
    run.runJob(n > 2048)
    ;(['vx', 'vy', 'vz'] as const).forEach((name, a) =>
      f(name).forEach((v, i) => {
        out[i * 3 + a] = v / run.dt
      }),
    )
  } finally {
    columns.dispose()
  }
  return out
}
/**
 * Milliseconds that each force, then moving with all contacts, takes for all particles in the substep that was prepared. The state comes
 * back.
 */
export function timesOf(run: SystemRun, at: StepTime, objects: ObjectState[], now: () => number): { id: string; ms: number }[] {
  if (!run.count || !(run.dt > 0)) return []
  const kept = run.columns.save()
  const time = (ops: number) => {
    const times = [0, 1, 2].map(() => {
      run.arm(run.ops.words, ops, 0, run.count, run.columns.table)
      const start = now()
      run.runJob(run.count > 2048)
      const ms = now() - start
      run.columns.restore(kept)
      return ms
    })
    return Math.min(...times)
  }
  let before = time(0)
  const moving = before
  const out = run.marks.map(({ id, ops }) => {
    const ms = time(ops)
    const own = Math.max(0, ms - before)
    before = Math.max(before, ms)
    return { id, ms: own }
  })
  const colliders = run.records.meet(run.plan.contacts, at.t0, objects, 0)
  if (run.records.colliders.length) run.ops.contact(colliders, run.records.colliders.length)
  const all = time(run.ops.count)
  return [...out, { id: '', ms: moving + Math.max(0, all - before) }]
}
/**
 * Which force is likely to have thrown particles beyond all numbers, by what it does where some are, or would be; null when none is that
 * strong.
 */
export function culprit(run: SystemRun): { id: string; name: string } | null {
  const n = Math.min(16, run.count)
  const places = new Float32Array(Math.max(1, n) * 3)
  for (let i = 0; i < n; i++)
    for (let a = 0; a < 3; a++) places[i * 3 + a] = run.word((['px', 'py', 'pz'] as const)[a], Math.floor((i * run.count) / n))
  let most = 0,
    which = -1
  run.marks.forEach((_, k) => {
    const hardest = probe(run, places, k).reduce((m, v) => Math.max(m, Number.isFinite(v) ? Math.abs(v) : Number.MAX_VALUE), 0)
    if (hardest > most) [most, which] = [hardest, k]
  })
  const force = run.plan.forces.find((f) => f.id === run.marks[which]?.id)
  return force && most > FAR_TOO_HARD ? { id: force.id, name: force.name ?? force.id } : null
}
