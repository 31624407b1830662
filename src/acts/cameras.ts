import { axesOf, type CameraDoc, type Pose, type Shot, sampleNumber, sampleVec3, type Vec3 } from '../shot'
import { worldMatrix } from './places'

/** Width of the sensor that poses measure lenses by, mm. */
const SENSOR_MM = 36
/** The camera that a shot is seen through. */
export const shotCamera = (shot: Pick<Shot, 'cameras' | 'camera'>): CameraDoc =>
  shot.cameras.find((x) => x.id === shot.camera) ?? shot.cameras[0]
/** Where a camera stands at a moment, and what it sees. What it aims at is where its keys bring it: a thrown object where it was let go. */
export function poseOf(shot: Pick<Shot, 'objects'>, c: CameraDoc, t: number): Pose {
  const aimed = c.aimsAt ? shot.objects.find((o) => o.id === c.aimsAt) : undefined
  const aim = sampleVec3(c.aim, t)
  const m = aimed && worldMatrix(aimed, t)
  const shift = [c.shiftX, c.shiftY].map((v) => (v === undefined ? 0 : sampleNumber(v, t) / 50)) as [number, number]
  const roll = c.roll === undefined ? 0 : sampleNumber(c.roll, t)
  return {
    place: sampleVec3(c.place, t),
    aim: m ? ([0, 1, 2].map((a) => m[a * 4 + 3] + aim[a]) as Vec3) : aim,
    lens: (sampleNumber(c.lens, t) * SENSOR_MM) / (c.sensor ?? SENSOR_MM),
    ...(roll ? { roll } : {}),
    ...(shift[0] || shift[1] ? { shift } : {}),
  }
}
export const shotPose = (shot: Shot, t: number): Pose => poseOf(shot, shotCamera(shot), t)

/**
 * Planes around what the shot's camera sees at t seconds, for a picture `wider` times as wide and high: x, y, z, d each, inside where
 * x·px + y·py + z·pz + d ≥ 0. From the sides of the pyramid itself, so that no angle has to be taken.
 */
export function viewPlanes(shot: Shot, t: number, wider: number): number[][] {
  const pose = shotPose(shot, t)
  const { place: from, shift = [0, 0] } = pose
  const { right, up, forward } = axesOf(pose)
  const half = SENSOR_MM / 2 / pose.lens
  const tall = (half * shot.size.height) / shot.size.width
  const plane = (n: number[]) => [...n, -(n[0] * from[0] + n[1] * from[1] + n[2] * from[2])]
  const side = (axis: Vec3, way: 1 | -1, k: number) => plane(forward.map((f, i) => f * k + way * axis[i]))
  return [
    plane(forward),
    side(right, 1, half * (wider - shift[0])),
    side(right, -1, half * (wider + shift[0])),
    side(up, 1, tall * (wider - shift[1])),
    side(up, -1, tall * (wider + shift[1])),
  ]
}
