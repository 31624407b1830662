import { choice, number, ref } from '../../shot'
import { defineLook, say } from '../define'
import { MAPPING_PARAMS, mappingOf } from './mapping'

/** Colour of each particle along a ramp by something of it. */
export const mapColour = defineLook({
  kind: 'mapColour',
  role: 'mapping',
  title: 'Colour mapping',
  help: 'Colour along a ramp by speed, height, distance, or a number of each particle’s own.',
  synonyms: ['random colour', 'color by', 'gradient', 'ramp', 'attribute', 'confetti', 'hue'],
  params: {
    look: ref({
      ...{ label: 'Ramp of', to: 'look', default: null, empty: 'plain white' },
      help: 'The shared look whose colours it goes along.',
    }),
    ...MAPPING_PARAMS,
    joins: choice({
      label: 'Joins',
      default: 'replace',
      options: [
        { value: 'multiply', label: 'multiplies', help: 'The colour without it.' },
        { value: 'add', label: 'adds', help: 'To the colour without it.' },
        { value: 'replace', label: 'replaces', help: 'The colour without it.' },
      ],
      help: 'How it goes with what is there; several go in their order.',
    }),
    amount: number({
      ...{ label: 'Amount', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true },
      help: 'How much of it counts.',
    }),
  },
  drawing: () => ({}),
  mapping: (p, seed, t) => ({
    ...mappingOf(p, seed),
    ...{ of: 'colour', joins: p.choice('joins'), look: p.text('look'), amount: p.number('amount', t) / 100, low: 0, high: 1 },
  }),
  sentence: () => say`Colours of ${'look'} by ${'by'}, ${'amount'} of it.`,
})
