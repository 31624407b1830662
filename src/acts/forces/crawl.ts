import { encodeCrawl } from '../../engine'
import { number, ref } from '../../shot'
import { defineForce, say } from '../define'
import { reachOf, reachParam } from './placed'
import { shareParams } from './share'

/** Along a surface at a height: what leads off it is led back, what leads along it goes on. */
export const crawl = defineForce({
  kind: 'crawl',
  title: 'Crawl',
  help: 'Keeps particles at a height over a surface; along it they go as they like.',
  synonyms: ['walk', 'surface', 'move along'],
  params: {
    object: ref({
      label: 'On',
      to: 'object',
      default: null,
      empty: 'none yet',
      help: 'The object; it may move, change shape and be unseen.',
    }),
    height: number({
      label: 'Height',
      unit: 'm',
      default: 0.01,
      min: 0,
      soft: [0, 0.5],
      animated: true,
      help: 'Over its surface, on the side where the particle is.',
    }),
    speed: number({
      label: 'Speed',
      unit: 'm/s',
      default: 0.5,
      min: 0,
      soft: [0, 5],
      animated: true,
      empty: 'their own',
      help: 'How fast along it; or as fast as they are.',
    }),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.05,
      min: 0,
      soft: [0, 1],
      animated: true,
      help: 'How long they take to come to the height and the speed.',
    }),
    reach: reachParam(0.5, 'Farther from the surface than this nothing is felt.'),
    ...shareParams,
  },
  sentence: () => say`Crawls on ${'object'} at ${'height'} above it, speed ${'speed'}, reach ${'reach'}.`,
  needs: (p) => (p.text('object') === null ? 'has no object yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const object = site.index(p.text('object'))
    if (object >= 0)
      encodeCrawl(
        w,
        {
          object,
          height: p.number('height', t),
          responseS: p.number('response', t),
          speed: p.optional('speed', t),
          reach: reachOf(p, t),
          dt: at.dt,
        },
        seed,
        share,
      )
  },
})
