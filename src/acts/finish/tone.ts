import { choice, number } from '../../shot'
import { defineFinish, say } from '../define'
import { USUAL_TONE } from '../finishing'

export const tone = defineFinish({
  kind: 'tone',
  title: 'Tone',
  help: 'How bright light becomes what a screen shows. It comes last wherever it stands.',
  synonyms: ['tone mapping', 'exposure', 'curve', 'highlights'],
  params: {
    curve: choice({
      label: 'Curve',
      default: 'film',
      options: [
        { value: 'film', label: 'Film', help: 'Deep blacks, bright parts roll off and turn white.' },
        { value: 'gentle', label: 'Gentle', help: 'Bright parts roll off over four stops and keep their colour.' },
        { value: 'straight', label: 'Straight', help: 'As it is, and cut off at white: for what is composed elsewhere.' },
      ],
      help: 'What happens to what is brighter than white.',
    }),
    exposure: number({
      label: 'Exposure',
      unit: '',
      default: 0,
      min: -10,
      max: 10,
      soft: [-3, 3],
      animated: true,
      help: 'Stops: one more is twice as bright.',
    }),
  },
  tone: (p, t) => ({
    curve: p.choice('curve'),
    exposure: 2 ** p.number('exposure', t) * (p.choice('curve') === 'film' ? USUAL_TONE.exposure : 1),
  }),
  sentence: () => say`Tone by the ${'curve'} curve, ${'exposure'} stops.`,
})
