import * as THREE from 'three'
import { type Meshes, stripOwner, systemMatrices } from '../acts'
import { type Frame, type PointsPart, pointColumn, type StripsPart, stripOffsets, stripPoints, unknownPart } from '../engine'
import type { BrushHit } from '../protocol'
import { type Shot, timeOf } from '../shot'
import type { Objects } from './objects'

/** Particles this near to the pointer, in half heights of the picture, are picked before what lies behind them. */
const NEAR = 0.012
/** What is nearer to the lens, m, is not picked. */
const BEHIND_LENS = 0.01

function rayThrough(camera: THREE.Camera, x: number, y: number): THREE.Raycaster {
  const ray = new THREE.Raycaster()
  ray.setFromCamera(new THREE.Vector2(x, y), camera)
  return ray
}
/** The element under a point of the picture (−1…1, y up), or null. */
export function elementAt(
  { objects, camera, shot, meshes, frame }: { objects: Objects; camera: THREE.Camera; shot: Shot; meshes: Meshes; frame: Frame | null },
  x: number,
  y: number,
  aspect: number,
): string | null {
  const hit = rayThrough(camera, x, y).intersectObjects(objects.targets, false)[0]
  const view = new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse)
  let best = NEAR ** 2
  let found: string | null = null
  for (const part of frame?.parts ?? []) {
    switch (part.kind) {
      case 'points': {
        const system = shot.systems.find((s) => s.id === part.element)
        if (!system || !frame) break
        for (const m of systemMatrices(shot, system, timeOf(shot, frame.frame), meshes, frame.parts)) {
          const d = nearestOf(part, new THREE.Matrix4().multiplyMatrices(view, fromRows(m)), x, y, aspect, hit?.distance ?? Infinity)
          if (d >= best) continue
          best = d
          found = part.element
        }
        break
      }
      case 'strips': {
        const owner = frame && stripOwner(shot, part.element, timeOf(shot, frame.frame), meshes, frame.parts)
        for (const m of owner?.matrices ?? []) {
          const d = nearestOfStrips(part, new THREE.Matrix4().multiplyMatrices(view, fromRows(m)), x, y, aspect, hit?.distance ?? Infinity)
          if (d >= best) continue
          best = d
          found = part.element
        }
        break
      }
      case 'volume':
        // It is picked by what feeds it.
        break
      case 'place':
        // The object itself is among those that the ray meets.
        break
      default:
        unknownPart(part)
    }
  }
  return found ?? hit?.object.name ?? null
}
const fromRows = (a: ArrayLike<number>) =>
  new THREE.Matrix4().set(a[0], a[1], a[2], a[3], a[4], a[5], a[6], a[7], a[8], a[9], a[10], a[11], 0, 0, 0, 1)
/** The squared distance on the picture to the nearest particle before a depth. */
function nearestOf(part: PointsPart, toPicture: THREE.Matrix4, x: number, y: number, aspect: number, before: number): number {
  const m = toPicture.elements
  const [px, py, pz] = (['px', 'py', 'pz'] as const).map((c) => pointColumn(part, c))
  let best = Number.POSITIVE_INFINITY
  for (let i = 0; i < part.count; i++) {
    const w = m[3] * px[i] + m[7] * py[i] + m[11] * pz[i] + m[15]
    if (w < BEHIND_LENS || w > before) continue
    const dx = (m[0] * px[i] + m[4] * py[i] + m[8] * pz[i] + m[12]) / w - x
    const dy = ((m[1] * px[i] + m[5] * py[i] + m[9] * pz[i] + m[13]) / w - y) / aspect
    best = Math.min(best, dx * dx + dy * dy)
  }
  return best
}
/** The same to the pieces of strips. */
function nearestOfStrips(part: StripsPart, toPicture: THREE.Matrix4, x: number, y: number, aspect: number, before: number): number {
  const m = toPicture.elements
  const offsets = stripOffsets(part)
  const [px, py, pz] = (['px', 'py', 'pz'] as const).map((c) => stripPoints(part, c))
  let best = Number.POSITIVE_INFINITY
  for (let k = 0; k < part.strips; k++) {
    let [lastX, lastY, known] = [0, 0, false]
    for (let i = offsets[k]; i < offsets[k + 1]; i++) {
      const w = m[3] * px[i] + m[7] * py[i] + m[11] * pz[i] + m[15]
      if (w < BEHIND_LENS || w > before) {
        known = false
        continue
      }
      const dx = (m[0] * px[i] + m[4] * py[i] + m[8] * pz[i] + m[12]) / w - x
      const dy = ((m[1] * px[i] + m[5] * py[i] + m[9] * pz[i] + m[13]) / w - y) / aspect
      // Of a piece the nearest place, of its first point the point.
      const [ex, ey] = known ? [dx - lastX, dy - lastY] : [0, 0]
      const l = ex * ex + ey * ey
      const t = l > 0 ? Math.min(1, Math.max(0, -(lastX * ex + lastY * ey) / l)) : 1
      const [qx, qy] = known ? [lastX + ex * t, lastY + ey * t] : [dx, dy]
      best = Math.min(best, qx * qx + qy * qy)
      lastX = dx
      lastY = dy
      known = true
    }
  }
  return best
}
/**
 * Where a ray through a point of the picture meets an object first; null beside it. What lies in front of it does not count: the brush
 * paints what is chosen.
 */
export function brushOn(objects: Objects, camera: THREE.Camera, id: string, x: number, y: number): BrushHit | null {
  const p = objects.placed(id)
  if (!p) return null
  const hit = rayThrough(camera, x, y).intersectObject(p.mesh, false)[0]
  if (!hit?.face) return null
  const { a, b, c } = hit.face
  const at = p.mesh.geometry.getAttribute('position')
  const [va, vb, vc] = [a, b, c].map((v) => new THREE.Vector3().fromBufferAttribute(at, v))
  const w = THREE.Triangle.getBarycoord(p.mesh.worldToLocal(hit.point.clone()), va, vb, vc, new THREE.Vector3())
  if (!w) return null
  const place = [0, 1, 2].map((k) => p.rest[a * 3 + k] * w.x + p.rest[b * 3 + k] * w.y + p.rest[c * 3 + k] * w.z)
  const scale = Math.cbrt(Math.abs(p.mesh.matrixWorld.determinant()))
  return { place: place as BrushHit['place'], at: hit.point.toArray(), scale }
}
