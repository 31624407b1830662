import { apply, invert, type Matrix } from '../../engine'
import type { Pose } from '../../protocol'
import type { Vec3 } from '../../shot'
import { axesOf, dot, rayThrough } from '../../stage/camera'

/** A place in the picture (0 to 1, y down) on the plane that faces the camera through `through`, in the shot. */
export function onPlane(pose: Pose, aspect: number, x: number, y: number, through: Vec3): Vec3 {
  const { from, along } = rayThrough(pose, aspect, x * 2 - 1, 1 - y * 2)
  const { forward } = axesOf(pose)
  const k = dot([through[0] - from[0], through[1] - from[1], through[2] - from[2]], forward) / dot(along, forward)
  return [from[0] + along[0] * k, from[1] + along[1] * k, from[2] + along[2] * k]
}
/** From the shot to an object's own space, to a tenth of a millimetre; null for one scaled to nothing. */
export function intoOwn(matrix: Matrix, at: Vec3): Vec3 | null {
  const inverse = invert(matrix)
  return inverse && (apply(inverse, ...at).map((v) => Math.round(v * 1e4) / 1e4) as Vec3)
}
