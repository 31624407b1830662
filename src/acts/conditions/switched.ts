import { encodeWhenShot } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say, word } from '../define'
import { holdsParam } from './common'

/** A switch that is keyed, or driven like any value: on from a half up. */
export const whenSwitched = defineCondition({
  kind: 'whenSwitched',
  title: 'Switch',
  help: 'A switch of your own: key it, or let it follow another value. It is on from 50 % up.',
  synonyms: ['keyed', 'trigger', 'toggle', 'on off'],
  params: {
    level: number({ label: 'Level', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, help: 'On from 50 % up.' }),
    holds: holdsParam,
  },
  sentence: (p) =>
    say`${word(p.choice('holds') === 'false' ? 'While the switch is off' : 'While the switch is on', 'holds')}, now ${'level'}.`,
  encode: (w, p, at, slot) => encodeWhenShot(w, slot, p.number('level', at.t1) >= 50 ? 0 : -1),
})
