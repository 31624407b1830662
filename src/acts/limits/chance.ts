import { encodeLimitChance } from '../../engine'
import { number } from '../../shot'
import { defineLimit, say, word } from '../define'
import { ONLY, sideParam } from './common'

/** On a share of the particles, each picked for its whole life. */
export const limitChance = defineLimit({
  kind: 'limitChance',
  title: 'Some particles',
  help: 'A share of them, picked at random and kept.',
  synonyms: ['random', 'probability', 'percentage'],
  params: {
    part: number({ label: 'Part', unit: '%', default: 50, min: 0, max: 100, soft: [0, 100], animated: true, help: 'Of all particles.' }),
    side: sideParam,
  },
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} on ${'part'} of the particles.`,
  encode(w, p, at, seed) {
    encodeLimitChance(w, p.number('part', at.t0) / 100, p.choice('side') === 'outside', seed)
  },
})
