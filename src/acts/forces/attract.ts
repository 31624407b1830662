import { encodePoint } from '../../engine'
import { choice, number } from '../../shot'
import { defineForce, say, word } from '../define'
import { falloffOf, falloffParam, placeIn, placeParams, reachOf, reachParam } from './placed'
import { shareParams } from './share'

/**
 * Towards a point or away from it: strong near, nothing past the reach; or by the square of the distance, as stars do (softened by a core
 * after Plummer 1911).
 */
export const attract = defineForce({
  kind: 'attract',
  title: 'Attract or repel',
  help: 'Pulls particles towards a point, or pushes them away from it.',
  synonyms: ['attractor', 'magnet', 'gravity well', 'point force', 'repel', 'black hole'],
  movesGas: true,
  params: {
    mode: choice({
      label: 'Mode',
      default: 'towards',
      options: [
        { value: 'towards', label: 'attracts' },
        { value: 'away', label: 'repels' },
      ],
      animated: true,
      help: 'Towards its place or away from it.',
    }),
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      default: 10,
      min: 0,
      soft: [0, 50],
      animated: true,
      help: 'In its middle; by the square law, at one metre.',
    }),
    reach: reachParam(1),
    falloff: falloffParam,
    law: choice({
      label: 'Law',
      default: 'reach',
      options: [
        { value: 'reach', label: 'by its reach', help: 'As it falls to the reach.' },
        { value: 'square', label: 'by the square', help: 'A quarter at twice the distance, times how it falls to the reach.' },
      ],
      help: 'How the distance counts.',
    }),
    core: number({
      label: 'Core',
      unit: 'm',
      default: 0.1,
      min: 0,
      soft: [0, 0.5],
      animated: true,
      help: 'By the square law it is strength / (d² + core²): within the core it hardly grows any more.',
    }),
    ...placeParams,
    ...shareParams,
  },
  handles: [
    { kind: 'place', param: 'place' },
    { kind: 'reach', param: 'reach', at: 'place' },
  ],
  sentence: (p) =>
    say`${word(p.choice('mode') === 'away' ? 'Repels' : 'Attracts', 'mode')} at up to ${'strength'} from its place, reach ${'reach'}, falls ${'falloff'}.`,
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const away = p.choice('mode', t) === 'away'
    encodePoint(
      w,
      {
        centre: placeIn(p, t, site),
        strength: p.number('strength', t) * (away ? -1 : 1),
        reach: reachOf(p, t),
        falloff: falloffOf(p, t),
        square: p.choice('law') === 'square',
        core: p.number('core', t),
        front: null,
      },
      seed,
      share,
    )
  },
})
