import { type NumberParam, number } from '../../shot'
import { defineSource, say } from '../define'
import type { Reads } from '../reader'
import { launch, launchParams } from './launch'

type Window = Record<'count' | 'start' | 'end', NumberParam>

const EPSILON = 1e-9
/** How many of them are born by t; each stands in the middle of its share of the window. */
const dueBy = (p: Reads<Window>, t: number): number => {
  const from = p.number('start'),
    until = Math.max(from, p.number('end')),
    count = p.number('count')
  return until === from ? (t > from ? count : 0) : Math.max(0, Math.min(count, (count * (t - from)) / (until - from) + 0.5))
}

/** A number of particles, spread evenly over a window. */
export const total = defineSource({
  kind: 'total',
  title: 'Total',
  help: 'A number of particles, spread evenly over a window of frames.',
  synonyms: ['emitter', 'emission', 'count'],
  params: {
    count: number({
      label: 'Count',
      unit: '',
      default: 1000,
      min: 0,
      max: 2e7,
      soft: [0, 50000],
      integer: true,
      help: 'Particles in all.',
    }),
    start: number({ label: 'From', unit: 's', default: 0, min: 0, moment: true, help: 'Births begin here.' }),
    end: number({
      label: 'Until',
      unit: 's',
      default: 1,
      min: 0,
      moment: true,
      help: 'The last is born here. All at the first frame, they have been there through a warm start.',
    }),
    ...launchParams,
  },
  sentence: () => say`Total of ${'count'} from ${'start'} to ${'end'}, from ${'source'}, at ${'speed'}.`,
  due(p, t0, t1) {
    const a = Math.floor(dueBy(p, t0) + EPSILON),
      b = Math.floor(dueBy(p, t1) + EPSILON)
    if (b <= a) return []
    const from = p.number('start'),
      until = Math.max(from, p.number('end'))
    const each = (until - from) / p.number('count')
    return [{ count: b - a, at: Math.max(0, from + (a + 0.5) * each - t0), spacing: each }]
  },
  launch,
  runsWarm: (p) => (Math.max(p.number('start'), p.number('end')) <= 0 ? ['start', 'end'] : []),
  starts: (p) => p.number('start'),
  ends: (p) => Math.max(p.number('start'), p.number('end')),
  rate: (p, t0, t1) => dueBy(p, t1) - dueBy(p, t0),
})
