import { type NumberParam, number } from '../../shot'
import { defineSource, say, word } from '../define'
import type { Reads } from '../reader'
import { launch, launchParams, ON_GROWTH } from './launch'

type Window = Record<'rate' | 'start' | 'end', NumberParam>

/** A guard against the last bit: a birth due exactly at a boundary is born once, whichever way the product rounded. */
const EPSILON = 1e-9
const dueBy = (p: Reads<Window>, t: number): number => {
  const from = p.number('start')
  const end = p.optional('end')
  const until = Math.max(from, Math.min(t, end ?? t))
  return t <= from ? 0 : p.integral('rate', until) - p.integral('rate', from)
}

/** Births at a rate. The number due is the integral of the rate, so fractions carry over and births fall between frames. */
export const steady = defineSource({
  kind: 'steady',
  title: 'Steady rate',
  help: 'Particles start one after another at a rate, within a window of frames.',
  synonyms: ['emitter', 'emission', 'spawn rate', 'stream', 'fountain', 'continuous'],
  params: {
    rate: number({
      label: 'Rate',
      unit: '1/s',
      default: 500,
      min: 0,
      max: 1e8,
      soft: [0, 20000],
      animated: true,
      integrated: true,
      help: 'Births per second.',
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
      ? say`Steady rate of ${'rate'} from ${word(on, 'from')} of ${'source'}, spread ${'spread'}, at ${'speed'}.`
      : say`Steady rate of ${'rate'} from ${'source'}, spread ${'spread'}, at ${'speed'}.`
  },
  due(p, t0, t1) {
    const a = dueBy(p, t0)
    const b = dueBy(p, t1)
    const count = Math.floor(b + EPSILON) - Math.floor(a + EPSILON)
    if (count <= 0) return []
    const begin = Math.max(t0, p.number('start'))
    const end = Math.min(t1, p.optional('end') ?? t1)
    const spacing = (end - begin) / (b - a)
    return [{ count, at: begin - t0 + (Math.floor(a + EPSILON) + 1 - a) * spacing, spacing }]
  },
  launch,
  runsWarm: (p) => (p.number('start') <= 0 ? ['start'] : []),
  starts: (p) => p.number('start'),
  ends: (p) => p.optional('end') ?? Number.POSITIVE_INFINITY,
  rate: (p, t0, t1) => dueBy(p, t1) - dueBy(p, t0),
})
