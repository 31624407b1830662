import { fractal, type PointsPart, pointColumn } from '../engine'
import type { ReliefDrawing } from './drawing'
import { sampleTable } from './lookTables'

/** So many of them a section may have. */
export const MOST_RELIEFS = 8
export interface Places {
  x: Float32Array
  y: Float32Array
  z: Float32Array
}
type V3 = [number, number, number]

/** Where a place is drawn, with reliefs one after the other, in the system's own space. Noise is read where the place is before any of them. */
export function relieved(reliefs: readonly ReliefDrawing[], place: Readonly<V3>): V3 {
  const p: V3 = [...place]
  for (const r of reliefs) {
    const share = r.height ? sampleTable(r.height.curve, (place[1] - r.height.from) / (r.height.to - r.height.from || 1e-9)) : 1
    const noise = (k: number) => fractal(r.seed + k, place[0] / r.size, place[1] / r.size, place[2] / r.size, r.octaves, r.phase, r.period)
    if (r.along === 'every') {
      for (let a = 0; a < 3; a++) p[a] += share * r.amount * noise(a)
    } else {
      const by = share * (r.lift + (r.amount ? r.amount * noise(0) : 0))
      if (r.along === 'x' || r.along === 'y' || r.along === 'z') p['xyz'.indexOf(r.along)] += by
      else {
        const up = r.along === 'middle' ? place[1] : 0
        const far = Math.hypot(place[0], up, place[2])
        if (far > 0) {
          p[0] += (place[0] / far) * by
          p[1] += (up / far) * by
          p[2] += (place[2] / far) * by
        }
      }
    }
    if (r.twist) {
      const [c, s] = [Math.cos(r.twist * p[1]), Math.sin(r.twist * p[1])]
      ;[p[0], p[2]] = [c * p[0] + s * p[2], c * p[2] - s * p[0]]
    }
  }
  return p
}
const known = new WeakMap<PointsPart, { key: string; places: Places }>()
/** Where the particles of a part are drawn: the same arrays while nothing changes. `reliefs`: of each phase. */
export function drawnPlaces(part: PointsPart, reliefs: readonly (readonly ReliefDrawing[])[]): Places {
  const [x, y, z] = (['px', 'py', 'pz'] as const).map((n) => pointColumn(part, n) as Float32Array)
  const plain = reliefs.every((r) => !r.length)
  const key = plain ? '' : JSON.stringify(reliefs)
  const old = known.get(part)
  if (old?.key === key) return old.places
  const places: Places = plain ? { x, y, z } : { x: x.slice(), y: y.slice(), z: z.slice() }
  if (!plain) {
    const phase = pointColumn(part, 'phase')
    for (let i = 0; i < part.count; i++) {
      const own = reliefs[phase[i]]
      if (!own?.length) continue
      const p = relieved(own, [x[i], y[i], z[i]])
      places.x[i] = p[0]
      places.y[i] = p[1]
      places.z[i] = p[2]
    }
  }
  known.set(part, { key, places })
  return places
}
