import { number, vector } from '../../shot'
import { defineRegion, say, word } from '../define'
import { edge, HOW, howParams, inShot, placesIn, softParam, spaceParam } from './common'

export const side = defineRegion({
  kind: 'side',
  title: 'Side',
  help: 'All on one side of a plane.',
  params: {
    direction: vector({
      label: 'Direction',
      unit: '',
      default: [0, 1, 0],
      animated: true,
      help: 'To the side that is taken; its length does not matter.',
    }),
    beyond: number({
      label: 'Beyond',
      unit: 'm',
      default: 0,
      soft: [-2, 2],
      animated: true,
      help: 'How far along the direction it begins.',
    }),
    soft: softParam,
    space: spaceParam,
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} beyond ${'beyond'} along ${'direction'}, edge ${'soft'}.`,
  looksAround: inShot,
  amount(p, site) {
    const d = p.vector('direction', site.t),
      l = Math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]) || 1
    const beyond = p.number('beyond', site.t),
      soft = p.number('soft', site.t),
      at = placesIn(p, site)
    return (v) => {
      const x = at(v)
      return edge(beyond - (x[0] * d[0] + x[1] * d[1] + x[2] * d[2]) / l, soft)
    }
  },
})
