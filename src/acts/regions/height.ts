import { number } from '../../shot'
import { defineRegion, say, word } from '../define'
import { along, axes, axisParam } from '../reshapes/axis'
import { HOW, howParams } from './common'

export const height = defineRegion({
  kind: 'height',
  title: 'Height',
  help: 'From a share of its own height on, rising to all of it.',
  params: {
    axis: axisParam('Along', 'The axis that counts as height, its own.'),
    from: number({
      label: 'From',
      unit: '%',
      default: 60,
      soft: [0, 100],
      animated: true,
      help: 'Nothing below this share of its height.',
    }),
    to: number({
      label: 'To',
      unit: '%',
      default: 100,
      soft: [0, 100],
      animated: true,
      help: 'All of it above this share; below “from” it takes the lower end.',
    }),
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} along ${'axis'} from nothing at ${'from'} to all at ${'to'}.`,
  amount(p, site) {
    const [a] = axes(p.choice('axis', site.t))
    const from = p.number('from', site.t) / 100,
      to = p.number('to', site.t) / 100
    return (v) => {
      const h = along(site.box, a, site.places[v * 3 + a])
      return from === to ? (h >= to ? 1 : 0) : Math.min(1, Math.max(0, (h - from) / (to - from)))
    }
  },
})
