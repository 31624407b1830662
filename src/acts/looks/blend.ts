import { choice } from '../../shot'
import { defineLook, say, word } from '../define'

const options = [
  { value: 'add', label: 'adds', help: 'Light on light.' },
  { value: 'normal', label: 'covers', help: 'Nearer ones hide what is behind.' },
] as const
export const blend = defineLook({
  kind: 'blend',
  role: 'blend',
  title: 'Blend',
  help: 'How particles go over each other, and the system over the picture.',
  synonyms: ['additive', 'transparency', 'blending mode', 'composite'],
  params: {
    inside: choice({ label: 'Each other', default: 'add', options, help: 'Between the particles of the system.' }),
    onto: choice({ label: 'The picture', default: 'add', options, help: 'Of the system with the picture behind it.' }),
  },
  drawing: (p) => ({ inside: p.choice('inside'), onto: p.choice('onto') }),
  sentence: (p) =>
    say`${word(p.choice('onto') === 'add' ? 'Adds to' : 'Covers', 'onto')} the picture, ${word(p.choice('inside') === 'add' ? 'adds up' : 'hides itself', 'inside')}.`,
})
