import { type NumberParam, number } from '../../shot'
import { defineSource, say } from '../define'
import type { Reads } from '../reader'
import { launch, launchParams } from './launch'

type Window = Record<'at' | 'every' | 'times', NumberParam>

function* moments(p: Reads<Window>, t0: number, t1: number): Generator<number> {
  const at = p.number('at')
  const every = p.optional('every')
  const times = every === null ? 1 : (p.optional('times') ?? Number.POSITIVE_INFINITY)
  const firstN = every ? Math.max(0, Math.ceil((t0 - at) / every - 1e-9) - 1) : 0
  for (let n = firstN; n < times; n++) {
    const t = at + n * (every ?? 0)
    if (t >= t1) return
    if (t >= t0) yield t
  }
}

/** All of a number at one moment, once or again and again. */
export const burst = defineSource({
  kind: 'burst',
  title: 'Burst',
  help: 'A number of particles at one moment; it can repeat.',
  synonyms: ['emitter', 'explosion', 'pop', 'emission', 'one-off'],
  params: {
    count: number({
      label: 'Count',
      unit: '',
      default: 500,
      min: 0,
      max: 5e6,
      soft: [0, 20000],
      integer: true,
      animated: true,
      help: 'Particles in one burst.',
    }),
    at: number({ label: 'At', unit: 's', default: 0, min: 0, moment: true, help: 'The moment of the first burst.' }),
    every: number({
      label: 'Every',
      unit: 's',
      default: 0.5,
      min: 0.001,
      moment: true,
      empty: 'only once',
      help: 'Time from one burst to the next; empty: only once.',
    }),
    times: number({
      label: 'Times',
      unit: '',
      default: 4,
      min: 1,
      integer: true,
      empty: 'to the end',
      help: 'How many bursts; empty: to the end of the shot.',
    }),
    ...launchParams,
  },
  sentence: (p) =>
    p.optional('every') === null
      ? say`Burst of ${'count'} at ${'at'} from ${'source'}, spread ${'spread'}, at ${'speed'}.`
      : say`Burst of ${'count'} at ${'at'} and every ${'every'} from ${'source'}, at ${'speed'}.`,
  due: (p, t0, t1) => [...moments(p, t0, t1)].map((t) => ({ count: Math.round(p.number('count', t)), at: t - t0, spacing: 0 })),
  launch,
  starts: (p) => p.number('at'),
  ends: (p) => {
    const every = p.optional('every')
    const times = p.optional('times')
    return every === null ? p.number('at') : times === null ? Number.POSITIVE_INFINITY : p.number('at') + (times - 1) * every
  },
  rate: (p, t0, t1) => [...moments(p, t0, t1)].reduce((sum, t) => sum + p.number('count', t), 0),
})
