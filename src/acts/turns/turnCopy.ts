import { joinParam } from '../conditions/common'
import { defineTurn, say, word } from '../define'
import { EFFECT_PARAMS, effectOf } from './effect'

/** Copies a particle into a phase; the original stays where it was. */
export const turnCopy = defineTurn({
  kind: 'turnCopy',
  title: 'Copy to a phase',
  help: 'Particles for which the conditions hold stay, and a copy of each goes to a phase. Their own time in the phase begins anew, so a copy comes again and again.',
  synonyms: ['clone', 'duplicate', 'split', 'spawn', 'event'],
  columns: ['turned'],
  passes: 'copy',
  params: {
    to: { type: 'phase', label: 'Phase', default: '', help: 'Where the copies go.' },
    join: joinParam,
    ...EFFECT_PARAMS,
  },
  sentence: (p) =>
    say`Copies to ${'to'} ${word(p.choice('join') === 'any' ? 'when any of these holds' : 'when all of these hold', 'join')}.`,
  effect: (p, t) => ({ to: p.text('to'), ...effectOf(p, t) }),
})
