import { ref } from '../../shot'
import { joinParam } from '../conditions/common'
import { defineTurn, say, word } from '../define'
import { EFFECT_PARAMS, effectOf } from './effect'

/** Moves a particle into another system. */
export const turnInto = defineTurn({
  kind: 'turnInto',
  title: 'Turn into another system',
  help: 'Particles for which the conditions hold go over to another system, into its first phase, with their place, velocity, age and life.',
  synonyms: ['transfer', 'state', 'event'],
  columns: ['turned'],
  passes: 'system',
  params: {
    to: ref({ label: 'System', to: 'system', default: null, empty: 'nowhere yet', gone: 'mute', help: 'Where they go.' }),
    join: joinParam,
    ...EFFECT_PARAMS,
  },
  sentence: (p) =>
    say`Goes over to ${'to'} ${word(p.choice('join') === 'any' ? 'when any of these holds' : 'when all of these hold', 'join')}.`,
  effect: (p, t) => ({ to: p.text('to'), ...effectOf(p, t) }),
})
