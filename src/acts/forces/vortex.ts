import { encodeVortex } from '../../engine'
import { choice, number } from '../../shot'
import { defineForce, say, word } from '../define'
import { axisParam, directionIn, falloffOf, falloffParam, placeIn, placeParams, reachOf, reachParam } from './placed'
import { shareParams } from './share'

/**
 * Round an axis, with a pull towards it and a lift along it. Carried particles go along chords of their circle, so they keep their
 * distance.
 */
export const vortex = defineForce({
  kind: 'vortex',
  title: 'Vortex',
  help: 'Whirls particles around an axis, pulls them in and lifts them.',
  synonyms: ['tornado', 'swirl', 'whirl', 'twist', 'spiral'],
  movesGas: true,
  params: {
    mode: choice({
      label: 'Mode',
      default: 'push',
      options: [
        { value: 'push', label: 'pushes', help: 'Adds acceleration: particles get faster and fly out unless they are pulled in.' },
        { value: 'carry', label: 'carries', help: 'Leads them to its own velocity: they go round at its speed.' },
      ],
      help: 'Push adds acceleration; carry leads to its velocity.',
    }),
    around: number({
      label: 'Around',
      unit: 'm/s²',
      unitBy: { param: 'mode', units: { push: 'm/s²', carry: 'm/s' } },
      default: 8,
      soft: [-30, 30],
      animated: true,
      help: 'Round the axis; by the right hand around its direction.',
    }),
    pull: number({
      label: 'Pull',
      unit: 'm/s²',
      unitBy: { param: 'mode', units: { push: 'm/s²', carry: 'm/s' } },
      default: 4,
      soft: [-20, 20],
      animated: true,
      help: 'Towards the axis; below zero away from it.',
    }),
    lift: number({
      label: 'Lift',
      unit: 'm/s²',
      unitBy: { param: 'mode', units: { push: 'm/s²', carry: 'm/s' } },
      default: 2,
      soft: [-20, 20],
      animated: true,
      help: 'Along the axis.',
    }),
    reach: reachParam(1.5, 'Distance from the axis at which nothing is left.'),
    falloff: falloffParam,
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.1,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'With carry: how long particles take to follow.',
    }),
    axis: axisParam,
    ...placeParams,
    ...shareParams,
  },
  handles: [
    { kind: 'place', param: 'place' },
    { kind: 'direction', param: 'axis', at: 'place' },
    { kind: 'reach', param: 'reach', at: 'place', axis: 'axis' },
  ],
  sentence: (p) =>
    say`Vortex ${word(p.choice('mode') === 'carry' ? 'carries' : 'pushes', 'mode')} around at ${'around'}, pulls in at ${'pull'}, lifts at ${'lift'}, reach ${'reach'}.`,
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    encodeVortex(
      w,
      {
        centre: placeIn(p, t, site),
        axis: directionIn(p.vector('axis', t), site.from(p.text('object'), t)),
        reach: reachOf(p, t),
        falloff: falloffOf(p, t),
        carry: p.choice('mode', t) === 'carry',
        around: p.number('around', t),
        towards: p.number('pull', t),
        along: p.number('lift', t),
        responseS: p.number('response', t),
        held: null,
      },
      seed,
      share,
    )
  },
})
