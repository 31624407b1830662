import { number } from '../../shot'
import { defineFlow, say } from '../define'

/** Keeps eddies alive that a grid would smear out: vorticity confinement (Fedkiw, Stam and Jensen 2001). */
export const curl = defineFlow({
  kind: 'curl',
  title: 'Curls',
  help: 'Keeps its small eddies alive, which the grid would smear out.',
  synonyms: ['vorticity', 'confinement', 'swirl', 'curl'],
  params: {
    strength: number({
      label: 'Kept up',
      unit: '×',
      default: 0.3,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How strongly; much of it makes the gas boil.',
    }),
  },
  sentence: () => say`Curls kept up by ${'strength'}.`,
  flow: (p, t) => ({ vorticity: p.number('strength', t) }),
})
