import { axesOf, cross, dot, levelAxes, type Pose, sub, unit, type Vec3 } from '../shot'

export { poseOf, shotPose } from '../acts'
export { axesOf, cross, dot, unit }

/** How far a camera is rolled whose picture's up is this, degrees. */
export function rollOf(p: Pose, up: Vec3): number {
  const level = levelAxes(p)
  return (Math.atan2(dot(up, level.right), dot(up, level.up)) * 180) / Math.PI
}
/** Distance of the picture plane in units of half the picture's width. */
const reach = (p: Pose) => p.lens / 18

/** World to picture: x and y in −1…1 (y up) and the depth in metres; null behind the camera. */
export function project(p: Pose, aspect: number, w: Vec3): { x: number; y: number; depth: number } | null {
  const { right, up, forward } = axesOf(p)
  const d = sub(w, p.place)
  const depth = dot(d, forward)
  if (depth < 1e-4) return null
  const [sx, sy] = p.shift ?? [0, 0]
  return { x: (dot(d, right) / depth) * reach(p) - sx, y: (dot(d, up) / depth) * reach(p) * aspect - sy, depth }
}
/** The ray through a point of the picture (−1…1, y up). */
export function rayThrough(p: Pose, aspect: number, x: number, y: number): { from: Vec3; along: Vec3 } {
  const { right, up, forward } = axesOf(p)
  const k = 1 / reach(p)
  if (p.shift) return rayThrough({ ...p, shift: undefined }, aspect, x + p.shift[0], y + p.shift[1])
  return { from: p.place, along: unit([0, 1, 2].map((i) => forward[i] + right[i] * x * k + up[i] * y * (k / aspect)) as Vec3) }
}
/** Turns a pose around its aim by angles in radians. */
export function orbit(p: Pose, yaw: number, pitch: number): Pose {
  const d = sub(p.place, p.aim)
  const r = Math.sqrt(dot(d, d))
  const now = Math.atan2(d[0], d[2])
  const high = Math.asin(Math.max(-1, Math.min(1, d[1] / r)))
  const el = Math.max(-1.55, Math.min(1.55, high + pitch))
  const az = now + yaw
  return {
    ...p,
    place: [p.aim[0] + r * Math.cos(el) * Math.sin(az), p.aim[1] + r * Math.sin(el), p.aim[2] + r * Math.cos(el) * Math.cos(az)],
  }
}
/**
 * What a pose looks at, seen along an axis of the shot from as far away as shows as much of it: through a long lens, so that what is nearer is
 * hardly larger.
 */
export function fromSide(p: Pose, way: Vec3): Pose {
  const lens = 200
  const far = (Math.sqrt(dot(sub(p.place, p.aim), sub(p.place, p.aim))) * lens) / p.lens
  return { place: p.aim.map((v, i) => v + way[i] * far) as Vec3, aim: [...p.aim], lens }
}
/** Moves a pose sideways; dx and dy in half picture widths at the distance of the aim. */
export function pan(p: Pose, dx: number, dy: number): Pose {
  const { right, up } = axesOf(p)
  const r = Math.sqrt(dot(sub(p.place, p.aim), sub(p.place, p.aim))) / reach(p)
  const m = [0, 1, 2].map((i) => -right[i] * dx * r + up[i] * dy * r) as Vec3
  return { ...p, place: p.place.map((v, i) => v + m[i]) as Vec3, aim: p.aim.map((v, i) => v + m[i]) as Vec3 }
}
/** Closer by a factor below 1, farther above. */
export const zoom = (p: Pose, factor: number): Pose => ({ ...p, place: p.aim.map((a, i) => a + (p.place[i] - a) * factor) as Vec3 })
/** The same view direction, moved so that the ball around a box just fits into the picture. */
export function frameBox(p: Pose, aspect: number, min: Vec3, max: Vec3): Pose {
  const aim = min.map((v, i) => (v + max[i]) / 2) as Vec3
  const radius = Math.max(0.05, Math.sqrt(dot(sub(max, min), sub(max, min))) / 2)
  const { forward } = axesOf(p)
  // A ball touches the sides of a cone at radius / sin(half angle); k is the cotangent of the narrower one.
  const k = reach(p) * Math.max(1, aspect)
  const distance = radius * Math.sqrt(1 + k * k) * 1.04
  return { ...p, aim, place: aim.map((v, i) => v - forward[i] * distance) as Vec3 }
}
