import { encodeLimitRange } from '../../engine'
import { number } from '../../shot'
import { defineLimit, say, word } from '../define'
import { ageOfParam, ageUnits, ONLY, sideParam } from './common'

/** A stretch of a particle's life, in seconds or as a part of its length. */
export const limitAge = defineLimit({
  kind: 'limitAge',
  title: 'Age',
  help: 'A stretch of each particle’s life.',
  synonyms: ['lifetime', 'time'],
  params: {
    of: ageOfParam,
    from: number({
      label: 'From',
      unit: 's',
      unitBy: ageUnits,
      default: 0,
      min: 0,
      soft: [0, 5],
      animated: true,
      help: 'Where it begins.',
    }),
    to: number({
      label: 'To',
      unit: 's',
      unitBy: ageUnits,
      default: 1,
      given: true,
      empty: 'the end of life',
      min: 0,
      soft: [0, 5],
      animated: true,
      help: 'Where it ends.',
    }),
    soft: number({
      label: 'Soft edge',
      unit: 's',
      unitBy: ageUnits,
      default: 0.1,
      min: 0,
      soft: [0, 1],
      animated: true,
      help: 'It sets in and fades over this, inside the stretch.',
    }),
    side: sideParam,
  },
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} from ${'from'} to ${'to'} of age.`,
  encode(w, p, at) {
    const k = p.choice('of') === 'life' ? 0.01 : 1
    const to = p.optional('to', at.t0)
    encodeLimitRange(w, {
      of: p.choice('of') as 'age' | 'life',
      from: p.number('from', at.t0) * k,
      to: to === null ? Number.POSITIVE_INFINITY : to * k,
      soft: p.number('soft', at.t0) * k,
      outside: p.choice('side') === 'outside',
    })
  },
})
