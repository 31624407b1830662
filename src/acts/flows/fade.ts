import { number } from '../../shot'
import { defineFlow, say } from '../define'

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
    ...(p.optional('heat') === null ? say`keeps its heat` : say`cools by half in ${'heat'}`),
    ...(p.number('radiation') > 0 ? say`, shines away ${'radiation'}.` : ['.']),
  ],
  flow: (p, t) => ({
    densityHalf: p.optional('density', t),
    heatHalf: p.optional('heat', t),
    cooling: p.number('radiation', t),
  }),
})
