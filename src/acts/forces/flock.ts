import { cosDeg, encodeFlock, encodeSpeedClamp } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** Keeping apart, aligned and together (Reynolds 1987, “Flocks, herds and schools”), within a speed range. */
export const flock = defineForce({
  kind: 'flock',
  title: 'Flock',
  help: 'Particles keep apart, fly the way of their neighbours and stay together.',
  synonyms: ['boids', 'herd', 'school', 'birds', 'crowd'],
  params: {
    radius: number({
      label: 'Radius',
      unit: 'm',
      default: 0.4,
      min: 0.001,
      soft: [0.05, 2],
      animated: true,
      help: 'How far they look. The more there are within, the longer it takes.',
    }),
    room: number({
      label: 'Room',
      unit: 'm',
      default: 0.15,
      min: 0.001,
      soft: [0.01, 1],
      animated: true,
      help: 'Those nearer than this push each other away.',
    }),
    apart: number({
      label: 'Apart',
      unit: 'm/s²',
      default: 8,
      min: 0,
      soft: [0, 50],
      animated: true,
      help: 'How strongly, of two that all but touch.',
    }),
    align: number({
      label: 'Align',
      unit: '1/s',
      default: 4,
      min: 0,
      soft: [0, 20],
      animated: true,
      help: 'How fast they turn to the mean way of those they see.',
    }),
    together: number({
      label: 'Together',
      unit: 'm/s²',
      default: 3,
      min: 0,
      soft: [0, 30],
      animated: true,
      help: 'How strongly they draw to the middle of those they see.',
    }),
    view: number({
      label: 'Sees',
      unit: '°',
      default: 300,
      min: 1,
      max: 360,
      soft: [60, 360],
      animated: true,
      help: 'The whole angle of their view, about their way.',
    }),
    slowest: number({ label: 'Slowest', unit: 'm/s', default: 0.5, min: 0, soft: [0, 5], animated: true, help: 'They never fly slower.' }),
    fastest: number({
      label: 'Fastest',
      unit: 'm/s',
      default: 2,
      min: 0,
      soft: [0.1, 20],
      animated: true,
      given: true,
      empty: 'any speed',
      help: 'They never fly faster.',
    }),
    ...shareParams,
  },
  sentence: () =>
    say`Flocks within ${'radius'}: apart ${'apart'}, aligned ${'align'}, together ${'together'}, ${'slowest'} to ${'fastest'}.`,
  encode(w, p, at, seed, share) {
    const t = at.t0
    const view = p.number('view', t)
    encodeFlock(
      w,
      {
        radius: p.number('radius', t),
        room: p.number('room', t),
        cosView: view >= 360 ? -2 : cosDeg(view / 2),
        apart: p.number('apart', t),
        align: p.number('align', t),
        together: p.number('together', t),
        dt: at.dt,
      },
      seed,
      share,
    )
    const minimum = p.number('slowest', t)
    encodeSpeedClamp(w, minimum, Math.max(minimum, p.optional('fastest', t) ?? 1e12), seed, share)
  },
})
