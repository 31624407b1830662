import { encodeDrag, encodeSquareDrag } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/**
 * Linear drag: dv/dt = −ln 2 / halving · v, solved exactly over the step; terminal speed under g is g · halving / ln 2. Beside it one by
 * the square of the speed, solved exactly by itself.
 */
export const drag = defineForce({
  kind: 'drag',
  title: 'Drag',
  help: 'Slows particles down as still air does.',
  synonyms: ['damping', 'air resistance', 'viscosity', 'friction', 'slow down'],
  movesGas: true,
  params: {
    halving: number({
      label: 'Halves in',
      unit: 's',
      default: 1,
      min: 1e-4,
      soft: [0.05, 5],
      animated: true,
      help: 'Time after which half of the speed of a particle of 1 kg is left; heavier ones take longer.',
    }),
    square: number({
      label: 'By square',
      unit: '1/m',
      default: 0,
      min: 0,
      soft: [0, 5],
      animated: true,
      help: 'Drag that grows with the square of the speed; its terminal speed under g is √(g / this).',
    }),
    ...shareParams,
  },
  sentence: () => say`Drag halves the speed in ${'halving'}.`,
  resists: () => true,
  encode(w, p, at, seed, share) {
    encodeDrag(w, p.number('halving', at.t0), seed, share)
    const square = p.number('square', at.t0)
    if (square > 0) encodeSquareDrag(w, square, seed, share)
  },
})
