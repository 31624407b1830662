import { encodeMassBy } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** The mass of each particle by what its limits say of it: where it is, how fast, how old. */
export const mass = defineForce({
  kind: 'mass',
  title: 'Mass',
  help: 'Particles weigh so many times as much, as far as its limits say: by their place, age or speed, in a gas, near others. Drag, wind and all else that moves heavy ones less move them less.',
  synonyms: ['weight', 'heavy', 'light', 'density', 'inertia', 'vary mass', 'mapping'],
  params: {
    factor: number({
      label: 'Times',
      unit: '',
      default: 3,
      min: 0.001,
      max: 1000,
      soft: [0.1, 10],
      animated: true,
      help: 'Of the mass that the system says; below 1 they are lighter.',
    }),
    ...shareParams,
  },
  leads: true,
  sentence: () => say`Mass is multiplied by ${'factor'}.`,
  encode: (w, p, at, seed, share) => encodeMassBy(w, p.number('factor', at.t0), seed, share),
})
