import { number, type ValueRef, value } from '../../shot'
import { defineModulator, say } from '../define'

/** Another value of the shot, or a place or a distance in it: value(t − delay) × scale + offset. */
export const follow = defineModulator({
  kind: 'follow',
  title: 'Follow',
  help: 'Goes along with another value, place or distance.',
  synonyms: ['link', 'driver', 'copy value', 'connect'],
  params: {
    of: value({ label: 'Follows', default: null, help: 'The value, place or distance that it follows.' }),
    scale: number({ label: 'Scale', unit: '×', default: 1, soft: [-2, 2], help: 'Times the followed value.' }),
    offset: number({ label: 'Offset', unit: '', default: 0, soft: [-5, 5], help: 'Added, in the unit of this value.' }),
    delay: number({ label: 'Delay', unit: 's', default: 0, min: 0, soft: [0, 5], help: 'Comes so much later.' }),
  },
  sentence: () => say`Follows ${'of'} times ${'scale'}.`,
  replaces: true,
  opens: (p) => p.raw('of') === null,
  refs: (p) => [p.raw('of') as ValueRef | null].filter((r) => r !== null),
  make(p, at) {
    const of = p.raw('of') as ValueRef | null
    const scale = p.number('scale'),
      offset = p.number('offset'),
      delay = p.number('delay')
    if (!of) throw new Error('it follows nothing yet: pick a value for it')
    const f = at.value(of)
    return (t) => f(t - delay) * scale + offset
  },
})
