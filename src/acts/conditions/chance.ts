import { encodeWhenChance } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say } from '../define'
import { holdsParam } from './common'

/** By chance, a share of those who wait each second. */
export const whenChance = defineCondition({
  kind: 'whenChance',
  title: 'Chance per second',
  help: 'By chance: a share of those who are in the phase, each second.',
  synonyms: ['random', 'probability'],
  params: {
    share: number({
      label: 'Share',
      unit: '%',
      default: 20,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'Of them, in a second.',
    }),
    holds: holdsParam,
  },
  sentence: () => say`By chance, ${'share'} a second.`,
  // What is left after a second is 1 − share, whatever the substep.
  encode: (w, p, at, slot, seed) => encodeWhenChance(w, slot, 1 - (1 - p.number('share', at.t0) / 100) ** Math.max(0, at.dt), seed),
})
