import { NO_EFFECT } from '../../engine'
import { joinParam } from '../conditions/common'
import { defineTurn, say, word } from '../define'

/** Ends a life. */
export const turnEnd = defineTurn({
  kind: 'turnEnd',
  title: 'Turn that ends the life',
  help: 'Particles for which the conditions hold are taken out.',
  synonyms: ['kill', 'die', 'remove', 'event'],
  endsLives: true,
  params: { join: joinParam },
  sentence: (p) => say`Ends ${word(p.choice('join') === 'any' ? 'when any of these holds' : 'when all of these hold', 'join')}.`,
  effect: () => ({ ...NO_EFFECT, to: null }),
})
