import { encodeWhenReached } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say, word } from '../define'
import { holdsParam } from './common'

/** What a Chase flies to is reached. */
export const whenReached = defineCondition({
  kind: 'whenReached',
  title: 'Target reached',
  help: 'What the particle chases is as near as this.',
  synonyms: ['arrive', 'goal', 'chase'],
  columns: ['targetFar'],
  params: {
    within: number({
      label: 'Within',
      unit: 'm',
      default: 0.05,
      min: 1e-4,
      soft: [0.005, 1],
      animated: true,
      help: 'From the particle to its place.',
    }),
    holds: holdsParam,
  },
  sentence: (p) => say`${word(p.choice('holds') === 'false' ? 'Until its target is' : 'Once its target is', 'holds')} within ${'within'}.`,
  encode: (w, p, at, slot) => encodeWhenReached(w, slot, p.number('within', at.t0)),
})
