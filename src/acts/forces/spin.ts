import { encodeSpin, TURN_COLUMNS } from '../../engine'
import { choice, number, type Vec3, vector } from '../../shot'
import { defineForce, say, word } from '../define'
import { shareParams } from './share'

const RADIANS = 0.017453292519943295
const ABOUT: Record<string, string> = { own: 'about any axis', axis: 'about one axis' }

/** How particles are turned: they tumble, or head where they fly; and flat ones glide on the air. Seen with the look Flake. */
export const spin = defineForce({
  kind: 'spin',
  title: 'Spin',
  help: 'Particles tumble, or head along their motion; flat ones flutter. Seen with the look Flake.',
  synonyms: ['rotation', 'tumble', 'angular velocity', 'orientation'],
  columns: TURN_COLUMNS,
  params: {
    mode: choice({
      label: 'Mode',
      default: 'tumble',
      options: [
        { value: 'tumble', label: 'tumble', help: 'They rotate by a spin of their own.' },
        { value: 'head', label: 'head along', help: 'Their length turns into their motion.' },
      ],
      help: 'Whether they rotate freely, or head where they fly.',
    }),
    speed: number({
      when: { param: 'mode', is: ['tumble'] },
      label: 'Speed',
      unit: '°/s',
      default: 240,
      soft: [-1080, 1080],
      animated: true,
      varied: true,
      help: 'How fast they rotate from their birth on; ± differs from particle to particle.',
    }),
    about: choice({
      when: { param: 'mode', is: ['tumble'] },
      label: 'About',
      default: 'own',
      options: [
        { value: 'own', label: 'an axis of its own', help: 'Each about another.' },
        { value: 'axis', label: 'one axis', help: 'All about the same.' },
      ],
      help: 'What they rotate about.',
    }),
    axis: vector({
      when: { param: 'about', is: ['axis'] },
      label: 'Axis',
      unit: '',
      default: [0, 1, 0],
      animated: true,
      help: 'With one axis: its direction.',
    }),
    halving: number({
      when: { param: 'mode', is: ['tumble'] },
      label: 'Halves in',
      unit: 's',
      default: 2,
      min: 0.01,
      soft: [0.1, 10],
      animated: true,
      empty: 'never',
      help: 'After this long half of the spin is left.',
    }),
    response: number({
      when: { param: 'mode', is: ['head'] },
      label: 'Response',
      unit: 's',
      default: 0.05,
      min: 0,
      soft: [0, 1],
      animated: true,
      help: 'How long they take to turn into their motion.',
    }),
    flat: number({
      label: 'Flat drag',
      unit: '1/s',
      default: 0,
      min: 0,
      soft: [0, 20],
      animated: true,
      help: 'Air holds back what moves across their flat side: falling flakes glide and flutter.',
    }),
    ...shareParams,
  },
  sentence: (p) =>
    p.choice('mode') === 'head'
      ? say`They ${word('head along their motion', 'mode')} within ${'response'}, flat drag ${'flat'}.`
      : say`They ${word('tumble', 'mode')} at ${'speed'} ${word(ABOUT[p.choice('about')], 'about')}, flat drag ${'flat'}.`,
  encode(w, p, at, seed, share) {
    const t = at.t0
    const tumbles = p.choice('mode', t) === 'tumble'
    const v = p.vector('axis', t)
    const length = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])
    const axis = p.choice('about', t) === 'axis' ? ((length > 1e-12 ? v.map((x) => x / length) : [0, 1, 0]) as Vec3) : null
    encodeSpin(
      w,
      {
        speed: tumbles ? p.number('speed', t) * RADIANS : 0,
        vary: tumbles ? p.vary('speed') * RADIANS : 0,
        axis,
        halvingS: p.optional('halving', t) ?? Number.POSITIVE_INFINITY,
        heads: tumbles ? null : p.number('response', t),
        flat: p.number('flat', t),
      },
      seed,
      share,
    )
  },
})
