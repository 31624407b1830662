import { systemMatrices } from '../../acts'
import { apply, type Frame, hashOf, type Mesh, partsOf, type Run, stripColumn, stripOffsets, stripPoints, type World } from '../../engine'
import type { Children, Picked } from '../../protocol'
import { type Shot, timeOf, type Vec3 } from '../../shot'

/** So many children of a system are named; the others are counted. */
const NAMED = 12

/** The particle that one was shed by, copied from, or was in its former system; null: it was emitted. */
export function parentOf(world: World, shot: Shot, { system, id }: Picked): Picked | null {
  const columns = world.columnsOf(system)
  if (!columns?.has('parent')) return null
  const i = columns.words('id').indexOf(id)
  const hash = i < 0 ? 0 : columns.value('parentSystem', i)
  const from = hash ? shot.systems.find((s) => hashOf(s.id) === hash) : undefined
  return from ? { system: from.id, id: columns.value('parent', i) } : null
}
/** The ids of those in a system who come from a particle and live. */
function idsFrom(world: World, { system, id }: Picked, into: string): number[] {
  const columns = world.columnsOf(into)
  if (!columns?.has('parent')) return []
  const hash = hashOf(system)
  const [ids, parents, systems] = (['id', 'parent', 'parentSystem'] as const).map((n) => columns.words(n))
  const found: number[] = []
  for (let i = 0; i < parents.length; i++) if (parents[i] === id && systems[i] === hash) found.push(ids[i])
  return found
}
const named = (shot: Shot, idsIn: (system: string) => number[]): Children =>
  shot.systems.flatMap(({ id: system }) => {
    const ids = idsIn(system)
    return ids.length ? [{ system, count: ids.length, ids: ids.slice(0, NAMED) }] : []
  })
/** Those who come from a particle and live, by system. */
export const childrenOf = (world: World, shot: Shot, q: Picked): Children => named(shot, (system) => idsFrom(world, q, system))
/**
 * Those who came from a particle in the frames from one to another and do not live in a later one, by system: frames keep no parents, so they are
 * computed once more. Whoever lived between two frames alone is seen by nobody. Null when the run was asked to stop.
 */
export function diedOf(run: Run, shot: Shot, q: Picked, from: number, to: number, at: number): Children | null {
  const seen = new Map(shot.systems.map((s) => [s.id, new Set<number>()]))
  const look = (world: World) => {
    for (const [system, ids] of seen) for (const id of idsFrom(world, q, system)) ids.add(id)
  }
  if (!run.walk(from, to, look)) return null
  const living = run.explore(at, (world) => new Map([...seen.keys()].map((system) => [system, new Set(idsFrom(world, q, system))])))
  return living && named(shot, (system) => [...(seen.get(system) ?? [])].filter((id) => !living.get(system)?.has(id)))
}
/** The strips that a particle leaves in a frame, each from its end to its head, in the shot. */
export function stripsOf(frame: Frame, shot: Shot, { system, id }: Picked, meshes: ReadonlyMap<string, Mesh>): Vec3[][] {
  const owner = shot.systems.find((s) => s.id === system)
  const m = owner && systemMatrices(shot, owner, timeOf(shot, frame.frame), meshes, frame.parts)[0]
  return partsOf(frame.parts, 'strips')
    .filter((part) => part.element === system)
    .flatMap((part) => {
      const ids = stripColumn(part, 'id')
      const offsets = stripOffsets(part)
      const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => stripPoints(part, n))
      const strips: Vec3[][] = []
      for (let k = 0; k < ids.length; k++) {
        if (ids[k] !== id) continue
        const places: Vec3[] = []
        for (let i = offsets[k]; i < offsets[k + 1]; i++) places.push(m ? (apply(m, x[i], y[i], z[i]) as Vec3) : [x[i], y[i], z[i]])
        strips.push(places)
      }
      return strips
    })
}
