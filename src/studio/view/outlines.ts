import type { Outline } from '../../acts'
import { apply, type Matrix } from '../../engine'
import type { Vec3 } from '../../shot'
import { cross, unit } from '../../stage/camera'
import { along, onScreen, type Screen } from './MoveHandle'

const STEPS = 48
const TURN = Array.from({ length: STEPS + 1 }, (_, i) => [Math.cos((i / STEPS) * 2 * Math.PI), Math.sin((i / STEPS) * 2 * Math.PI)])

/** An SVG path through places of the shot; it breaks off where one is behind the camera. */
export function pathOf(screen: Screen, places: readonly Vec3[]): string {
  let d = ''
  let pen = false
  for (const w of places) {
    const p = onScreen(screen, w)
    d += p ? `${pen ? 'L' : 'M'}${p.x.toFixed(1)},${p.y.toFixed(1)}` : ''
    pen = !!p
  }
  return d
}
/** A circle around a place, across a unit axis. */
export function ring(place: Vec3, axis: Vec3, radius: number): Vec3[] {
  const a = unit(cross(axis, Math.abs(axis[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0]))
  const b = cross(axis, a)
  return TURN.map(([c, s]) => along(along(place, a, radius * c), b, radius * s))
}
/** An outline as lines in the shot. */
export function linesOf(o: Outline, m: Matrix): Vec3[][] {
  switch (o.shape) {
    case 'line':
      return [o.points.map(([x, y, z]) => apply(m, x, y, z))]
    case 'box':
      return boxLines(m, o.middle, o.half)
    case 'ball': {
      const at = (x: number, y: number, z: number): Vec3 =>
        apply(m, o.middle[0] + o.radius * x, o.middle[1] + o.radius * y, o.middle[2] + o.radius * z)
      return [TURN.map(([c, s]) => at(c, 0, s)), TURN.map(([c, s]) => at(c, s, 0)), TURN.map(([c, s]) => at(0, c, s))]
    }
  }
}
const CORNERS = [
  [-1, -1],
  [1, -1],
  [1, 1],
  [-1, 1],
]
/** The edges of a box of half sizes about a place, flat when it has no height. */
function boxLines(m: Matrix, middle: Vec3, half: Vec3): Vec3[][] {
  const at = (x: number, y: number, z: number): Vec3 => apply(m, middle[0] + x * half[0], middle[1] + y * half[1], middle[2] + z * half[2])
  const face = (y: number) => [...CORNERS, CORNERS[0]].map(([x, z]) => at(x, y, z))
  return half[1] > 0 ? [face(-1), face(1), ...CORNERS.map(([x, z]) => [at(x, -1, z), at(x, 1, z)])] : [face(-1)]
}
