import { choice, number } from '../../shot'
import { defineLook, say } from '../define'
import { MAPPING_PARAMS, mappingOf } from './mapping'

const SCALED = { param: 'joins', is: ['multiply'] } as const
const GIVEN = { param: 'joins', is: ['add', 'replace'] } as const
const unitBy = {
  param: 'of',
  units: { size: 'm', brightness: '×', opacity: '%', softness: '%', turn: '°', stretch: '×', picture: '' },
} as const

/** Size, brightness, opacity and more of each particle by something of it. */
export const mapValue = defineLook({
  kind: 'mapValue',
  role: 'mapping',
  title: 'Mapping',
  help: 'Size, brightness, opacity, softness, turn, stretch or picture by speed, height, distance, neighbours, or a number of each particle’s own.',
  synonyms: ['map', 'attribute', 'vary', 'taper', 'falloff', 'random size', 'range'],
  params: {
    of: choice({
      label: 'Of',
      default: 'size',
      options: [
        { value: 'size', label: 'size' },
        { value: 'brightness', label: 'brightness' },
        { value: 'opacity', label: 'opacity' },
        { value: 'softness', label: 'softness', help: 'Of dots, dashes, flakes and tufts.' },
        { value: 'turn', label: 'turn', help: 'Of sprites in the picture, of flakes and solids about their own Y.' },
        { value: 'stretch', label: 'stretch', help: 'Of dashes, flakes, sprites and solids along their length.' },
        { value: 'picture', label: 'picture', help: 'Which frame of a sprite, on from the one that it has.' },
      ],
      help: 'What it changes.',
    }),
    ...MAPPING_PARAMS,
    joins: choice({
      label: 'Joins',
      default: 'multiply',
      options: [
        { value: 'multiply', label: 'multiplies', help: 'What there is without it.' },
        { value: 'add', label: 'adds', help: 'To what there is without it.' },
        { value: 'replace', label: 'replaces', help: 'What there is without it, the curve over life too.' },
      ],
      help: 'How it goes with what is there; several go in their order.',
    }),
    less: number({
      ...{ label: 'At 0 %', unit: '×', default: 0, min: 0, soft: [0, 4], when: SCALED },
      help: 'Factor where the curve is at its lowest.',
    }),
    more: number({
      ...{ label: 'At 100 %', unit: '×', default: 1, min: 0, soft: [0, 4], when: SCALED },
      help: 'Factor where the curve is at its highest.',
    }),
    low: number({
      ...{ label: 'At 0 %', unit: 'm', default: 0, soft: [0, 1], unitBy, when: GIVEN },
      help: 'Value where the curve is at its lowest.',
    }),
    high: number({
      ...{ label: 'At 100 %', unit: 'm', default: 0.05, soft: [0, 1], unitBy, when: GIVEN },
      help: 'Value where the curve is at its highest.',
    }),
  },
  drawing: () => ({}),
  mapping: (p, seed) => {
    const [of, joins] = [p.choice('of'), p.choice('joins')]
    const scale = of === 'opacity' || of === 'softness' ? 0.01 : 1
    return {
      ...mappingOf(p, seed),
      ...{ of, joins, look: null, amount: 1 },
      ...(joins === 'multiply'
        ? { low: p.number('less'), high: p.number('more') }
        : { low: p.number('low') * scale, high: p.number('high') * scale }),
    }
  },
  sentence: (p) => {
    const joins = p.choice('joins')
    if (joins === 'multiply') return say`Multiplies ${'of'} by ${'less'} to ${'more'}, by ${'by'}.`
    return joins === 'add'
      ? say`Adds ${'low'} to ${'high'} to ${'of'}, by ${'by'}.`
      : say`Sets ${'of'} to ${'low'} to ${'high'}, by ${'by'}.`
  },
})
