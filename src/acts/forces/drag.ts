import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** Linear drag: dv/dt = −ln 2 / halving · v, solved exactly over the step. Terminal speed under g is g · halving / ln 2. */
export const drag = defineForce({
  kind: 'drag',
  title: 'Drag',
  help: 'Slows particles down as still air does.',
  params: {
    halving: number({ label: 'Halves in', unit: 's', default: 1, min: 1e-4, soft: [0.05, 5], animated: true, help: 'Time after which half of the speed is left.' }),
    ...shareParams,
  },
  sentence: () => say`Drag halves the speed in ${'halving'}.`,
  encode(w, p, at, seed, share) {
    w.drag(p.number('halving', at.t0), seed, share)
  },
})
