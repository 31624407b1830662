import { encodeGasCarry, invert } from '../../engine'
import { number, ref } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** Particles go along with a gas: embers in a flame, ash in smoke. */
export const gasCarry = defineForce({
  kind: 'gasCarry',
  title: 'Carried by gas',
  help: 'Leads particles to the velocity of a gas: embers in a flame, ash in smoke.',
  synonyms: ['advect', 'embers', 'follow smoke', 'gas velocity'],
  params: {
    gas: ref({ label: 'Gas', to: 'gas', default: null, empty: 'none yet', gone: 'mute', help: 'The gas that carries them.' }),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.15,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How long particles take to follow: light ash at once, embers slowly.',
    }),
    ...shareParams,
  },
  sentence: () => say`Carried by ${'gas'}, followed in ${'response'}.`,
  resists: () => true,
  needs: (p) => (p.text('gas') === null ? 'has no gas yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const gas = site.gas(p.text('gas'))
    const into = site.from(null, at.t0)
    const out = invert(into)
    if (gas < 0 || !out) return
    encodeGasCarry(w, { gas, responseS: p.number('response', at.t0), out, into }, seed, share)
  },
})
