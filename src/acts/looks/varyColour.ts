import { number } from '../../shot'
import { defineLook, say } from '../define'
import type { MappingDrawing } from '../drawing'
import { LOOK_SAMPLES } from '../lookTables'
import { NOTHING_ASKED } from './mapping'

const STRAIGHT = Float32Array.from({ length: LOOK_SAMPLES }, (_, i) => i / (LOOK_SAMPLES - 1))
/** Seeds of the three that are drawn, beside that of the act. */
const OWN = [0, 0x9e3779b9, 0x3c6ef372]

/** Each particle in a colour of its own, about the one that it has. */
export const varyColour = defineLook({
  kind: 'varyColour',
  role: 'mapping',
  title: 'Colour variation',
  help: 'Hue, saturation and brightness of each particle’s own, about the colour that it has.',
  synonyms: ['random colour', 'hue', 'saturation', 'value', 'vary', 'jitter', 'confetti'],
  params: {
    hue: number({
      ...{ label: 'Hue ±', unit: '°', default: 12, min: 0, max: 180, soft: [0, 60], animated: true },
      help: 'Turned around the circle of colours by up to this.',
    }),
    saturation: number({
      ...{ label: 'Saturation ±', unit: '%', default: 0, min: 0, max: 100, soft: [0, 60], animated: true },
      help: 'Farther from grey or nearer to it, by up to this.',
    }),
    value: number({
      ...{ label: 'Brightness ±', unit: '%', default: 15, min: 0, max: 100, soft: [0, 60], animated: true },
      help: 'Brighter or darker by up to this.',
    }),
  },
  drawing: () => ({}),
  mapping(p, seed, t) {
    const one = (of: MappingDrawing['of'], joins: MappingDrawing['joins'], middle: number, by: number, k: number): MappingDrawing[] =>
      by > 0
        ? [
            {
              ...{ of, by: 'random', from: 0, to: 1, curve: STRAIGHT, joins, low: middle - by, high: middle + by },
              ...{ look: null, amount: 1, ...NOTHING_ASKED, seed: (seed + OWN[k]) >>> 0 },
            },
          ]
        : []
    return [
      ...one('hue', 'add', 0, p.number('hue', t), 0),
      ...one('saturation', 'multiply', 1, p.number('saturation', t) / 100, 1),
      ...one('brightness', 'multiply', 1, p.number('value', t) / 100, 2),
    ]
  },
  sentence: () => say`Hue ± ${'hue'}, brightness ± ${'value'}, each its own.`,
})
