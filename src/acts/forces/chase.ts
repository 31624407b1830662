import { encodeChase, HOLD_COLUMNS } from '../../engine'
import { choice, number, ref } from '../../shot'
import { defineForce, say } from '../define'
import { reachOf, reachParam } from './placed'
import { shareParams } from './share'

/** After a place on an object, or after particles of a system: it arrives, settles and moves with its target. */
export const chase = defineForce({
  kind: 'chase',
  title: 'Chase',
  help: 'Particles fly to a target, arrive and stay with it.',
  synonyms: ['goal', 'follow', 'target', 'seek', 'homing'],
  columns: HOLD_COLUMNS,
  params: {
    target: ref({
      label: 'Target',
      to: 'source',
      default: null,
      empty: 'none yet',
      help: 'An object, or the particles of another system.',
    }),
    pick: choice({
      label: 'Which',
      default: 'nearest',
      options: [
        { value: 'nearest', label: 'the nearest', help: 'The nearest place of its surface, or the nearest particle.' },
        {
          value: 'kept',
          label: 'one of its own',
          help: 'A place of its surface, picked by the seed and kept: it moves with the object. Of a system as in turn.',
        },
        { value: 'inTurn', label: 'in turn', help: 'Its corner points, or its particles, one after the other in their order.' },
        { value: 'middle', label: 'its middle', help: 'The place of the object itself.' },
      ],
      help: 'Which of its places a particle flies to.',
    }),
    speed: number({
      label: 'Speed',
      unit: 'm/s',
      default: 2,
      min: 0.001,
      soft: [0.1, 20],
      animated: true,
      help: 'How fast they fly, beside what the target does itself.',
    }),
    arrive: number({
      label: 'Slows from',
      unit: 'm',
      default: 0.4,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'From this distance on they slow down, so that they arrive and do not overshoot.',
    }),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.08,
      min: 0,
      soft: [0, 1],
      animated: true,
      help: 'How long they take to turn towards it.',
    }),
    maxAcceleration: number({
      label: 'At most',
      unit: 'm/s²',
      default: 60,
      min: 0.01,
      soft: [1, 500],
      animated: true,
      given: true,
      empty: 'any',
      help: 'The most that their speed can change: small, and they fly in wide curves.',
    }),
    reach: { ...reachParam(1, 'Targets farther away are not seen.'), given: false },
    ...shareParams,
  },
  sentence: () => say`Chases ${'pick'} of ${'target'} at ${'speed'}, slows from ${'arrive'}, turns at ${'maxAcceleration'} at most.`,
  needs: (p) => (p.text('target') === null ? 'has no target yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const id = p.text('target')
    const object = site.index(id)
    const system = site.system(id)
    const pick = p.choice('pick', t) as 'nearest' | 'kept' | 'inTurn' | 'middle'
    const target =
      object >= 0
        ? { object, pick }
        : system === null
          ? null
          : { system, pick: pick === 'nearest' ? ('nearest' as const) : ('inTurn' as const) }
    if (target)
      encodeChase(
        w,
        target,
        {
          speed: p.number('speed', t),
          arrive: p.number('arrive', t),
          responseS: p.number('response', t),
          maxAcceleration: p.optional('maxAcceleration', t) ?? 1e12,
          reach: reachOf(p, t),
          dt: at.dt,
        },
        seed,
        share,
      )
  },
})
