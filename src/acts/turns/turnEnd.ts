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
  effect: () => ({
    to: null,
    scale: 1,
    scaleVary: 0,
    push: [0, 0, 0],
    scatter: 0,
    deflect: 0,
    deflectVary: 0,
    size: 1,
    sizeVary: 0,
    life: null,
    free: false,
    redraw: false,
  }),
})
