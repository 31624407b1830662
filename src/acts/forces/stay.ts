import { encodeStay, HOLD_COLUMNS } from '../../engine'
import { number, ref } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/**
 * A spring to a place on the skin of an object: the one that was nearest when a particle first felt it. k = (2π / period)², friction by how
 * much of the critical damping.
 */
export const stay = defineForce({
  kind: 'stay',
  title: 'Stay on a surface',
  help: 'Every particle keeps its place on the skin of an object that moves and bends, as if on a spring.',
  synonyms: ['goal', 'spring', 'anchor', 'pin', 'rest position'],
  columns: HOLD_COLUMNS,
  params: {
    object: ref({
      label: 'Object',
      to: 'object',
      default: null,
      empty: 'none yet',
      help: 'On whose skin; it may move, change shape and be unseen.',
    }),
    swing: number({
      label: 'Swings in',
      unit: 's',
      default: 0.3,
      min: 0.001,
      soft: [0.02, 2],
      animated: true,
      help: 'How long one swing of the spring takes: short is stiff.',
    }),
    damping: number({
      label: 'Damping',
      unit: '%',
      default: 70,
      min: 0,
      max: 1000,
      soft: [0, 150],
      animated: true,
      help: 'How soon swings end: at 100 % it comes back without swinging past.',
    }),
    ...shareParams,
  },
  sentence: () => say`Stays at its place on ${'object'}, swings in ${'swing'}, damped ${'damping'}.`,
  needs: (p) => (p.text('object') === null ? 'has no object yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const object = site.index(p.text('object'))
    const turn = 6.283185307179586 / p.number('swing', t)
    if (object >= 0)
      encodeStay(w, { object, spring: turn * turn, friction: (2 * turn * p.number('damping', t)) / 100, dt: at.dt }, seed, share)
  },
})
