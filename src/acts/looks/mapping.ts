import { choice, curve, number, ref, type Unit } from '../../shot'
import type { MappingDrawing } from '../drawing'
import { TONE_OPTIONS } from '../gasLooks/tones'
import { curveTable } from '../lookTables'
import type { Reads } from '../reader'

/** What has a range of its own; the rest goes from 0 to 1 as it is. */
const RANGED = {
  param: 'by',
  is: [
    ...['age', 'phase', 'speed', 'order', 'x', 'y', 'z', 'object', 'surface', 'source', 'camera'],
    ...['gas', 'near', 'contact', 'strike', 'generation'],
  ],
} as const
const units = {
  age: 's',
  phase: 's',
  speed: 'm/s',
  order: '',
  x: 'm',
  y: 'm',
  z: 'm',
  object: 'm',
  surface: 'm',
  source: 'm',
  camera: 'm',
  gas: '',
  near: '',
  contact: 's',
  strike: 'm/s',
  generation: '',
} as const satisfies Record<string, Unit>

/** Of a mapping that goes by nothing of the shot. */
export const NOTHING_ASKED = { object: null, region: null, gas: null, grid: 'density', within: 0 } as const
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
      { value: 'order', label: 'order of birth', help: 'How many of the system were born before it.' },
      { value: 'y', label: 'height', help: 'Place along Y of the shot or an object.' },
      { value: 'x', label: 'X', help: 'Place along X of the shot or an object.' },
      { value: 'z', label: 'Z', help: 'Place along Z of the shot or an object.' },
      { value: 'object', label: 'an object', help: 'Distance to its own middle.' },
      { value: 'surface', label: 'an object’s surface', help: 'Distance to the nearest place of it; below zero inside of a closed one.' },
      { value: 'region', label: 'a region', help: 'How much of it the nearest place of an object has.' },
      { value: 'source', label: 'its birthplace', help: 'Distance to where it was born.' },
      { value: 'gas', label: 'a gas', help: 'What a gas holds where it is.' },
      { value: 'near', label: 'neighbours', help: 'How many others of the system are near.' },
      {
        value: 'contact',
        label: 'time since a contact',
        help: 'Seconds since it last met a collider; at the end of the curve before it meets one.',
      },
      { value: 'strike', label: 'strength of its contact', help: 'How fast it went towards the collider that it met last.' },
      { value: 'generation', label: 'generation', help: 'How many particles it descends from.' },
      { value: 'camera', label: 'the camera', help: 'Distance to the shot’s camera, wherever the View looks from.' },
    ],
    help: 'What of a particle it goes by.',
  }),
  object: ref({
    ...{ label: 'Object', to: 'object', default: null, empty: 'the shot itself' },
    when: { param: 'by', is: ['object', 'surface', 'region', 'x', 'y', 'z'] },
    help: 'From where it is measured, or in whose own space.',
  }),
  region: {
    type: 'region',
    label: 'Region',
    of: 'object',
    default: '',
    when: { param: 'by', is: ['region'] },
    help: 'One of the object’s regions.',
  },
  gas: ref({
    ...{ label: 'Gas', to: 'gas', default: null, empty: 'none yet', when: { param: 'by', is: ['gas'] } },
    help: 'The gas that is asked.',
  }),
  grid: choice({
    ...{ label: 'What', default: 'density', options: TONE_OPTIONS, when: { param: 'by', is: ['gas'] } },
    help: 'Which of its grids; temperatures are kelvin over the air.',
  }),
  within: number({
    ...{ label: 'Within', unit: 'm', default: 0.1, min: 0.001, soft: [0.01, 1], when: { param: 'by', is: ['near'] } },
    help: 'So near others are counted.',
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
): Pick<MappingDrawing, 'by' | 'object' | 'region' | 'gas' | 'grid' | 'within' | 'from' | 'to' | 'curve' | 'seed'> {
  const by = p.choice('by') as MappingDrawing['by']
  const ranged = (RANGED.is as readonly string[]).includes(by)
  return {
    ...{ by, object: p.text('object'), region: p.text('region'), seed, curve: curveTable(p.curve('curve')) },
    ...{ gas: p.text('gas'), grid: p.choice('grid') as MappingDrawing['grid'], within: p.number('within') },
    ...{ from: ranged ? p.number('from') : 0, to: ranged ? p.number('to') : 1 },
  }
}
