import { shapeMesh } from '../acts'
import { boundsOf, isClosed, type Mesh, triangleCount } from '../engine'
import type { AssetFacts } from '../hosts/browser/messages'
import type { ObjectDoc } from '../shot'
import { studio } from './store'

const made = new WeakMap<Mesh, AssetFacts>()
/** What is known of an object's mesh: bounds in its own space, parts, triangles. Null while it loads or when it has none. */
export function meshFacts(o: ObjectDoc): AssetFacts | null {
  if (o.shape.kind === 'mesh') return studio().facts[o.shape.asset] ?? null
  const mesh = shapeMesh(o.shape)
  if (!mesh) return null
  let facts = made.get(mesh)
  if (!facts) made.set(mesh, (facts = { bounds: boundsOf(mesh), parts: mesh.parts, triangles: triangleCount(mesh), closed: isClosed(mesh) }))
  return facts
}
