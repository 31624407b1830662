import { choice, curve, number, ref } from '../../shot'
import type { MappingDrawing } from '../drawing'
import { curveTable } from '../lookTables'
import type { Reads } from '../reader'

/** What has a range of its own; the rest goes from 0 to 1 as it is. */
const RANGED = { param: 'by', is: ['age', 'phase', 'speed', 'x', 'y', 'z', 'object', 'camera'] } as const
const units = { age: 's', phase: 's', speed: 'm/s', x: 'm', y: 'm', z: 'm', object: 'm', camera: 'm' } as const

/** What a mapping goes by, and through which range and curve. */
export const MAPPING_PARAMS = {
  by: choice({
    label: 'By',
    default: 'speed',
    options: [
      { value: 'share', label: 'share of life', help: 'From birth to the end.' },
      { value: 'age', label: 'age', help: 'Seconds since birth.' },
      { value: 'phase', label: 'time in the phase', help: 'Seconds since it came into its phase; since birth where nothing turns.' },
      { value: 'speed', label: 'speed', help: 'In the system’s own space.' },
      { value: 'random', label: 'random', help: 'A number of each particle’s own, which stays.' },
      { value: 'y', label: 'height', help: 'Place along Y of the shot.' },
      { value: 'x', label: 'X', help: 'Place along X of the shot.' },
      { value: 'z', label: 'Z', help: 'Place along Z of the shot.' },
      { value: 'object', label: 'an object', help: 'Distance to its own middle.' },
      { value: 'camera', label: 'the camera', help: 'Distance to the shot’s camera, wherever the View looks from.' },
    ],
    help: 'What of a particle it goes by.',
  }),
  object: ref({
    ...{ label: 'Object', to: 'object', default: null, empty: 'the shot’s middle', when: { param: 'by', is: ['object'] } },
    help: 'From whose middle the distance is.',
  }),
  from: number({
    ...{ label: 'From', unit: 'm/s', default: 0, soft: [-5, 5], unitBy: { param: 'by', units }, when: RANGED },
    help: 'Where the curve begins; what is below stays at its beginning.',
  }),
  to: number({
    ...{ label: 'To', unit: 'm/s', default: 3, soft: [-5, 5], unitBy: { param: 'by', units }, when: RANGED },
    help: 'Where the curve ends; below From it runs the other way.',
  }),
  curve: curve({
    ...{ label: 'Curve', unit: '%', max: 1, from: 'from', to: 'to' },
    default: {
      points: [
        { at: 0, v: 0 },
        { at: 1, v: 1 },
      ],
    },
    help: 'How it goes from one to the other.',
  }),
} as const

/** What the group says of a mapping; `seed`: of the act. */
export function mappingOf(
  p: Reads<typeof MAPPING_PARAMS>,
  seed: number,
): Pick<MappingDrawing, 'by' | 'object' | 'from' | 'to' | 'curve' | 'seed'> {
  const by = p.choice('by') as MappingDrawing['by']
  const ranged = (RANGED.is as readonly string[]).includes(by)
  return {
    ...{ by, object: p.text('object'), seed, curve: curveTable(p.curve('curve')) },
    ...{ from: ranged ? p.number('from') : 0, to: ranged ? p.number('to') : 1 },
  }
}
