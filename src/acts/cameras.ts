import {
  axesOf,
  type CameraDoc,
  dot,
  framesPerSecond,
  type LensBlur,
  type Pose,
  type Shot,
  sampleNumber,
  sampleVec3,
  sub,
  type Vec3,
} from '../shot'
import { worldMatrix } from './places'

/** Width of the sensor that poses measure lenses by, mm. */
const SENSOR_MM = 36
/** The camera that a shot is seen through. */
export const shotCamera = (shot: Pick<Shot, 'cameras' | 'camera'>): CameraDoc =>
  shot.cameras.find((x) => x.id === shot.camera) ?? shot.cameras[0]
/** Where a camera stands at a moment, and what it sees. What it aims at is where its keys bring it: a thrown object where it was let go. */
export function poseOf(shot: Pick<Shot, 'objects' | 'rate'>, c: CameraDoc, t: number): Pose {
  const aimed = c.aimsAt ? shot.objects.find((o) => o.id === c.aimsAt) : undefined
  const aim = sampleVec3(c.aim, t)
  const m = aimed && worldMatrix(aimed, t)
  const shift = [c.shiftX, c.shiftY].map((v) => (v === undefined ? 0 : sampleNumber(v, t) / 50)) as [number, number]
  const roll = c.roll === undefined ? 0 : sampleNumber(c.roll, t)
  const pose: Pose = {
    place: sampleVec3(c.place, t),
    aim: m ? ([0, 1, 2].map((a) => m[a * 4 + 3] + aim[a]) as Vec3) : aim,
    lens: (sampleNumber(c.lens, t) * SENSOR_MM) / (c.sensor ?? SENSOR_MM),
    ...(roll ? { roll } : {}),
    ...(shift[0] || shift[1] ? { shift } : {}),
  }
  const blur = blurOf(shot, c, pose, t)
  const turn = c.shutter === null || c.shutter === undefined ? 0 : sampleNumber(c.shutter, t)
  const open = { seconds: turn / 360 / framesPerSecond(shot), samples: c.shutterSamples ?? 12 }
  return { ...pose, ...(blur ? { blur } : {}), ...(turn ? { open } : {}) }
}
/** The focal length over the f-number is the width of the opening; a thin lens that is focused near draws it larger by s / (s − f). */
function blurOf(shot: Pick<Shot, 'objects'>, c: CameraDoc, pose: Pose, t: number): LensBlur | null {
  if (c.aperture === null || c.aperture === undefined) return null
  const { forward } = axesOf(pose)
  const far = (v: Vec3) => dot(sub(v, pose.place), forward)
  const sharp = c.focusAt ? shot.objects.find((o) => o.id === c.focusAt) : undefined
  const m = sharp && worldMatrix(sharp, t)
  const length = sampleNumber(c.lens, t) / 1000
  const focus = Math.max(
    length * 1.01,
    m ? far([m[3], m[7], m[11]]) : c.focus === null || c.focus === undefined ? far(pose.aim) : sampleNumber(c.focus, t),
  )
  const radius = (length / (2 * sampleNumber(c.aperture, t))) * (focus / (focus - length))
  return {
    radius,
    focus,
    blades: c.blades ?? 0,
    turn: sampleNumber(c.bladeTurn ?? 0, t),
    samples: c.lensWay === 'quick' ? 1 : (c.lensSamples ?? 48),
  }
}
/** Width of the circle that a point so far along the way (m) becomes, in pixels of a picture that is so wide: of a thin lens. */
export function blurWidth(pose: Pose, depth: number, width: number): number {
  const { blur } = pose
  return blur ? 2 * blur.radius * (pose.lens / SENSOR_MM) * Math.abs(1 / blur.focus - 1 / depth) * width : 0
}
/** From where to where along the way circles are at most so many pixels wide, m. */
export function sharpFrom(pose: Pose, most: number, width: number): [number, number] {
  const { blur } = pose
  if (!blur) return [0, Number.POSITIVE_INFINITY]
  const k = most / (2 * blur.radius * (pose.lens / SENSOR_MM) * width)
  return [1 / (1 / blur.focus + k), k >= 1 / blur.focus ? Number.POSITIVE_INFINITY : 1 / (1 / blur.focus - k)]
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
