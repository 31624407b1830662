import { TURN_COLUMNS } from '../../engine'
import { number } from '../../shot'
import { defineLook, say } from '../define'
import { meetsParam } from './meets'

/**
 * A flat leaf of something: paper, petals, ash, scales. How it lies comes from the movement Spin; without it each lies as its seed has it.
 */
export const flake = defineLook({
  kind: 'flake',
  role: 'draw',
  title: 'Flake',
  help: 'A flat leaf that turns in the light: paper, petals, ash.',
  synonyms: ['snow', 'leaf', 'confetti', 'paper', 'billboard', 'sprite'],
  columns: TURN_COLUMNS,
  params: {
    length: number({
      label: 'Length',
      unit: '×',
      default: 1.5,
      min: 0.1,
      max: 20,
      soft: [0.5, 4],
      animated: true,
      help: 'Of its width, which is the size of the particle.',
    }),
    round: number({
      label: 'Round',
      unit: '%',
      default: 20,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: '0 has corners, 100 is a disc.',
    }),
    shade: number({
      label: 'Shading',
      unit: '%',
      default: 70,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How much of its light depends on how it faces the shot’s first light.',
    }),
    back: number({
      label: 'Back',
      unit: '%',
      default: 55,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'Brightness of its other side.',
    }),
    glint: number({
      label: 'Glint',
      unit: '×',
      default: 2,
      min: 0,
      soft: [0, 20],
      animated: true,
      help: 'How bright it flashes where it mirrors that light.',
    }),
    softness: number({
      label: 'Softness',
      unit: '%',
      default: 5,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'How soft its rim is.',
    }),
    meets: meetsParam,
  },
  drawing: (p, t) => ({
    shape: 'flake',
    flake: {
      length: p.number('length', t),
      round: p.number('round', t) / 100,
      shade: p.number('shade', t) / 100,
      back: p.number('back', t) / 100,
      glint: p.number('glint', t),
    },
    softness: p.number('softness', t) / 100,
    meets: p.number('meets', t),
  }),
  sentence: () => say`Flake ${'length'} as long as wide, ${'round'} round, shading ${'shade'}, glint ${'glint'}.`,
})
