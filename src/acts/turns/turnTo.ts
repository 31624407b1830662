import { number, vector } from '../../shot'
import { joinParam } from '../conditions/common'
import { defineTurn, say, word } from '../define'

/** Moves a particle to another phase. */
export const turnTo = defineTurn({
  kind: 'turnTo',
  title: 'Turn to a phase',
  help: 'Particles for which the conditions hold go to another phase; their time there begins anew.',
  synonyms: ['state', 'transition', 'event', 'trigger', 'phase'],
  params: {
    to: { type: 'phase', label: 'Phase', default: '', help: 'Where they go.' },
    join: joinParam,
    keeps: number({
      label: 'Keeps velocity',
      unit: '%',
      default: 100,
      soft: [0, 200],
      animated: true,
      varied: true,
      help: 'Of the velocity they had: 0 stops them, 100 changes nothing, below zero turns them round.',
    }),
    push: vector({
      label: 'Push',
      unit: 'm/s',
      default: [0, 0, 0],
      animated: true,
      help: 'Added to the velocity, in the space of the system.',
    }),
    scatter: number({ label: 'Scatter', unit: 'm/s', default: 0, min: 0, soft: [0, 20], animated: true, help: 'Added in any direction.' }),
    life: number({
      label: 'Life left',
      unit: 's',
      default: 1,
      min: 0,
      soft: [0, 5],
      animated: true,
      varied: true,
      empty: 'as before',
      help: 'From the turn on.',
    }),
    free: { type: 'switch', label: 'Lets go', default: false, help: 'Of what it sticks to, and of the place it keeps.' },
  },
  sentence: (p) => say`Goes to ${'to'} ${word(p.choice('join') === 'any' ? 'when any of these holds' : 'when all of these hold', 'join')}.`,
  effect(p, t) {
    const life = p.optional('life', t)
    return {
      to: p.text('to'),
      scale: p.number('keeps', t) / 100,
      scaleVary: p.vary('keeps') / 100,
      push: p.vector('push', t),
      scatter: p.number('scatter', t),
      life: life === null ? null : [life, p.vary('life')],
      free: p.on('free', t),
    }
  },
})
