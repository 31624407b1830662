import { vector } from '../../shot'
import { defineRegion, say, word } from '../define'
import { edge, HOW, howParams, inShot, placesIn, softParam, spaceParam } from './common'

/** Metres to a box around the origin; negative inside. */
export function toBox(x: number, y: number, z: number, half: readonly number[]): number {
  const qx = Math.abs(x) - half[0],
    qy = Math.abs(y) - half[1],
    qz = Math.abs(z) - half[2]
  const ox = Math.max(qx, 0),
    oy = Math.max(qy, 0),
    oz = Math.max(qz, 0)
  return Math.sqrt(ox * ox + oy * oy + oz * oz) + Math.min(Math.max(qx, qy, qz), 0)
}
export const inBox = defineRegion({
  kind: 'inBox',
  title: 'Inside a box',
  help: 'What lies inside a box.',
  params: {
    place: vector({ label: 'Place', unit: 'm', default: [0, 0, 0], animated: true, help: 'Of its middle.' }),
    size: vector({ label: 'Size', unit: 'm', default: [1, 1, 1], min: 0, animated: true, help: 'From side to side.' }),
    soft: softParam,
    space: spaceParam,
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} inside a box of ${'size'} at ${'place'}, edge ${'soft'}.`,
  looksAround: inShot,
  amount(p, site) {
    const c = p.vector('place', site.t),
      half = p.vector('size', site.t).map((x) => x / 2),
      soft = p.number('soft', site.t),
      at = placesIn(p, site)
    return (v) => {
      const x = at(v)
      return edge(toBox(x[0] - c[0], x[1] - c[1], x[2] - c[2], half), soft)
    }
  },
})
