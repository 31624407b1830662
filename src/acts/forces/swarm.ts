import { encodeSwarm } from '../../engine'
import { choice, number, ref } from '../../shot'
import { defineForce, say, word } from '../define'
import { falloffOf, falloffParam } from './placed'
import { shareParams } from './share'

/** Towards all particles of a system that are near, its own too, or away from them. */
export const swarm = defineForce({
  kind: 'swarm',
  title: 'Attract by particles',
  help: 'Pulls particles towards those of a system that are near, or pushes them away.',
  synonyms: ['attractor', 'cluster', 'n-body'],
  params: {
    system: ref({ label: 'Of', to: 'system', default: null, empty: 'its own system', gone: 'mute', help: 'Whose particles attract.' }),
    mode: choice({
      label: 'Mode',
      default: 'towards',
      options: [
        { value: 'towards', label: 'attracts' },
        { value: 'away', label: 'repels' },
      ],
      animated: true,
      help: 'Towards them or away from them.',
    }),
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      default: 4,
      min: 0,
      soft: [0, 50],
      animated: true,
      help: 'Of each of them, next to it.',
    }),
    reach: number({
      label: 'Reach',
      unit: 'm',
      default: 0.3,
      min: 0.001,
      soft: [0.02, 2],
      animated: true,
      help: 'Those farther away are not felt. The more there are within, the longer it takes.',
    }),
    falloff: falloffParam,
    counts: choice({
      label: 'Counts',
      default: 'each',
      options: [
        { value: 'each', label: 'each of them', help: 'Twice as many pull twice as hard.' },
        { value: 'mean', label: 'their mean', help: 'However many there are.' },
      ],
      help: 'How many near ones add up.',
    }),
    ...shareParams,
  },
  sentence: (p) =>
    say`${word(p.choice('mode') === 'away' ? 'Pushed away by' : 'Drawn to', 'mode')} the particles of ${'system'} within ${'reach'}, up to ${'strength'} by ${'counts'}.`,
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const id = p.text('system')
    const system = id === null ? -1 : site.system(id)
    if (system === null) return
    encodeSwarm(
      w,
      {
        system,
        reach: p.number('reach', t),
        strength: p.number('strength', t) * (p.choice('mode', t) === 'away' ? -1 : 1),
        falloff: falloffOf(p, t),
        mean: p.choice('counts', t) === 'mean',
      },
      seed,
      share,
    )
  },
})
