import { number, ref } from '../../shot'
import { defineFeed, say } from '../define'

/** What comes near an object is taken out of a gas. */
export const drain = defineFeed({
  kind: 'drain',
  title: 'Emptied by',
  help: 'An object takes the gas away that comes into it.',
  synonyms: ['sink', 'drain', 'extractor', 'vent'],
  params: {
    object: ref({ label: 'Object', to: 'object', default: null, empty: 'nothing yet', gone: 'mute', help: 'The object that takes it.' }),
    reach: number({
      label: 'Reach',
      unit: 'm',
      default: 0,
      min: 0,
      soft: [0, 0.5],
      animated: true,
      help: 'How far off its surface it reaches.',
    }),
    start: number({ label: 'From', unit: 's', default: 0, min: 0, moment: true, help: 'It begins here.' }),
    end: number({
      label: 'Until',
      unit: 's',
      default: 1,
      min: 0,
      moment: true,
      empty: 'the end',
      help: 'It ends here; empty: it goes on to the end of the shot.',
    }),
  },
  sentence: () => say`Emptied by ${'object'}, ${'reach'} around it.`,
  from: (p) => ({ object: p.text('object'), skin: false }),
  window: (p) => [p.number('start'), p.optional('end') ?? Number.POSITIVE_INFINITY],
  feed(p, t) {
    const none = { mode: 'set', amount: 0 } as const
    return {
      ...{
        reach: p.number('reach', t),
        amounts: { density: none, temperature: none, fuel: none, dyeA: none, dyeB: none },
        own: 0,
        outwards: 0,
        direction: [0, 0, 0],
        lead: 0,
      },
      ...{ breakUp: 0, breakSize: 1, breakPhase: 0 },
    }
  },
})
