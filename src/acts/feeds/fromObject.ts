import { choice, number, ref } from '../../shot'
import { defineFeed, say, word } from '../define'
import { brings, broughtDyes, feedAt, feedParams, feedWindow, patchesAt, patchParams } from './common'

/** An object's inside, or what lies along its surface, feeds a gas. */
export const fromObject = defineFeed({
  kind: 'fromObject',
  title: 'From an object',
  help: 'The inside of an object, or its skin, brings density, heat, fuel and velocity into the gas.',
  synonyms: ['emitter', 'source', 'smoke source', 'fire source'],
  params: {
    object: ref({ label: 'Object', to: 'object', default: null, empty: 'nothing yet', gone: 'mute', help: 'The object that feeds it.' }),
    where: choice({
      label: 'Where',
      default: 'skin',
      options: [
        { value: 'inside', label: 'its inside', help: 'All that a closed object encloses.' },
        { value: 'skin', label: 'its skin', help: 'What lies within its reach on both sides of the surface.' },
      ],
      help: 'Which part of it feeds the gas.',
    }),
    region: {
      type: 'region',
      label: 'Region',
      of: 'object',
      default: '',
      help: 'Only by the amounts of one of its regions, at the nearest place of its surface; all of it when empty.',
    },
    reach: number({
      label: 'Reach',
      unit: 'm',
      default: 0.05,
      min: 0,
      soft: [0, 0.5],
      animated: true,
      help: 'How far off its surface it reaches.',
    }),
    ...feedParams,
    ...patchParams,
  },
  sentence: (p) => [
    ...say`${'object'}, ${word(p.choice('where') === 'inside' ? 'its inside' : 'its skin', 'where')}: `,
    ...brings(p),
    ...(p.number('breakUp') > 0 ? say`, broken up ${'breakUp'} by patches of ${'breakSize'}.` : ['.']),
  ],
  from: (p) => ({ object: p.text('object'), skin: p.choice('where') === 'skin', region: p.text('region') ?? '' }),
  dyes: broughtDyes,
  window: feedWindow,
  feed: (p, t) => ({ ...feedAt(p, t, p.number('reach', t)), ...patchesAt(p, t) }),
})
