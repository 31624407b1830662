import { encodeRadiusBy } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** The radius of each particle that meets its like, by what its limits say of it. */
export const radius = defineForce({
  kind: 'radius',
  title: 'Radius',
  help: 'Multiplies the radius at which particles meet each other and colliders, as far as limits say: by place, age or speed, in a gas, near others. Larger ones are heavier, by their volume.',
  synonyms: ['collision radius', 'swell', 'shrink', 'grow', 'thickness', 'vary radius', 'mapping'],
  columns: ['girth'],
  params: {
    factor: number({
      label: 'Times',
      unit: '',
      default: 2,
      min: 0.01,
      max: 100,
      soft: [0.2, 5],
      animated: true,
      help: 'Of the radius that the card “Meet each other” says; below 1 they are smaller.',
    }),
    ...shareParams,
  },
  leads: true,
  widens: (p, t) => p.number('factor', t),
  sentence: () => say`Radius is multiplied by ${'factor'}.`,
  encode: (w, p, at, seed, share) => encodeRadiusBy(w, p.number('factor', at.t0), seed, share),
})
