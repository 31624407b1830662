import { number } from '../../shot'
import { defineReshape, say } from '../define'
import { along, axes, axisParam, middle } from './axis'

/** Wider or narrower towards an end: a factor on the width that goes evenly along an axis. */
export const taper = defineReshape({
  kind: 'taper',
  title: 'Taper',
  help: 'Makes one end wider or narrower than the other.',
  synonyms: ['deform'],
  params: {
    axis: axisParam('Along', 'The axis from end to end, its own.'),
    low: number({
      label: 'Low end',
      unit: '%',
      default: 100,
      min: 0,
      soft: [0, 200],
      animated: true,
      help: 'Width at the lower end, of what it was.',
    }),
    high: number({
      label: 'High end',
      unit: '%',
      default: 40,
      min: 0,
      soft: [0, 200],
      animated: true,
      help: 'Width at the upper end, of what it was.',
    }),
  },
  sentence: () => say`Tapers along ${'axis'} from ${'low'} to ${'high'} of its width.`,
  move(p, t, points, box) {
    const [a, b, c] = axes(p.choice('axis', t))
    const low = p.number('low', t) / 100,
      high = p.number('high', t) / 100
    const mb = middle(box, b),
      mc = middle(box, c)
    for (let i = 0; i < points.length; i += 3) {
      const k = low + (high - low) * along(box, a, points[i + a])
      points[i + b] = mb + (points[i + b] - mb) * k
      points[i + c] = mc + (points[i + c] - mc) * k
    }
  },
})
