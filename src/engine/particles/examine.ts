// Looking into a system between two substeps, while its state stays as it is.
import { encodeContact } from '../ops'
import type { StepTime } from '../plan'
import type { ParticleSystem } from './particleSystem'

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
