import { type NumberParam, number } from '../../shot'
import { defineSource, say, word } from '../define'
import type { Reads } from '../reader'
import { launch, launchParams, ON_GROWTH } from './launch'

type Window = Record<'start' | 'end', NumberParam>

const EPSILON = 1e-6
/** Seconds of the window that lie in [t0, t1). */
const within = (p: Reads<Window>, t0: number, t1: number): [number, number] => [
  Math.max(t0, p.number('start')),
  Math.min(t1, p.optional('end') ?? t1),
]

/** Births by the way that the source has gone: the same distance from each to the next, however fast it goes. */
export const travel = defineSource({
  kind: 'travel',
  title: 'By distance',
  help: 'Particles by the metre that the source has gone, or that what grows over it has grown: an even line, however fast.',
  synonyms: ['emitter', 'emission by distance', 'trail', 'exhaust'],
  params: {
    each: number({
      label: 'Every',
      unit: 'm',
      default: 0.02,
      min: 1e-5,
      soft: [0.002, 0.5],
      help: 'Way of the source, or growth over it, from one birth to the next.',
    }),
    start: number({ label: 'From', unit: 's', default: 0, min: 0, moment: true, help: 'Births begin here.' }),
    end: number({
      label: 'Until',
      unit: 's',
      default: 1,
      min: 0,
      moment: true,
      empty: 'the end',
      help: 'Births end here; empty: they go on to the end of the shot.',
    }),
    ...launchParams,
  },
  sentence(p) {
    const on = ON_GROWTH[p.choice('from')]
    return on
      ? say`Distance births: one every ${'each'} that grows, from ${word(on, 'from')} of ${'source'}, at ${'speed'}.`
      : say`Distance births: one every ${'each'} that ${'source'} goes, at ${'speed'}.`
  },
  due(p, t0, t1, travelled) {
    const [begin, end] = within(p, t0, t1)
    if (end <= begin) return []
    const each = p.number('each')
    const start = travelled(p.number('start'))
    const a = (travelled(begin) - start) / each,
      b = (travelled(end) - start) / each
    const first = Math.floor(a + EPSILON) + 1
    const count = Math.floor(b + EPSILON) - Math.floor(a + EPSILON)
    if (count <= 0 || b <= a) return []
    const perBirth = (end - begin) / (b - a)
    return [{ count, at: Math.max(0, begin - t0 + (first - a) * perBirth), spacing: perBirth }]
  },
  launch,
  starts: (p) => p.number('start'),
  ends: (p) => p.optional('end') ?? Number.POSITIVE_INFINITY,
  // Without the shot nobody knows the way; the drawing under the ruler shows the window.
  rate: (p, t0, t1) => {
    const [begin, end] = within(p, t0, t1)
    return Math.max(0, end - begin) / p.number('each')
  },
})
