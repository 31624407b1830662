import { encodePath } from '../../engine'
import { number, ref } from '../../shot'
import { defineForce, say } from '../define'
import { falloffOf, falloffParam, reachOf, reachParam } from './placed'
import { shareParams } from './share'

/** Along a path or line: every particle goes by the place of it that is nearest, and is gathered there. */
export const followPath = defineForce({
  kind: 'path',
  title: 'Follow a path',
  help: 'Leads particles along a path and gathers them on it.',
  synonyms: ['curve', 'spline', 'follow', 'guide'],
  params: {
    object: ref({
      label: 'Path',
      to: 'object',
      default: null,
      empty: 'none yet',
      help: 'A path or a line; reshape steps, keys and its parent move it.',
    }),
    speed: number({
      label: 'Speed',
      unit: 'm/s',
      default: 2,
      soft: [-10, 10],
      animated: true,
      help: 'Along it; below zero the other way.',
    }),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.2,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How long particles take to follow.',
    }),
    gather: number({
      label: 'Gathers in',
      unit: 's',
      default: 0.5,
      min: 0.001,
      soft: [0.05, 5],
      animated: true,
      help: 'How long they take to make up their distance to it.',
    }),
    reach: reachParam(1),
    falloff: { ...falloffParam, default: 'even' },
    ...shareParams,
  },
  sentence: () => say`Follows ${'object'} at ${'speed'}, gathered on it in ${'gather'}, reach ${'reach'}.`,
  needs: (p) => (p.text('object') === null ? 'has no path to follow yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const points = site.line(p.text('object'), t)
    if (points)
      encodePath(
        w,
        {
          points,
          speed: p.number('speed', t),
          reach: reachOf(p, t),
          falloff: falloffOf(p, t),
          responseS: p.number('response', t),
          gatherS: p.number('gather', t),
        },
        seed,
        share,
      )
  },
})
