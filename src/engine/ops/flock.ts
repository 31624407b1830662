import { encodePass } from './addColumns'
import { FULL } from './share'
import type { OpWriter } from './writer'

/**
 * Apart (m/s² at no distance, within `room` m), aligned (1/s), together (m/s² at the radius) with its own system; sees within half the view
 * angle, as a cosine.
 */
export function encodeFlock(
  w: OpWriter,
  p: { radius: number; room: number; cosView: number; apart: number; align: number; together: number; dt: number },
  seed = 0,
  share = FULL,
): void {
  const words = [p.radius * p.radius, p.room, p.cosView, p.apart, p.align, p.together, p.dt]
  encodePass(w, { kind: 'flock', system: -1, radius: p.radius, words, columns: 3 }, seed, share)
}
