import { number } from '../../shot'
import { defineLook, say } from '../define'
import { meetsParam } from './meets'

/** As a shutter of that length would draw it: from where the particle was to where it is. */
export const dash = defineLook({
  kind: 'dash',
  role: 'draw',
  title: 'Dash',
  help: 'A streak along the motion.',
  synonyms: ['streak', 'motion blur', 'spark', 'line'],
  params: {
    length: number({
      label: 'Length',
      unit: 's',
      default: 0.02,
      min: 0,
      soft: [0, 0.2],
      animated: true,
      help: 'As long as the particle moves in this time.',
    }),
    softness: number({
      label: 'Softness',
      unit: '%',
      default: 50,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How soft its sides are.',
    }),
    taper: number({
      label: 'Taper',
      unit: '%',
      default: 70,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How much fainter and thinner the tail is than the head.',
    }),
    meets: meetsParam,
  },
  drawing: (p, t) => ({
    shape: 'dash',
    softness: p.number('softness', t) / 100,
    dashS: p.number('length', t),
    taper: p.number('taper', t) / 100,
    meets: p.number('meets', t),
  }),
  sentence: () => say`Dash along the speed, ${'length'} long.`,
})
