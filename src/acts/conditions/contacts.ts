import { encodeWhenContacts } from '../../engine'
import { number } from '../../shot'
import { defineCondition, say, word } from '../define'
import { holdsParam } from './common'

/** So many contacts in its life. */
export const whenContacts = defineCondition({
  kind: 'whenContacts',
  title: 'Number of contacts',
  help: 'So many contacts with colliders in the whole life.',
  synonyms: ['bounces', 'collision count'],
  params: {
    count: number({ label: 'Contacts', unit: '', default: 2, min: 1, max: 1e6, integer: true, soft: [1, 10], help: 'At least so many.' }),
    holds: holdsParam,
  },
  sentence: (p) => say`${word(p.choice('holds') === 'false' ? 'Before' : 'After', 'holds')} ${'count'} contacts.`,
  encode: (w, p, at, slot) => encodeWhenContacts(w, slot, p.number('count', at.t0)),
})
