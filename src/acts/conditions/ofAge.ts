import { encodeWhenAge } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say, word } from '../define'
import { ageOfParam, ageUnits } from '../limits/common'
import { holdsParam } from './common'

/** At an age, or a share of the life; exact to the moment. */
export const whenOfAge = defineCondition({
  kind: 'whenOfAge',
  title: 'Age reached',
  help: 'At an age in seconds, or a share of the life, exact to the moment.',
  synonyms: ['lifetime', 'life percent'],
  params: {
    of: ageOfParam,
    at: number({
      label: 'At',
      unit: 's',
      unitBy: ageUnits,
      default: 1,
      min: 0,
      soft: [0, 5],
      animated: true,
      varied: true,
      help: 'The age, with its ±.',
    }),
    holds: holdsParam,
  },
  sentence: (p) => say`${word(p.choice('holds') === 'false' ? 'Younger than' : 'Older than', 'holds')} ${'at'}.`,
  encode(w, p, at, slot, seed) {
    const k = p.choice('of') === 'life' ? 0.01 : 1
    encodeWhenAge(w, slot, p.choice('of') as 'age' | 'life', p.number('at', at.t0) * k, p.vary('at') * k, seed)
  },
})
