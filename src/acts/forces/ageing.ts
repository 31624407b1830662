import { encodeAgeing } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** The life of each particle by what its limits say of it. */
export const ageing = defineForce({
  kind: 'ageing',
  title: 'Ageing',
  help: 'Lives are used up so many times as fast, as far as its limits say: in hot gas, outside a box, where they are fast or crowded. What goes by the share of life follows.',
  synonyms: ['lifetime', 'life span', 'decay', 'burn out', 'wear', 'shorten life', 'mapping'],
  params: {
    factor: number({
      label: 'Times',
      unit: '',
      default: 3,
      min: 1,
      max: 1000,
      soft: [1, 10],
      animated: true,
      help: 'So many seconds of life go by in a second.',
    }),
    ...shareParams,
  },
  leads: true,
  endsLives: true,
  sentence: () => say`Ageing is ${'factor'} times as fast.`,
  encode: (w, p, at, seed, share) => encodeAgeing(w, p.number('factor', at.t0), seed, share),
})
