import { number } from '../../shot'
import { defineFlow, say } from '../define'

const GRAVITY = 9.81

/** Buoyancy: hot gas rises, and dense smoke sinks. */
export const rise = defineFlow({
  kind: 'rise',
  title: 'Rises',
  help: 'What is hotter than the air rises, what carries much sinks.',
  synonyms: ['buoyancy', 'lift', 'gravity', 'upwards'],
  params: {
    heat: number({
      label: 'By heat',
      unit: '×',
      default: 1,
      soft: [0, 3],
      animated: true,
      help: 'How strongly heat lifts it: 1 is as on earth.',
    }),
    weight: number({
      label: 'By density',
      unit: '×',
      default: 0.02,
      soft: [0, 0.5],
      animated: true,
      help: 'How heavy a density of 1 is: 1 falls as freely as a stone.',
    }),
  },
  sentence: () => say`Rises by heat ${'heat'}, sinks by density ${'weight'}.`,
  flow: (p, t) => ({ lift: GRAVITY * p.number('heat', t), weight: GRAVITY * p.number('weight', t) }),
})
