import type { AssetFacts } from '../hosts/browser/messages'
import type { ObjectDoc } from '../shot'
import { studio } from './store'

/** What is known of an object's mesh: bounds in its own space, parts, triangles. Null while it loads or when it has none. */
export function meshFacts(o: ObjectDoc): AssetFacts | null {
  if (o.shape.kind === 'mesh') return studio().facts[o.shape.asset] ?? null
  if (o.shape.kind === 'plane') {
    const h = o.shape.size / 2
    return { bounds: { min: [-h, 0, -h], max: [h, 0, h] }, parts: [], triangles: 2, closed: false }
  }
  return null
}
