import { encodeLimitRange } from '../../engine'
import { number } from '../../shot'
import { defineLimit, say, word } from '../define'
import { ONLY, sideParam } from './common'

/** On particles of a speed. */
export const limitSpeed = defineLimit({
  kind: 'limitSpeed',
  ofPlaces: true,
  title: 'Speed',
  help: 'Particles that are this fast.',
  synonyms: ['velocity', 'threshold'],
  params: {
    from: number({ label: 'From', unit: 'm/s', default: 0, min: 0, soft: [0, 10], animated: true, help: 'The slowest.' }),
    to: number({
      label: 'To',
      unit: 'm/s',
      default: 2,
      given: true,
      empty: 'any speed',
      min: 0,
      soft: [0, 20],
      animated: true,
      help: 'The fastest.',
    }),
    soft: number({
      label: 'Soft edge',
      unit: 'm/s',
      default: 0.2,
      min: 0,
      soft: [0, 5],
      animated: true,
      help: 'It sets in and fades over this, inside the range.',
    }),
    side: sideParam,
  },
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} on particles from ${'from'} to ${'to'}.`,
  encode(w, p, at) {
    encodeLimitRange(w, {
      of: 'speed',
      from: p.number('from', at.t0),
      to: p.optional('to', at.t0) ?? Number.POSITIVE_INFINITY,
      soft: p.number('soft', at.t0),
      outside: p.choice('side') === 'outside',
    })
  },
})
