import { encodeLimitRegion, HOLD_COLUMNS } from '../../engine'
import { ref } from '../../shot'
import { defineLimit, say, word } from '../define'
import { ONLY, sideParam } from './common'

/** By the amounts of a region, on particles that stick to an object or keep a place on it. */
export const limitRegion = defineLimit({
  kind: 'limitRegion',
  title: 'On a region',
  help: 'Particles that stick to an object, stay on it or crawl over it, by the amount of a region where they ride.',
  synonyms: ['mask', 'weight map', 'vertex map', 'surface'],
  columns: HOLD_COLUMNS,
  params: {
    object: ref({ label: 'Object', to: 'object', default: null, empty: 'none yet', help: 'On which they ride.' }),
    region: { type: 'region', label: 'Region', of: 'object', default: '', help: 'One of its regions; all of it when empty.' },
    side: sideParam,
  },
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} on ${'region'} of ${'object'}.`,
  needs: (p) => (p.text('object') === null ? 'is limited to an object, and none is chosen' : null),
  encode(w, p, _at, _seed, site) {
    const object = site.index(p.text('object'))
    encodeLimitRegion(w, { object, region: p.text('region') ?? '', outside: p.choice('side') === 'outside' })
  },
})
