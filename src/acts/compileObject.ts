import type { PlanObject } from '../engine'
import { type ObjectDoc, type Shot, sampleNumber } from '../shot'
import { baseMesh, type Meshes } from './baseMesh'
import type { CompileProblem } from './compileContext'
import type { OtherOf } from './copied'
import type { Where } from './forcePlan'
import { regionOf, shapedOf } from './reshaped'
import { usedRegions } from './usedRegions'

/** An object with its shape as births and contacts meet it. */
export function compileObject(
  shot: Shot,
  o: ObjectDoc,
  meshes: Meshes,
  where: Where,
  otherOf: OtherOf,
  problems: CompileProblem[],
): PlanObject {
  const report = (message: string) => void problems.push({ element: o.id, message })
  const base = o.muted ? null : baseMesh(o, meshes, report)
  if (!o.muted && o.shape.kind === 'mesh' && !base) report(`the mesh of ${o.name} is missing; bring its file in again`)
  const endless = !o.muted && o.shape.kind === 'plane' && o.shape.endless
  const plan: PlanObject = {
    ...(o.metBy === 'grid' ? { cells: o.cells } : {}),
    ...(o.sides === 'auto' ? {} : { sides: o.sides }),
    ...(o.thickness === 0 ? {} : { thickness: (t: number) => sampleNumber(o.thickness, t) }),
    id: o.id,
    mesh: base?.mesh ?? null,
    endless,
    matrix: (t, out) => where(o, t, out),
  }
  if (!base?.mesh) return plan
  const used = usedRegions(shot, o.id)
  const shaped = shapedOf(o, base, used.size > 0, otherOf)
  const regions = new Map(o.regions.filter((r) => used.has(r.id)).map((r) => [r.id, regionOf(o, r, shaped, otherOf)]))
  return { ...plan, mesh: shaped.mesh, shape: shaped.at, ...(regions.size ? { regions } : {}) }
}
