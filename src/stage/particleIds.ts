import * as THREE from 'three'
import { drawnPlaces, drawsOf, type Meshes, partLooks, reliefsOf, systemMatrices } from '../acts'
import { type Frame, partOf, pointColumn } from '../engine'
import { type Shot, timeOf } from '../shot'

export interface ParticleIds {
  /** The id of the nearest particle of each pixel, and the number of its system in the shot from 1 on; 0 where none is. */
  id: Uint32Array
  system: Uint32Array
}
/**
 * Which particle is nearest in each pixel, the top row first: as discs of their size, at least a pixel wide, behind no object. `depth`: of the
 * objects along the way of the camera, m, endless where none is.
 */
export function particleIds(
  { shot, frame, meshes, camera }: { shot: Shot; frame: Frame; meshes: Meshes; camera: THREE.PerspectiveCamera },
  [width, height]: readonly [number, number],
  depth: Float32Array,
): ParticleIds {
  const near = depth.slice()
  const out: ParticleIds = { id: new Uint32Array(width * height), system: new Uint32Array(width * height) }
  const t = timeOf(shot, frame.frame)
  const seen = new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse).elements
  // Pixels of half a metre a metre away.
  const reach = (camera.projectionMatrix.elements[5] * height) / 4
  for (const [n, system] of shot.systems.entries()) {
    const part = partOf(frame.parts, 'points', system.id)
    if (system.muted || !part?.count) continue
    const draws = drawsOf(shot, system, t, frame.parts)
    const places = drawnPlaces(part, reliefsOf(draws))
    const ids = pointColumn(part, 'id')
    for (const m of systemMatrices(shot, system, t, meshes, frame.parts)) {
      const look = partLooks(
        part,
        draws,
        system.phases.map((p) => p.blend),
        m,
      )
      const larger = Math.cbrt(
        Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])),
      )
      for (let i = 0; i < part.count; i++) {
        const { size, opacity } = look(i)
        if (size <= 0 || opacity <= 0) continue
        const [px, py, pz] = [places.x[i], places.y[i], places.z[i]]
        const [x, y, z] = [0, 4, 8].map((r) => m[r] * px + m[r + 1] * py + m[r + 2] * pz + m[r + 3])
        const w = seen[3] * x + seen[7] * y + seen[11] * z + seen[15]
        if (w < camera.near) continue
        const cx = ((seen[0] * x + seen[4] * y + seen[8] * z + seen[12]) / w + 1) * 0.5 * width
        const cy = (1 - (seen[1] * x + seen[5] * y + seen[9] * z + seen[13]) / w) * 0.5 * height
        const radius = Math.max(0.5, (size * larger * reach) / w)
        for (let row = Math.max(0, Math.ceil(cy - radius - 0.5)); row <= Math.min(height - 1, Math.floor(cy + radius - 0.5)); row++) {
          const half = Math.sqrt(Math.max(0, radius * radius - (row + 0.5 - cy) ** 2))
          const last = Math.min(width - 1, Math.max(Math.floor(cx), Math.floor(cx + half - 0.5)))
          for (let column = Math.max(0, Math.min(Math.floor(cx), Math.ceil(cx - half - 0.5))); column <= last; column++) {
            const at = row * width + column
            if (w >= near[at]) continue
            near[at] = w
            out.id[at] = ids[i]
            out.system[at] = n + 1
          }
        }
      }
    }
  }
  return out
}
