import { encodeTurbulence } from '../../engine'
import { choice, type NumberParam, number } from '../../shot'
import { defineForce, say, word } from '../define'
import type { Reads } from '../reader'
import { eddyParams, renewed } from './eddies'
import { shareParams } from './share'

const renewal = (p: Reads<{ renewal: NumberParam }>): string => {
  const r = p.number('renewal')
  return r === 0 ? 'standing still' : r < 0.75 ? 'changing slowly' : r < 2.5 ? 'changing' : 'changing fast'
}

/**
 * Divergence-free noise: eddies that push particles, or carry them without gathering them. Curl noise after Bridson et al. 2007; here the
 * cross product of two gradients.
 */
export const turbulence = defineForce({
  kind: 'turbulence',
  title: 'Turbulence',
  help: 'Eddies in the air, coarse and fine.',
  synonyms: ['noise', 'curl noise', 'eddies', 'chaos', 'jitter'],
  movesGas: true,
  params: {
    mode: choice({
      label: 'Mode',
      default: 'push',
      options: [
        { value: 'push', label: 'pushes', help: 'Adds acceleration; particles may gather.' },
        { value: 'carry', label: 'carries', help: 'Leads them to its own velocity; they stay spread.' },
      ],
      help: 'Push adds acceleration and lets particles gather; carry leads them to its velocity and keeps them spread.',
    }),
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      unitBy: { param: 'mode', units: { push: 'm/s²', carry: 'm/s' } },
      default: 3,
      min: 0,
      soft: [0, 40],
      animated: true,
      help: 'Largest push of the coarsest eddies; with carry it is a speed in m/s.',
    }),
    ...eddyParams(0.4, 0.5),
    response: number({
      when: { param: 'mode', is: ['carry'] },
      label: 'Response',
      unit: 's',
      default: 0.1,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'With carry: how long particles take to follow.',
    }),
    ...shareParams,
  },
  sentence: (p) =>
    say`Turbulence ${word(p.choice('mode') === 'carry' ? 'carries' : 'pushes', 'mode')} up to ${'strength'}, eddies of ${'eddy'}, ${word(renewal(p), 'renewal')}.`,
  resists: (p) => p.choice('mode') === 'carry',
  encode(w, p, at, seed, share) {
    encodeTurbulence(
      w,
      {
        carry: p.choice('mode', at.t0) === 'carry',
        strength: p.number('strength', at.t0),
        eddy: p.number('eddy', at.t0),
        octaves: p.number('octaves'),
        ...renewed(p, at.t0),
        responseS: p.number('response', at.t0),
      },
      seed,
      share,
    )
  },
})
