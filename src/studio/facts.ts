import { builtKey, shapeMesh } from '../acts'
import { type Bounds, boundsOf, isClosed, type Mesh, triangleCount } from '../engine'
import type { AssetFacts } from '../protocol'
import type { ObjectDoc } from '../shot'
import { studio } from './store'

/** Bounds of a file's mesh in metres and Y up. */
export function boundsAsTaken(b: Bounds, s: { unit: number; up: 'y' | 'z' }): Bounds {
  const k = s.unit
  return s.up === 'z'
    ? { min: [b.min[0] * k, b.min[2] * k, -b.max[1] * k], max: [b.max[0] * k, b.max[2] * k, -b.min[1] * k] }
    : { min: [b.min[0] * k, b.min[1] * k, b.min[2] * k], max: [b.max[0] * k, b.max[1] * k, b.max[2] * k] }
}
const made = new WeakMap<Mesh, AssetFacts>()
/** What is known of an object's mesh: bounds in its own space, parts, triangles. Null while it loads or when it has none. */
export function meshFacts(o: ObjectDoc): AssetFacts | null {
  if (o.shape.kind === 'mesh') {
    const s = o.shape
    const facts = studio().facts[s.asset]
    return facts ? { ...facts, bounds: boundsAsTaken(facts.bounds, s) } : null
  }
  const key = builtKey(o.shape)
  if (key) return studio().facts[key] ?? null
  const mesh = shapeMesh(o.shape)
  if (!mesh) return null
  let facts = made.get(mesh)
  if (!facts)
    made.set(
      mesh,
      (facts = {
        bounds: boundsOf(mesh),
        parts: mesh.parts,
        triangles: triangleCount(mesh),
        closed: isClosed(mesh),
        lengthS: 0,
        tinted: false,
      }),
    )
  return facts
}
