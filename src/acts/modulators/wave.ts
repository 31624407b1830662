import { sinTurns } from '../../engine'
import { choice, number } from '../../shot'
import { defineModulator, say } from '../define'

const SHAPES: Record<string, (x: number) => number> = {
  sine: sinTurns,
  triangle: (x) => 1 - 4 * Math.abs(x + 0.25 - Math.floor(x + 0.25) - 0.5),
  square: (x) => (x - Math.floor(x) < 0.5 ? 1 : -1),
  ramp: (x) => 2 * (x - Math.floor(x)) - 1,
}

/** Up and down for ever: height × shape((t + offset) / period). */
export const wave = defineModulator({
  kind: 'wave',
  title: 'Wave',
  swings: true,
  help: 'Swings evenly about the value.',
  synonyms: ['oscillate', 'sine', 'pulse', 'loop', 'lfo'],
  ahead: 'offset',
  params: {
    height: number({
      label: 'Height',
      unit: '',
      default: 1,
      soft: [0, 5],
      help: 'How far it goes to each side, in the unit of the value.',
    }),
    period: number({ label: 'Period', unit: 's', default: 2, min: 0.001, soft: [0.1, 10], help: 'Time from one crest to the next.' }),
    offset: number({
      label: 'Offset',
      unit: 's',
      default: 0,
      soft: [-5, 5],
      help: 'How much it runs ahead. Another offset makes a companion.',
    }),
    shape: choice({
      label: 'Shape',
      default: 'sine',
      options: [
        { value: 'sine', label: 'sine' },
        { value: 'triangle', label: 'triangle' },
        { value: 'square', label: 'square' },
        { value: 'ramp', label: 'ramp' },
      ],
      help: 'How it goes from crest to crest.',
    }),
  },
  sentence: () => say`Waves by ${'height'} every ${'period'}.`,
  make(p, { loop }) {
    const height = p.number('height'),
      // In a loop, a whole number of them.
      period = loop ? loop / Math.max(1, Math.round(loop / p.number('period'))) : p.number('period'),
      offset = p.number('offset')
    const shape = SHAPES[p.choice('shape')]
    return (t) => height * shape((t + offset) / period)
  },
})
