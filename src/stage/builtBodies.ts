import type { BuiltBody } from '../acts'
import { box, cone, evenSphere, type Mesh } from '../engine'

/** Faces as corners of one list; flat. */
function faceted(corners: readonly (readonly number[])[], faces: readonly (readonly number[])[]): Mesh {
  return {
    positions: Float32Array.from(corners.flat()),
    normals: null,
    indices: Uint32Array.from(faces.flat()),
    parts: [],
  }
}
const OCTA = [
  [0, 2, 4],
  [2, 1, 4],
  [1, 3, 4],
  [3, 0, 4],
  [2, 0, 5],
  [1, 2, 5],
  [3, 1, 5],
  [0, 3, 5],
]
const R = 0.5 / Math.sqrt(3)
const made = new Map<BuiltBody, Mesh>()
const MAKE: Record<BuiltBody, () => Mesh> = {
  tetra: () =>
    faceted(
      [
        [R, R, R],
        [-R, -R, R],
        [-R, R, -R],
        [R, -R, -R],
      ],
      [
        [0, 2, 1],
        [0, 1, 3],
        [0, 3, 2],
        [1, 2, 3],
      ],
    ),
  cube: () => box(1, 1, 1),
  octa: () =>
    faceted(
      [
        [0.5, 0, 0],
        [-0.5, 0, 0],
        [0, 0, -0.5],
        [0, 0, 0.5],
        [0, 0.5, 0],
        [0, -0.5, 0],
      ],
      OCTA,
    ),
  ball: () => evenSphere(0.5, 2),
  plate: () => {
    const m = cone(0.5, 0.44, 0.09, 6)
    // Flat: its edges are meant to be seen.
    return { ...m, normals: null, positions: m.positions.map((x, i) => (i % 3 === 1 ? x - 0.045 : x)) }
  },
  splinter: () =>
    faceted(
      [
        [0.09, -0.06, 0.01],
        [-0.07, 0.04, 0.03],
        [0.02, -0.02, -0.08],
        [-0.01, 0.07, 0.09],
        [0.03, 0.5, 0.01],
        [-0.02, -0.5, 0.02],
      ],
      OCTA,
    ),
}
/** A body whose longest side is about a metre, about its middle. */
export function builtBody(body: BuiltBody): Mesh {
  let m = made.get(body)
  if (!m) made.set(body, (m = MAKE[body]()))
  return m
}
