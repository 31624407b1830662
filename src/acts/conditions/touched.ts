import { encodeWhenTouched, hashOf, TOUCH_COLUMNS } from '../../engine'
import { number, ref } from '../../shot'
import { defineCondition, say } from '../define'
import { holdsParam } from './common'

/** A contact with a collider since the phase began; exact to the moment. */
export const whenTouched = defineCondition({
  kind: 'whenTouched',
  title: 'Contact',
  help: 'A contact with a collider since the phase began, exact to the moment.',
  synonyms: ['collision', 'hit', 'impact'],
  columns: TOUCH_COLUMNS,
  params: {
    with: ref({ label: 'With', to: 'object', default: null, empty: 'any collider', help: 'Whom it must meet.' }),
    speed: number({
      label: 'Faster than',
      unit: 'm/s',
      default: 0,
      min: 0,
      soft: [0, 10],
      animated: true,
      help: 'How fast towards it, at least.',
    }),
    holds: holdsParam,
  },
  sentence: (p) =>
    p.choice('holds') === 'false' ? say`Without a contact with ${'with'}.` : say`After a contact with ${'with'} faster than ${'speed'}.`,
  encode: (w, p, at, slot) => encodeWhenTouched(w, slot, p.text('with') ? hashOf(p.text('with') as string) : 0, p.number('speed', at.t0)),
})
