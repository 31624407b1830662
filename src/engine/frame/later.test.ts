import { expect, it } from 'vitest'
import { apply } from '../math'
import { partsLater } from './later'
import type { PlacePart } from './parts'

const matrix = [0, -2, 0, 5, 2, 0, 0, 6, 0, 0, 2, 7]
const middle = [4, 6, 7]
const place = (motion?: Partial<PlacePart['motion']>): PlacePart => ({
  ...{ kind: 'place', element: 'o', matrix },
  ...(motion ? { motion: { middle, velocity: [0, 0, 0], spin: [0, 0, 0], ...motion } } : {}),
})
const at = (p: PlacePart, seconds: number, own: [number, number, number]) =>
  apply(Float64Array.from((partsLater([p], seconds)[0] as PlacePart).matrix), ...own)

it('carries an object on along its velocity and by its spin about its middle, however fast, and back again', () => {
  const own = [0.3, -0.5, 0.2] as [number, number, number]
  const now = apply(Float64Array.from(matrix), ...own)
  expect(at(place(), 0.1, own)).toEqual(now)
  at(place({ velocity: [3, 0, -1] }), 0.1, own).forEach((v, a) => {
    expect(v).toBeCloseTo(now[a] + [0.3, 0, -0.1][a], 12)
  })
  // 40 rad/s about z: 2 rad after 0.05 s.
  for (const seconds of [0.05, -0.05]) {
    const [x, y, z] = at(place({ spin: [0, 0, 40], velocity: [10, 0, 0] }), seconds, own)
    const [c, s] = [Math.cos(40 * seconds), Math.sin(40 * seconds)]
    const [dx, dy] = [now[0] - middle[0], now[1] - middle[1]]
    expect(x).toBeCloseTo(middle[0] + c * dx - s * dy + 10 * seconds, 12)
    expect(y).toBeCloseTo(middle[1] + s * dx + c * dy, 12)
    expect(z).toBeCloseTo(now[2], 12)
  }
})
