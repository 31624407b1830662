import { choice, curve, number } from '../../shot'
import { defineLook, say } from '../define'
import { curveTable } from '../lookTables'
import type { Phase } from '../reader'

const BY_HEIGHT = { param: 'over', is: ['height'] } as const

/** Where particles are drawn, not where they are. */
const renewal = ({ at, period }: Phase) => ({ phase: at, period })
export const relief = defineLook({
  kind: 'relief',
  role: 'relief',
  title: 'Relief',
  help: 'Draws particles pushed out by noise, and twisted; where they are, and what they meet, stays as it is.',
  synonyms: ['displacement', 'offset', 'bump', 'noise', 'fractal', 'crust', 'weathered', 'twist', 'disperse'],
  params: {
    along: choice({
      label: 'Along',
      default: 'axis',
      options: [
        { value: 'axis', label: 'radius', help: 'Away from the axis, the system’s own Y.' },
        { value: 'middle', label: '3D radius', help: 'Away from the middle of the system’s own space.' },
        { value: 'x', label: 'X' },
        { value: 'y', label: 'Y' },
        { value: 'z', label: 'Z' },
        { value: 'every', label: 'every way', help: 'By three noises: they are scattered.' },
      ],
      help: 'Where it pushes them, in the system’s own space.',
    }),
    amount: number({
      ...{ label: 'Amount', unit: 'm', default: 0.1, soft: [-0.5, 0.5], animated: true },
      help: 'Of the noise at its highest, about; below 0 what stood out sinks in.',
    }),
    lift: number({
      ...{ label: 'Lift', unit: 'm', default: 0, soft: [-0.5, 0.5], animated: true },
      help: 'Pushes all of them evenly.',
    }),
    size: number({
      ...{ label: 'Size', unit: 'm', default: 0.5, min: 1e-3, soft: [0.02, 2], animated: true },
      help: 'How large its lumps are.',
    }),
    octaves: number({
      ...{ label: 'Octaves', unit: '', default: 3, min: 1, max: 6, integer: true, soft: [1, 6] },
      help: 'Finer lumps on top, each half the size and half as high.',
    }),
    renewal: number({
      ...{ label: 'Renewal', unit: '1/s', default: 0, min: 0, soft: [0, 2] },
      help: 'How often lumps give way to others.',
    }),
    over: choice({
      label: 'Over',
      default: 'all',
      options: [
        { value: 'all', label: 'everywhere' },
        { value: 'height', label: 'height', help: 'Along the system’s own Y, by a curve.' },
      ],
      help: 'Where how much of it counts.',
    }),
    from: number({
      ...{ label: 'From', unit: 'm', default: 0, soft: [-2, 2], when: BY_HEIGHT },
      help: 'Height at which the curve begins.',
    }),
    to: number({ ...{ label: 'To', unit: 'm', default: 1, soft: [-2, 2], when: BY_HEIGHT }, help: 'Height at which the curve ends.' }),
    curve: curve({
      ...{ label: 'Curve', unit: '%', max: 1, from: 'from', to: 'to' },
      default: {
        points: [
          { at: 0, v: 1 },
          { at: 1, v: 0 },
        ],
      },
      help: 'How much of the relief there is from one height to the other; it counts where Over is height.',
    }),
    twist: number({
      ...{ label: 'Twist', unit: '°/m', default: 0, soft: [-180, 180], animated: true },
      help: 'Turns them about the axis, by each metre of height.',
    }),
  },
  drawing: () => ({}),
  relief: (p, seed, t) => ({
    along: p.choice('along'),
    amount: p.number('amount', t),
    lift: p.number('lift', t),
    size: p.number('size', t),
    octaves: p.number('octaves'),
    ...renewal(p.looped('renewal', t)),
    height: p.choice('over') === 'height' ? { from: p.number('from'), to: p.number('to'), curve: curveTable(p.curve('curve')) } : null,
    twist: (p.number('twist', t) * Math.PI) / 180,
    seed,
  }),
  sentence: () => say`Relief along ${'along'} by ${'amount'}, lumps of ${'size'}.`,
})
