import { hash3 } from '../math'
import type { GrowthParams } from '../plan'
import { Forest, type Grown, type GrowthRegion } from './forest'
import { amountOn, starts } from './starts'
import type { WalkableMesh } from './walk'

/**
 * Grows all lines of a surface, generation after generation; the same for the same mesh, parameters and seed. `region`: lines begin by its
 * amounts (of each vertex), and end at its edge. Throws Stopped where `stopped` says so.
 */
export function grow(
  surface: WalkableMesh,
  p: GrowthParams,
  seed: number,
  region: GrowthRegion | null = null,
  stopped?: () => boolean,
): Grown {
  const forest = new Forest(surface, p, region)
  const amount = region && amountOn(surface, region.amounts)
  forest.add(
    starts(surface, p, seed, amount, region?.edge ?? 0).map((place, k) => ({ place, seed: hash3(seed, k, 83) })),
    stopped,
  )
  return {
    offsets: Uint32Array.from(forest.offsets),
    generations: Uint8Array.from(forest.generations),
    seeds: Uint32Array.from(forest.seeds),
    since: Float32Array.from(forest.since),
    triangles: Uint32Array.from(forest.triangles),
    b1: Float32Array.from(forest.b1),
    b2: Float32Array.from(forest.b2),
    times: Float32Array.from(forest.times),
    metres: Float32Array.from(forest.metres),
    lasts: forest.lasts,
    stopped: forest.stopped,
  }
}
