import { encodeGravity } from '../../engine'
import { number, vector } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** Even acceleration. */
export const gravity = defineForce({
  kind: 'gravity',
  title: 'Gravity',
  help: 'Pulls every particle the same way.',
  synonyms: ['weight', 'fall', 'acceleration'],
  params: {
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      default: 9.81,
      soft: [-20, 20],
      animated: true,
      help: 'Acceleration; 9.81 m/s² is the ground at sea level.',
    }),
    direction: vector({
      label: 'Direction',
      unit: '',
      default: [0, -1, 0],
      animated: true,
      help: 'Which way it pulls; its length does not matter.',
    }),
    ...shareParams,
  },
  sentence: (p) => {
    const [x, y, z] = p.vector('direction')
    return x === 0 && z === 0 && y < 0
      ? say`Gravity pulls down at ${'strength'}.`
      : say`Gravity pulls towards ${'direction'} at ${'strength'}.`
  },
  encode(w, p, at, seed, share) {
    const [x, y, z] = p.vector('direction', at.t0)
    const length = Math.sqrt(x * x + y * y + z * z)
    const k = length > 0 ? p.number('strength', at.t0) / length : 0
    encodeGravity(w, [x * k, y * k, z * k], seed, share)
  },
})
