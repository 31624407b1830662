import { encodeVortex } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { axisParam, directionIn, falloffOf, falloffParam, placeIn, placeParams, reachOf, reachParam } from './placed'
import { shareParams } from './share'

/** Round an axis at a radius that is held: what is nearer or farther is led there within the response. */
export const orbit = defineForce({
  kind: 'orbit',
  title: 'Orbit',
  help: 'Leads particles round an axis at one distance from it.',
  synonyms: ['circle', 'planet', 'revolve'],
  params: {
    radius: number({
      label: 'Radius',
      unit: 'm',
      default: 0.8,
      min: 0,
      soft: [0.05, 4],
      animated: true,
      help: 'The distance from the axis that is held.',
    }),
    around: number({
      label: 'Speed',
      unit: 'm/s',
      default: 2,
      soft: [-10, 10],
      animated: true,
      help: 'Along the circle; below zero the other way round.',
    }),
    lift: number({ label: 'Lift', unit: 'm/s', default: 0, soft: [-5, 5], animated: true, help: 'Along the axis.' }),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.2,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How long particles take to get there and to follow.',
    }),
    reach: { ...reachParam(3, 'Distance from the axis at which it is not felt any more.') },
    falloff: { ...falloffParam, default: 'even' },
    axis: axisParam,
    ...placeParams,
    ...shareParams,
  },
  handles: [
    { kind: 'place', param: 'place' },
    { kind: 'direction', param: 'axis', at: 'place' },
    { kind: 'reach', param: 'radius', at: 'place', axis: 'axis' },
  ],
  sentence: () => say`Orbit at ${'radius'} around the axis at ${'around'}, reached in ${'response'}.`,
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    encodeVortex(
      w,
      {
        centre: placeIn(p, t, site),
        axis: directionIn(p.vector('axis', t), site.from(p.text('object'), t)),
        reach: reachOf(p, t),
        falloff: falloffOf(p, t),
        carry: true,
        around: p.number('around', t),
        towards: 0,
        along: p.number('lift', t),
        responseS: p.number('response', t),
        held: p.number('radius', t),
      },
      seed,
      share,
    )
  },
})
