import type { Vec3 } from './animated'

/** From where a picture is seen, and how. */
export interface Pose {
  place: Vec3
  aim: Vec3
  /** Focal length on a sensor 36 mm wide, mm. */
  lens: number
  /** Degrees about the way it looks; without: 0, upright. */
  roll?: number
  /** How far the picture is cut out beside the middle of what the lens sees, in halves of its width and its height; without: not. */
  shift?: [number, number]
  /** Without: everything is sharp. */
  blur?: LensBlur
  /** Without: a moment alone is seen. */
  open?: ShutterOpen
}
/** A shutter that is open for so many seconds, half of them before the moment of the picture; parts of that time that are looked at. */
export interface ShutterOpen {
  seconds: number
  samples: number
}
/** How many pictures one is gathered from. */
export const looksOfPose = (p: Pose): number => Math.max(p.blur?.samples ?? 1, p.open?.samples ?? 1)
/** A lens that is open: radius of its opening, m, scaled as a thin lens draws, and how far along its way is sharp, m; the blades of its iris, 0 for a round one. */
export interface LensBlur {
  radius: number
  focus: number
  blades: number
  /** Degrees. */
  turn: number
  /** Places of the lens that are looked from. */
  samples: number
}
export const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
export const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
export const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
export const unit = (a: Vec3): Vec3 => {
  const l = Math.sqrt(dot(a, a)) || 1
  return [a[0] / l, a[1] / l, a[2] / l]
}
/** Right, up and forward of a pose. Straight up or down, the picture's up is −Z or +Z. */
export function axesOf(p: Pose): { right: Vec3; up: Vec3; forward: Vec3 } {
  const level = levelAxes(p)
  if (!p.roll) return level
  // Clockwise as seen along the way it looks: its right goes down.
  const [c, s] = [Math.cos((p.roll * Math.PI) / 180), Math.sin((p.roll * Math.PI) / 180)]
  const { right, up, forward } = level
  const turned = (a: number, b: number) => [0, 1, 2].map((i) => right[i] * a + up[i] * b) as Vec3
  return { right: turned(c, -s), up: turned(s, c), forward }
}
/** Its axes before it is rolled. */
export function levelAxes(p: Pose): { right: Vec3; up: Vec3; forward: Vec3 } {
  const forward = unit(sub(p.aim, p.place))
  const steep = Math.abs(forward[1]) > 0.99999
  const right = unit(cross(forward, steep ? [0, 0, forward[1] > 0 ? 1 : -1] : [0, 1, 0]))
  return { right, up: cross(right, forward), forward }
}
