import { rotationOf, spunBy } from '../math'
import type { Part, PlacePart } from './parts'

/** Where an object that the simulation moves is some seconds later or before: its middle on a straight line, about it its spin as it is now. */
export function placeLater(part: PlacePart, seconds: number): PlacePart {
  const { motion, matrix: m } = part
  if (!motion) return part
  const { middle, velocity, spin } = motion
  const r = rotationOf(spunBy([0, 0, 0, 1], spin, seconds))
  const from = [0, 1, 2, 3].map((c) => [0, 1, 2].map((a) => m[a * 4 + c] - (c === 3 ? middle[a] : 0)))
  const matrix = r.flatMap((row, a) =>
    from.map((v, c) => row[0] * v[0] + row[1] * v[1] + row[2] * v[2] + (c === 3 ? middle[a] + velocity[a] * seconds : 0)),
  )
  return { ...part, matrix }
}
/** The parts of a frame within the time of an open shutter: objects that the simulation moves, carried on. */
export const partsLater = (parts: readonly Part[], seconds: number): Part[] =>
  parts.map((p) => (p.kind === 'place' ? placeLater(p, seconds) : p))
