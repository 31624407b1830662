import { number, ref } from '../../shot'
import { defineFeed, say } from '../define'
import { brings, broughtDyes, feedAt, feedParams, feedWindow } from './common'

/** Particles feed a gas, each along its way. */
export const fromParticles = defineFeed({
  kind: 'fromParticles',
  title: 'From particles',
  help: 'The particles of a system bring density, heat, fuel and their velocity into the gas along their way.',
  synonyms: ['emitter', 'particle source', 'trail of smoke'],
  params: {
    system: ref({
      label: 'System',
      to: 'system',
      default: null,
      empty: 'nothing yet',
      gone: 'mute',
      help: 'The system whose particles feed it.',
    }),
    radius: number({
      label: 'Radius',
      unit: 'm',
      default: 0.06,
      min: 0.001,
      soft: [0.01, 0.5],
      animated: true,
      help: 'How far around it a particle reaches. Less than a voxel is spread over one, and as much less.',
    }),
    ...feedParams,
  },
  sentence: (p) => [...say`${'system'}, ${'radius'} around each: `, ...brings(p), ...say`, keep ${'own'} of their velocity.`],
  from: (p) => ({ system: p.text('system') }),
  dyes: broughtDyes,
  window: feedWindow,
  feed: (p, t) => feedAt(p, t, p.number('radius', t)),
})
