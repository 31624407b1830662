import { apply, type Bounds, type Matrix, type WakePlace } from '../../engine'
import type { Vec3 } from '../../shot'

/** Places of the past that make up a wake. */
const PLACES = 40
/** Of one what is left at the next: 2^(−6/40), so that the last has a sixty-fourth. */
const LEFT = 0.9012504626108302

export interface Wake {
  places: WakePlace[]
  /** metres */
  radius: number
  /** The highest speed of the object, m/s, times what is left of it. */
  fastest: number
}
/**
 * The wake at t of an object with a box in its own space, which `from` brings to where the wake is wanted: recomputed from its own path, so
 * it is exact at any frame. `drags`: share of its velocity, 0 to 1; after `decay` seconds half is left; `thickness` m beyond it. Null while
 * it stood still.
 */
export function wakeOf(
  box: Bounds | null,
  from: (t: number) => Matrix,
  t: number,
  { drags, decay, thickness }: { drags: number; decay: number; thickness: number },
): Wake | null {
  const middle: Vec3 = box ? [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, (box.min[2] + box.max[2]) / 2] : [0, 0, 0]
  const where = (s: number): Vec3 => apply(from(s), ...middle)
  // Back to where a sixty-fourth is left; each place stands for the way from the one before.
  const step = (6 * decay) / PLACES
  const places: WakePlace[] = []
  let next = where(t),
    fastest = 0
  let left = 1
  for (let k = 0; k < PLACES; k++, left *= LEFT) {
    const here = where(t - (k + 1) * step)
    const v = next.map((x, a) => (x - here[a]) / step) as Vec3
    const speed = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])
    if (speed > 1e-6) places.push({ place: next, velocity: v.map((x) => x * drags) as Vec3, left })
    fastest = Math.max(fastest, speed * left)
    next = here
  }
  if (!places.length) return null
  const m = from(t)
  const size = box ? Math.max(box.max[0] - box.min[0], box.max[1] - box.min[1], box.max[2] - box.min[2]) / 2 : 0
  const scale = Math.sqrt(
    (m[0] * m[0] + m[1] * m[1] + m[2] * m[2] + m[4] * m[4] + m[5] * m[5] + m[6] * m[6] + m[8] * m[8] + m[9] * m[9] + m[10] * m[10]) / 3,
  )
  return { places, radius: Math.max(1e-6, size * scale + thickness), fastest }
}
