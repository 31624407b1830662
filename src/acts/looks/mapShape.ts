import { number } from '../../shot'
import { defineLook, say } from '../define'
import { MAPPING_PARAMS, mappingOf } from './mapping'

/** A value of the shape of the object whose copies particles are, for each of its own. */
export const mapShape = defineLook({
  kind: 'mapShape',
  role: 'mapping',
  title: 'Shape mapping',
  help: 'A value of an object’s shape or of its steps for each particle of its own: of systems that are drawn as copies of it.',
  synonyms: ['vary shape', 'variation', 'morph', 'clone', 'parameter', 'different', 'individual'],
  params: {
    value: { type: 'value', label: 'Value', only: 'shape', default: null, help: 'Of which object, and which of the values of its shape.' },
    ...MAPPING_PARAMS,
    low: number({
      label: 'At 0 %',
      unit: '',
      default: 0,
      soft: [-2, 2],
      help: 'The value where the curve is at its lowest, in its own unit.',
    }),
    high: number({
      label: 'At 100 %',
      unit: '',
      default: 1,
      soft: [-2, 2],
      help: 'The value where the curve is at its highest, in its own unit.',
    }),
    shared: number({
      ...{ label: 'Steps', unit: '%', default: 1, min: 0, max: 50, soft: [0, 10] },
      help: 'Values that differ by less than this share of all there are have one shape together; at 0 each has its own.',
    }),
  },
  drawing: () => ({}),
  shape: (p, seed) => {
    const [low, high] = [p.number('low'), p.number('high')]
    return {
      ...mappingOf(p, seed),
      ...{ of: 'size', joins: 'replace', look: null, amount: 1, low, high },
      value: p.stored('value'),
      step: (Math.abs(high - low) * p.number('shared')) / 100,
    }
  },
  sentence: () => say`${'value'} from ${'low'} to ${'high'}, by ${'by'}.`,
})
