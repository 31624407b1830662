import { systemMatrices } from '../../acts'
import { apply, type Frame, hashOf, type Mesh, partsOf, stripColumn, stripOffsets, stripPoints, type World } from '../../engine'
import type { Particle, Picked } from '../../protocol'
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
/** Those who come from a particle and live, by system. */
export function childrenOf(world: World, shot: Shot, { system, id }: Picked): Particle['children'] {
  const hash = hashOf(system)
  return shot.systems.flatMap((s) => {
    const columns = world.columnsOf(s.id)
    if (!columns?.has('parent')) return []
    const [ids, parents, systems] = (['id', 'parent', 'parentSystem'] as const).map((n) => columns.words(n))
    const found: number[] = []
    let count = 0
    for (let i = 0; i < parents.length; i++) if (parents[i] === id && systems[i] === hash && ++count <= NAMED) found.push(ids[i])
    return count ? [{ system: s.id, count, ids: found }] : []
  })
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
