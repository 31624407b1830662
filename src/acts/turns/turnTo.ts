import { joinParam } from '../conditions/common'
import { defineTurn, say, word } from '../define'
import { EFFECT_PARAMS, effectOf } from './effect'

/** Moves a particle to another phase. */
export const turnTo = defineTurn({
  kind: 'turnTo',
  title: 'Turn to a phase',
  help: 'Particles for which the conditions hold go to another phase; their time there begins anew.',
  synonyms: ['state', 'transition', 'event', 'trigger', 'phase'],
  params: {
    to: { type: 'phase', label: 'Phase', default: '', help: 'Where they go.' },
    join: joinParam,
    ...EFFECT_PARAMS,
  },
  sentence: (p) => say`Goes to ${'to'} ${word(p.choice('join') === 'any' ? 'when any of these holds' : 'when all of these hold', 'join')}.`,
  effect: (p, t) => ({ to: p.text('to'), ...effectOf(p, t) }),
})
