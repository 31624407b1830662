import { choice } from '../../shot'
import { defineLook, say, word } from '../define'

const options = [
  { value: 'add', label: 'adds', help: 'Light on light.' },
  { value: 'normal', label: 'covers', help: 'Nearer ones hide what is behind.' },
  { value: 'screen', label: 'screens', help: 'Light that never goes beyond white.' },
  { value: 'multiply', label: 'multiplies', help: 'What is behind goes through its colour, as through a filter: darker by dark ones.' },
] as const
const INSIDE = { add: 'adds up', normal: 'hides itself', screen: 'screens itself', multiply: 'multiplies' } as const
const ONTO = { add: 'Adds to', normal: 'Covers', screen: 'Screens', multiply: 'Multiplies' } as const
export const blend = defineLook({
  kind: 'blend',
  role: 'blend',
  title: 'Blend',
  help: 'How particles go over each other, and the system over the picture.',
  synonyms: ['additive', 'transparency', 'blending mode', 'composite', 'screen', 'multiply', 'filter'],
  params: {
    inside: choice({ label: 'Each other', default: 'add', options, help: 'Between the particles of the system.' }),
    onto: choice({ label: 'The picture', default: 'add', options, help: 'Of the system with the picture behind it.' }),
  },
  drawing: (p) => ({ inside: p.choice('inside'), onto: p.choice('onto') }),
  sentence: (p) => say`${word(ONTO[p.choice('onto')], 'onto')} the picture, ${word(INSIDE[p.choice('inside')], 'inside')}.`,
})
