import { number, vector } from '../../shot'
import { defineRegion, say, word } from '../define'
import { edge, HOW, howParams, inShot, placesIn, softParam, spaceParam } from './common'

export const inBall = defineRegion({
  kind: 'inBall',
  title: 'Inside a ball',
  help: 'What lies inside a ball.',
  params: {
    place: vector({ label: 'Place', unit: 'm', default: [0, 0, 0], animated: true, help: 'Of its middle.' }),
    radius: number({ label: 'Radius', unit: 'm', default: 0.5, min: 0, soft: [0, 4], animated: true, help: 'To the middle of its edge.' }),
    soft: softParam,
    space: spaceParam,
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} inside a ball of ${'radius'} at ${'place'}, edge ${'soft'}.`,
  looksAround: inShot,
  amount(p, site) {
    const c = p.vector('place', site.t),
      r = p.number('radius', site.t),
      soft = p.number('soft', site.t),
      at = placesIn(p, site)
    return (v) => {
      const x = at(v)
      return edge(Math.sqrt((x[0] - c[0]) ** 2 + (x[1] - c[1]) ** 2 + (x[2] - c[2]) ** 2) - r, soft)
    }
  },
})
