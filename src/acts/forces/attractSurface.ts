import { encodeSurface } from '../../engine'
import { choice, number, ref } from '../../shot'
import { defineForce, say, word } from '../define'
import { falloffOf, falloffParam, reachOf, reachParam } from './placed'
import { shareParams } from './share'

/** Towards the nearest place of a surface, moving and deforming too, or away from it. */
export const attractSurface = defineForce({
  kind: 'attractSurface',
  title: 'Attract by a surface',
  help: 'Pulls particles to the nearest place of an object’s surface, or pushes them off it.',
  synonyms: ['attractor', 'shrink wrap', 'surface force', 'magnet'],
  params: {
    object: ref({
      label: 'Object',
      to: 'object',
      default: null,
      empty: 'none yet',
      help: 'Whose surface it is; it may move, change shape and be unseen.',
    }),
    mode: choice({
      label: 'Mode',
      default: 'towards',
      options: [
        { value: 'towards', label: 'attracts' },
        { value: 'away', label: 'repels' },
      ],
      animated: true,
      help: 'To the surface or off it.',
    }),
    strength: number({ label: 'Strength', unit: 'm/s²', default: 10, min: 0, soft: [0, 50], animated: true, help: 'At the surface.' }),
    reach: reachParam(0.5, 'Nothing is felt farther from the surface than this.'),
    falloff: falloffParam,
    ...shareParams,
  },
  sentence: (p) =>
    say`${word(p.choice('mode') === 'away' ? 'Repels' : 'Attracts', 'mode')} at up to ${'strength'} from the surface of ${'object'}, reach ${'reach'}, falls ${'falloff'}.`,
  needs: (p) => (p.text('object') === null ? 'has no object yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const object = site.index(p.text('object'))
    if (object >= 0)
      encodeSurface(
        w,
        {
          object,
          strength: p.number('strength', t) * (p.choice('mode', t) === 'away' ? -1 : 1),
          reach: reachOf(p, t),
          falloff: falloffOf(p, t),
          dt: at.dt,
        },
        seed,
        share,
      )
  },
})
