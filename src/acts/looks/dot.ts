import { number } from '../../shot'
import { defineLook, say } from '../define'
import { meetsParam } from './meets'

export const dot = defineLook({
  kind: 'dot',
  role: 'draw',
  title: 'Dot',
  help: 'A round dot, hard or soft.',
  synonyms: ['sphere', 'point', 'disc', 'ball'],
  params: {
    softness: number({
      label: 'Softness',
      unit: '%',
      default: 60,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: '0 is a hard disc, 100 fades from the middle on.',
    }),
    meets: meetsParam,
  },
  drawing: (p, t) => ({ shape: 'dot', softness: p.number('softness', t) / 100, meets: p.number('meets', t) }),
  sentence: () => say`Dot, ${'softness'} soft.`,
})
