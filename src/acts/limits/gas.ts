import { encodeLimitGas, GAS_SCALARS, invert } from '../../engine'
import { choice, number, ref } from '../../shot'
import { defineLimit, say, word } from '../define'
import { ONLY, sideParam } from './common'

/** Where a gas is dense, hot or burning. */
export const limitGas = defineLimit({
  kind: 'limitGas',
  ofPlaces: true,
  title: 'In a gas',
  help: 'Only where a gas holds so much: where it is dense, hot, or burns.',
  synonyms: ['smoke', 'temperature', 'fire', 'density', 'flame'],
  params: {
    gas: ref({
      label: 'Gas',
      to: 'gas',
      default: null,
      empty: 'this gas itself',
      help: 'The gas that is asked; of a force on a gas also that one itself.',
    }),
    grid: choice({
      label: 'What',
      default: 'temperature',
      options: [
        { value: 'density', label: 'density' },
        { value: 'temperature', label: 'heat', help: 'Kelvin over the air.' },
        { value: 'fuel', label: 'fuel' },
        { value: 'flame', label: 'flame' },
        { value: 'dyeA', label: 'dye A' },
        { value: 'dyeB', label: 'dye B' },
      ],
      help: 'Which of its grids.',
    }),
    from: number({
      label: 'From',
      unit: '',
      unitBy: { param: 'grid', units: { temperature: 'K' } },
      default: 50,
      soft: [0, 500],
      animated: true,
      help: 'Up to so much it does not act.',
    }),
    to: number({
      label: 'All from',
      unit: '',
      unitBy: { param: 'grid', units: { temperature: 'K' } },
      default: 300,
      soft: [0, 1500],
      animated: true,
      help: 'From so much on it acts fully.',
    }),
    side: sideParam,
  },
  // Of a force on a gas it may stay empty; nobody asks there.
  needs: (p) => (p.text('gas') === null ? 'asks for a gas, and none is chosen' : null),
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} where ${'gas'} has ${'grid'} of ${'from'} to ${'to'}.`,
  encode(w, p, at, _seed, site) {
    const out = invert(site.from(null, at.t0))
    encodeLimitGas(w, {
      gas: out ? site.gas(p.text('gas')) : -1,
      grid: GAS_SCALARS.indexOf(p.choice('grid')),
      from: p.number('from', at.t0),
      to: p.number('to', at.t0),
      outside: p.choice('side') === 'outside',
      out: out ?? site.from(null, at.t0),
    })
  },
})
