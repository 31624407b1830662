import { dequal } from 'dequal'
import type { Shot } from '../shot'

/** Whether values of objects follow others, which may be anywhere in the shot. */
const follows = (objects: Shot['objects']): boolean => JSON.stringify(objects).includes('"modulators":[{')
/**
 * The next state of a shot with the very objects and the very sky of the one before where these are equal. Each change comes as a copy of the
 * whole shot, and what is made of a part (shapes of particles, distances, what is mirrored) is kept by the part itself.
 */
export function withSameParts(before: Shot | null, next: Shot): Shot {
  if (!before) return next
  const { sky } = before.surroundings
  const sameObjects = dequal(before.objects, next.objects) && !follows(next.objects)
  const sameSky = sky && dequal(sky, next.surroundings.sky)
  if (!sameObjects && !sameSky) return next
  return {
    ...next,
    ...(sameObjects ? { objects: before.objects } : {}),
    ...(sameSky ? { surroundings: { ...next.surroundings, sky } } : {}),
  }
}
