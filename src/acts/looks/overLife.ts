import { number, ref } from '../../shot'
import { defineLook, say } from '../define'

/** Colour, size and opacity over life, from a shared look. */
export const overLife = defineLook({
  kind: 'overLife',
  role: 'values',
  title: 'Over life',
  help: 'Colour, size and opacity over the life of a particle.',
  synonyms: ['colour', 'color', 'gradient', 'ramp', 'lifetime', 'fade', 'size over life', 'opacity', 'alpha'],
  params: {
    look: ref({
      label: 'Look',
      to: 'look',
      default: null,
      empty: 'plain white',
      help: 'The shared look: its ramp and curves are on the life strip.',
    }),
    size: number({
      label: 'Size',
      unit: 'm',
      default: 0.014,
      min: 0,
      soft: [0, 0.2],
      animated: true,
      varied: true,
      help: 'Diameter, before the curve over life.',
    }),
    brightness: number({
      label: 'Brightness',
      unit: '×',
      default: 1,
      min: 0,
      soft: [0, 20],
      animated: true,
      help: 'Multiplies the colour; above 1 it glows through bloom.',
    }),
    opacity: number({
      label: 'Opacity',
      unit: '%',
      default: 100,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'Before the curve over life.',
    }),
  },
  drawing: (p, t, seed) => ({
    look: p.text('look'),
    size: p.number('size', t),
    sizeVary: p.vary('size'),
    sizeSeed: seed,
    brightness: p.number('brightness', t),
    opacity: p.number('opacity', t) / 100,
  }),
  sentence: () => say`Coloured by ${'look'}, ${'size'} wide, ${'brightness'} bright.`,
})
