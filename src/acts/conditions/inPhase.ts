import { encodeWhenTime } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say, word } from '../define'
import { holdsParam } from './common'

/** After a time in the phase; the turn is at that very moment, also within a substep. */
export const whenInPhase = defineCondition({
  kind: 'whenInPhase',
  title: 'Time in the phase',
  help: 'A time after the particle came into the phase, exact to the moment.',
  synonyms: ['delay', 'timer', 'after'],
  params: {
    after: number({
      label: 'After',
      unit: 's',
      default: 1,
      min: 0,
      soft: [0, 5],
      animated: true,
      varied: true,
      help: 'Since the phase began.',
    }),
    holds: holdsParam,
  },
  sentence: (p) => say`${word(p.choice('holds') === 'false' ? 'Before' : 'After', 'holds')} ${'after'} in the phase.`,
  encode: (w, p, at, slot, seed) => encodeWhenTime(w, slot, p.number('after', at.t0), p.vary('after'), seed),
})
