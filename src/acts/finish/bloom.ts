import { number } from '../../shot'
import { defineFinish, say } from '../define'

export const bloom = defineFinish({
  kind: 'bloom',
  title: 'Bloom',
  help: 'Bright parts shine over their surroundings.',
  synonyms: ['glow', 'halo', 'bright'],
  params: {
    from: number({
      label: 'From',
      unit: '×',
      default: 1,
      min: 0,
      soft: [0, 4],
      animated: true,
      help: 'Brightness above which things shine; 1 is white.',
    }),
    softness: number({
      label: 'Softness',
      unit: '%',
      default: 50,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How gently it sets in below that brightness.',
    }),
    spread: number({
      label: 'Spread',
      unit: '%',
      default: 60,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How far it reaches.',
    }),
    strength: number({
      label: 'Strength',
      unit: '%',
      default: 60,
      min: 0,
      max: 1000,
      soft: [0, 200],
      animated: true,
      help: 'How much of it is added.',
    }),
  },
  sentence: () => say`Bloom from ${'from'} on, ${'strength'} strong, reaching ${'spread'}.`,
})
