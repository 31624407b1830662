import { encodePoint } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { falloffOf, falloffParam, placeIn, placeParams, reachOf, reachParam } from './placed'
import { shareParams } from './share'

/** A front that runs out from a point from a moment on and pushes what it passes away from it. */
export const shock = defineForce({
  kind: 'shock',
  title: 'Shock wave',
  help: 'A front that runs out from a point and throws aside what it meets.',
  synonyms: ['explosion', 'blast', 'wave', 'pressure'],
  movesGas: true,
  params: {
    start: number({
      label: 'Starts at',
      unit: 's',
      default: 1,
      soft: [0, 5],
      moment: true,
      help: 'The moment at which the front leaves its place.',
    }),
    speed: number({ label: 'Speed', unit: 'm/s', default: 4, min: 0, soft: [0.2, 20], help: 'Of the front.' }),
    thickness: number({
      label: 'Thickness',
      unit: 'm',
      default: 0.4,
      min: 0.001,
      soft: [0.05, 2],
      animated: true,
      help: 'Of the front; it is strongest in its middle.',
    }),
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      default: 60,
      soft: [-200, 200],
      animated: true,
      help: 'Where the front is, close to its place; below zero it draws in.',
    }),
    reach: reachParam(3, 'Where the front has spent itself.'),
    falloff: { ...falloffParam, default: 'linear' },
    ...placeParams,
    ...shareParams,
  },
  handles: [
    { kind: 'place', param: 'place' },
    { kind: 'reach', param: 'reach', at: 'place' },
  ],
  sentence: () => say`Shock wave from ${'start'} on, running out at ${'speed'}, pushes at up to ${'strength'}, spent after ${'reach'}.`,
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const since = t - p.number('start')
    if (since < 0) return
    encodePoint(
      w,
      {
        centre: placeIn(p, t, site),
        strength: -p.number('strength', t),
        reach: reachOf(p, t),
        falloff: falloffOf(p, t),
        square: false,
        core: 0,
        front: { radius: since * p.number('speed'), half: p.number('thickness', t) / 2 },
      },
      seed,
      share,
    )
  },
})
