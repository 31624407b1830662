import { choice, type GasTone, number } from '../../shot'
import { defineGasLook, say, word } from '../define'
import { byTone, TONE_OPTIONS } from './tones'

/** What of a gas shines. */
export const glow = defineGasLook({
  kind: 'glow',
  title: 'Glows',
  help: 'Shines by itself, as a black body of its temperature or in the colours of its ramp.',
  synonyms: ['emission', 'fire', 'black body', 'incandescence', 'light'],
  params: {
    by: byTone('flame', 'The grid that says how bright it is.'),
    colour: choice({
      label: 'Colour',
      default: 'blackBody',
      options: [
        { value: 'blackBody', label: 'as a black body', help: 'By its temperature, as embers and flames have it.' },
        { value: 'ramp', label: 'by a ramp', help: 'Of the grid that makes it bright, or of another.' },
      ],
      help: 'Where its colour comes from.',
    }),
    rampOf: choice({
      when: { param: 'colour', is: ['ramp'] },
      label: 'Ramp of',
      default: 'itself',
      options: [{ value: 'itself', label: 'the same', help: 'Of the grid that makes it bright.' }, ...TONE_OPTIONS],
      help: 'The grid whose ramp colours it.',
    }),
    coldest: number({
      when: { param: 'colour', is: ['blackBody'] },
      label: 'Coldest',
      unit: 'K',
      default: 1000,
      min: 400,
      max: 40000,
      soft: [600, 3000],
      animated: true,
      help: 'The black body whose colour gas has that is no hotter than the air. Embers 1,000 K, candles 1,900 K, the sun 5,800 K.',
    }),
    hottest: number({
      when: { param: 'colour', is: ['blackBody'] },
      label: 'Hottest',
      unit: 'K',
      default: 2200,
      min: 400,
      max: 40000,
      soft: [1000, 6000],
      animated: true,
      help: 'The black body whose colour gas has at the top of its temperatures. What is colder shines as much less, by the fourth power.',
    }),
    strength: number({
      label: 'Bright',
      unit: '×',
      default: 20,
      min: 0,
      soft: [0, 200],
      animated: true,
      help: 'Light of a metre of it where its curve is 1.',
    }),
    lights: number({
      label: 'Lights others',
      unit: '%',
      default: 100,
      min: 0,
      soft: [0, 200],
      animated: true,
      help: 'How strongly it lights objects, particles and smoke around it.',
    }),
  },
  sentence: (p) =>
    say`Glows ${word(p.choice('colour') === 'ramp' ? 'in the colours of its ramp' : 'as a black body', 'colour')} by ${'by'}, ${'strength'} bright.`,
  volume: (p, t) => ({
    glow: {
      by: p.choice('by', t),
      colour: p.choice('colour', t),
      rampOf: p.choice('rampOf', t) === 'itself' ? p.choice('by', t) : (p.choice('rampOf', t) as GasTone),
      coldest: p.number('coldest', t),
      hottest: p.number('hottest', t),
      strength: p.number('strength', t),
      lights: p.number('lights', t) / 100,
    },
  }),
})
