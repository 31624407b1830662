import { encodeWhenShot } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say, word } from '../define'
import { holdsParam } from './common'

/** From a moment of the shot on. */
export const whenFromMoment = defineCondition({
  kind: 'whenFromMoment',
  title: 'Moment of the shot',
  help: 'From a moment of the shot on, for all at once.',
  synonyms: ['shot time', 'frame', 'cue'],
  params: {
    from: number({ label: 'From', unit: 's', default: 1, moment: true, soft: [0, 10], help: 'The moment.' }),
    holds: holdsParam,
  },
  sentence: (p) => say`${word(p.choice('holds') === 'false' ? 'Until' : 'From', 'holds')} ${'from'} of the shot.`,
  encode: (w, p, at, slot) =>
    encodeWhenShot(w, slot, at.t1 - p.number('from', at.t0) >= 0 ? (at.t1 - p.number('from', at.t0)) * (at.dt / (at.t1 - at.t0)) : -1),
})
