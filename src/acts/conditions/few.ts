import { encodeWhenFew } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say, word } from '../define'
import { holdsParam } from './common'

/** While a phase has few particles. Counted as a substep begins: all for whom it holds then go at once. */
export const whenFew = defineCondition({
  kind: 'whenFew',
  title: 'Number in a phase',
  help: 'While a phase holds fewer than so many. It is counted once a substep, so those who turn in the same one all count as before.',
  synonyms: ['population', 'limit', 'count', 'quota'],
  params: {
    phase: { type: 'phase', label: 'Phase', default: '', help: 'Which phase is counted.' },
    most: number({
      label: 'Fewer than',
      unit: '',
      default: 100,
      min: 1,
      max: 1e7,
      integer: true,
      soft: [1, 1000],
      animated: true,
      help: 'Particles in it.',
    }),
    holds: holdsParam,
  },
  sentence: (p) => say`${word(p.choice('holds') === 'false' ? 'From' : 'Below', 'holds')} ${'most'} in ${'phase'}.`,
  encode: (w, p, at, slot, _seed, phaseOf) => encodeWhenFew(w, slot, phaseOf(p.text('phase') ?? ''), Math.round(p.number('most', at.t0))),
})
