import { type FinishView, type Meshes, stuckMiddle } from '../../acts'
import type { Part } from '../../engine'
import { type Pose, type Shot, timeOf } from '../../shot'
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
/** What finishes know of a picture. */
export function finishView({ shot, meshes, parts, t, pose, width, height }: Finished): FinishView {
  const aspect = width / height
  return {
    ...{ t, width, height },
    frame: Math.round(((t - timeOf(shot, 0)) * shot.rate.num) / shot.rate.den),
    seen: (id) => {
      const place = stuckMiddle(shot, id, t, meshes, parts)
      const at = place && project(pose, aspect, place)
      if (!at) return null
      const metre = ((pose.lens / HALF_SENSOR_MM) * aspect) / at.depth / 2
      return { x: (at.x + 1) / 2, y: (at.y + 1) / 2, depth: at.depth, metre }
    },
  }
}
