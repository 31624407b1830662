import { type FinishView, type Meshes, placedMatrix, posedIn, stuckMiddle } from '../../acts'
import type { Part } from '../../engine'
import { axesOf, dot, type Pose, type Shot, sub, timeOf, type Vec3 } from '../../shot'
import { project } from '../camera'

/** Half the width of the picture plane a focal length before the eye, mm. */
const HALF_SENSOR_MM = 18

export interface Finished {
  shot: Shot
  meshes: Meshes
  parts: readonly Part[]
  t: number
  pose: Pose
  width: number
  height: number
}
/** The inverse of a matrix of three rows, scaled so that what lies before the camera keeps its sign; null where there is none. */
function inverted(a: readonly number[]): number[] | null {
  const minor = (i: number, j: number) => {
    const [r0, r1] = [0, 1, 2].filter((r) => r !== i)
    const [c0, c1] = [0, 1, 2].filter((c) => c !== j)
    return a[r0 * 3 + c0] * a[r1 * 3 + c1] - a[r0 * 3 + c1] * a[r1 * 3 + c0]
  }
  const det = [0, 1, 2].reduce((s, j) => s + (j % 2 ? -1 : 1) * a[j] * minor(0, j), 0)
  if (Math.abs(det) < 1e-12) return null
  return Array.from({ length: 9 }, (_, k) => {
    const [i, j] = [Math.floor(k / 3), k % 3]
    return (((i + j) % 2 ? -1 : 1) * minor(j, i)) / det
  })
}
/** What finishes know of a picture. */
export function finishView({ shot, meshes, parts, t, pose, width, height }: Finished): FinishView {
  const aspect = width / height
  return {
    ...{ t, width, height },
    frame: Math.round(((t - timeOf(shot, 0)) * shot.rate.num) / shot.rate.den),
    step: shot.rate.den / shot.rate.num,
    seen: (id) => {
      const place = stuckMiddle(shot, id, t, meshes, parts)
      const at = place && project(pose, aspect, place)
      if (!at) return null
      const metre = ((pose.lens / HALF_SENSOR_MM) * aspect) / at.depth / 2
      return { x: (at.x + 1) / 2, y: (at.y + 1) / 2, depth: at.depth, metre }
    },
    plane: (id) => {
      const object = shot.objects.find((o) => o.id === id)
      if (!object) return null
      const m = placedMatrix(object, t, posedIn(parts))
      const { right, up, forward } = axesOf(pose)
      const reach = pose.lens / HALF_SENSOR_MM
      const [sx, sy] = pose.shift ?? [0, 0]
      // Its X and Z and its middle, as the camera sees them: across, up and along the way, in homogeneous shares of the picture.
      const columns = [0, 2, 3].map((c) => {
        const v: Vec3 = [m[c], m[4 + c], m[8 + c]]
        const d = c === 3 ? sub(v, pose.place) : v
        const w = dot(d, forward)
        return [(dot(d, right) * reach - sx * w + w) / 2, (dot(d, up) * reach * aspect - sy * w + w) / 2, w]
      })
      return inverted([0, 1, 2].flatMap((row) => columns.map((c) => c[row])))
    },
  }
}
