// Looking into a system between two substeps, while its state stays as it is.
import { hash3 } from '../math'
import { encodeContact } from '../ops'
import type { StepTime } from '../plan'
import type { ParticleSystem } from './particleSystem'

/** No picture asks for more than this, m/s². */
const FAR_TOO_HARD = 1e5
const PLACE = ['px', 'py', 'pz'] as const
const VELOCITY = ['vx', 'vy', 'vz'] as const

/**
 * What each force adds to the velocity of one particle in the substep that was prepared, as an acceleration in m/s²: with the forces before
 * it already felt, so that they add up to what it really feels. Nothing of the state changes.
 */
export function forcesOn(system: ParticleSystem, i: number): { id: string; a: [number, number, number] }[] {
  if (!(system.dt > 0)) return []
  const { columns } = system
  // Kernels write four at a time.
  const from = i & ~3
  const n = Math.min(4, system.count - from)
  const kept = columns.names.map((name) => columns.words(name).slice(from, from + n))
  const velocity = () => VELOCITY.map((c) => system.value(c, i))
  let before = velocity()
  return system.marks.map(({ id, ops }) => {
    system.arm(system.ops.words, ops, from, from + n, columns.table)
    system.runJob(false)
    const after = velocity()
    const a = after.map((v, k) => (v - before[k]) / system.dt) as [number, number, number]
    before = after
    columns.names.forEach((name, k) => columns.words(name).set(kept[k], from))
    return { id, a }
  })
}
/**
 * The acceleration, m/s², of resting particles at places xyz by the forces of the substep that was prepared, without what their neighbours
 * do. `only`: of one force, by its place.
 */
export function probe(system: ParticleSystem, places: Float32Array, only?: number): Float32Array {
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
/** Milliseconds that each force, then moving with all contacts, takes for all particles in the substep that was prepared. The state comes back. */
export function timesOf(system: ParticleSystem, at: StepTime, now: () => number): { id: string; ms: number }[] {
  if (!system.count || !(system.dt > 0)) return []
  const kept = system.columns.save()
  const time = (ops: number) => {
    const times = [0, 1, 2].map(() => {
      system.arm(system.ops.words, ops, 0, system.count, system.columns.table)
      const start = now()
      system.runJob(system.count > 2048)
      const ms = now() - start
      system.columns.restore(kept)
      return ms
    })
    return Math.min(...times)
  }
  let before = time(0)
  const moving = before
  const out = system.marks.map(({ id, ops }) => {
    const ms = time(ops)
    const own = Math.max(0, ms - before)
    before = Math.max(before, ms)
    return { id, ms: own }
  })
  const colliders = system.records.collect(system.plan.contacts, at.t0, system.seen, 0)
  if (system.records.colliders.length) encodeContact(system.ops, colliders, system.records.colliders.length)
  const all = time(system.ops.count)
  return [...out, { id: '', ms: moving + Math.max(0, all - before) }]
}
/** Which force is likely to have thrown particles to non-finite places, by what it does where some are, or would be; null when none is that strong. */
export function offenderOf(system: ParticleSystem): { id: string; name: string } | null {
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
