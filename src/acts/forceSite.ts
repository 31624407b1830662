import { type Bounds, boundsOf, identity, invert, type Matrix, multiply, type PlanObject } from '../engine'
import type { ObjectDoc, Shot } from '../shot'
import { viewPlanes } from './cameras'
import type { ForceSite } from './define'
import { planesIn } from './places'
import { isLine } from './shapes'

/** A path is followed by at most this many straight pieces: each particle looks at all of them. */
const MOST_PIECES = 256

/** What the forces of one system may ask of the shot; everything in the space in which it simulates. */
export function forceSite(
  shot: Shot,
  s: { id: string; space: string | null },
  objects: readonly PlanObject[],
  where: (o: ObjectDoc, t: number) => Matrix,
): ForceSite {
  const space = shot.objects.find((o) => o.id === s.space)
  const indexOf = (id: string | null) => (id ? shot.objects.findIndex((o) => o.id === id && !o.muted) : -1)
  // From the shot into the space; one that is scaled to nothing cannot be entered, and the system runs in the shot.
  const into = (t: number): Matrix => (space && invert(where(space, t))) || identity()
  const boxes = new Map<string, Bounds | null>()
  return {
    index: indexOf,
    gas: (id) => shot.gases.findIndex((g) => g.id === (id ?? s.id) && !g.muted),
    view(t, wider) {
      const planes = viewPlanes(shot, t, wider)
      return space ? planesIn(planes, where(space, t)) : planes
    },
    system(id) {
      const i = shot.systems.findIndex((x) => x.id === id && !x.muted)
      return i < 0 ? null : shot.systems[i].id === s.id ? -1 : i
    },
    from(id, t) {
      const i = indexOf(id)
      const own = i >= 0 ? where(shot.objects[i], t) : null
      return space ? (own ? multiply(into(t), own) : into(t)) : (own ?? identity())
    },
    box(id) {
      if (!id) return null
      if (!boxes.has(id)) {
        const mesh = objects[indexOf(id)]?.mesh
        boxes.set(id, mesh?.positions.length ? boundsOf(mesh) : null)
      }
      return boxes.get(id) ?? null
    },
    line(id, t) {
      const i = indexOf(id)
      const o = objects[i]
      if (!o?.mesh || !isLine(shot.objects[i].shape)) return null
      const places = o.shape ? o.shape(t) : o.mesh.positions
      const m = this.from(id, t)
      const last = places.length / 3 - 1
      const every = Math.ceil(last / MOST_PIECES)
      const out = new Float32Array((Math.floor((last - 1) / every) + 2) * 3)
      for (let k = 0, v = 0; k < out.length; k += 3, v = Math.min(last, v + every)) {
        const [x, y, z] = places.subarray(v * 3, v * 3 + 3)
        for (let a = 0; a < 3; a++) out[k + a] = m[a * 4] * x + m[a * 4 + 1] * y + m[a * 4 + 2] * z + m[a * 4 + 3]
      }
      return out
    },
  }
}
