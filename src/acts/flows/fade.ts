import { number } from '../../shot'
import { defineFlow, say } from '../define'

const dye = (which: 'A' | 'B') =>
  number({
    label: `Dye ${which}`,
    unit: 's',
    default: 4,
    min: 0.01,
    empty: 'stays',
    soft: [0.2, 20],
    animated: true,
    help: 'After this time half of it is left; empty: it stays.',
  })
/** Density thins out, and heat is lost to the air and by radiation. */
export const fade = defineFlow({
  kind: 'fade',
  title: 'Fades',
  help: 'Density thins out, heat is lost to the air and by radiation.',
  synonyms: ['dissipation', 'dissolve', 'cooling'],
  params: {
    density: number({
      label: 'Density',
      unit: 's',
      default: 4,
      min: 0.01,
      empty: 'stays',
      given: true,
      soft: [0.2, 20],
      animated: true,
      help: 'After this time half of it is left; empty: it stays.',
    }),
    thin: number({
      label: 'Thin smoke',
      synonyms: ['dissipation curve', 'wisps', 'clean up', 'haze'],
      unit: '×',
      default: 1,
      min: 0,
      max: 1000,
      soft: [1, 20],
      animated: true,
      help: 'How many times as fast it fades where there is hardly any: over 1 haze goes and billows stay, under 1 haze stays.',
    }),
    below: number({
      label: 'Thin below',
      unit: '',
      default: 0.2,
      min: 0.001,
      soft: [0.02, 1],
      animated: true,
      help: 'The density up to which it is thin: from nothing to there the factor goes evenly to 1.',
    }),
    heat: number({
      label: 'Heat',
      unit: 's',
      default: 2,
      min: 0.01,
      empty: 'stays',
      given: true,
      soft: [0.1, 10],
      animated: true,
      help: 'After this time half of it is left; empty: it stays.',
    }),
    dyeA: dye('A'),
    dyeB: dye('B'),
    radiation: number({
      label: 'Radiation',
      unit: 'K/s',
      default: 0,
      min: 0,
      soft: [0, 5000],
      animated: true,
      help: 'How fast it cools by shining, 1,000 K over the air; it goes by the fourth power, so flames cool and warm smoke hardly.',
    }),
  },
  sentence: (p) => [
    ...(p.optional('density') === null ? say`Stays, ` : say`Fades by half in ${'density'}, `),
    ...(p.optional('density') !== null && p.number('thin') !== 1 ? say`where thin ${'thin'} as fast, ` : []),
    ...(p.optional('heat') === null ? say`keeps its heat` : say`cools by half in ${'heat'}`),
    ...(p.number('radiation') > 0 ? say`, shines away ${'radiation'}.` : ['.']),
  ],
  flow: (p, t) => ({
    densityHalf: p.optional('density', t),
    ...(p.number('thin', t) === 1 ? {} : { thin: { times: p.number('thin', t), below: p.number('below', t) } }),
    heatHalf: p.optional('heat', t),
    dyeHalf: [p.optional('dyeA', t), p.optional('dyeB', t)],
    cooling: p.number('radiation', t),
  }),
})
