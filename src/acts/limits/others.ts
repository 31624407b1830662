import { encodeLimitOthers } from '../../engine'
import { number, ref } from '../../shot'
import { defineLimit, say, word } from '../define'
import { ONLY, sideParam } from './common'

/** On particles that have others near them, as the substep begins. */
export const limitOthers = defineLimit({
  kind: 'limitOthers',
  title: 'Near particles',
  help: 'Particles with at least so many others within a distance, of their own system or another.',
  synonyms: ['neighbours', 'density', 'crowd', 'proximity'],
  params: {
    system: ref({ label: 'Of', to: 'system', default: null, empty: 'its own system', help: 'Whose particles count.' }),
    radius: number({
      label: 'Nearer than',
      unit: 'm',
      default: 0.3,
      min: 1e-4,
      soft: [0.01, 2],
      animated: true,
      help: 'From place to place.',
    }),
    least: number({
      label: 'At least',
      unit: '',
      default: 1,
      min: 1,
      max: 8000,
      integer: true,
      soft: [1, 20],
      animated: true,
      help: 'So many of them.',
    }),
    side: sideParam,
  },
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} with ${'least'} of ${'system'} nearer than ${'radius'}.`,
  encode(w, p, at, _seed, site) {
    const id = p.text('system')
    encodeLimitOthers(w, {
      system: id === null ? -1 : site.system(id),
      radius: p.number('radius', at.t0),
      least: Math.round(p.number('least', at.t0)),
      outside: p.choice('side') === 'outside',
    })
  },
})
