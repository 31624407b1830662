import { type FeedAmount, type FeedParams, GAS_DYES, type GasDye } from '../../engine'
import { choice, number, type Param, vector } from '../../shot'
import type { Reads } from '../reader'

const how = (what: string, given: 'none' | 'add') =>
  choice({
    label: what,
    default: given,
    options: [
      { value: 'none', label: 'nothing', help: 'It is left as it is.' },
      { value: 'add', label: 'adds', help: 'So much comes in every second.' },
      { value: 'set', label: 'sets', help: 'It is made so much there.' },
      { value: 'most', label: 'at least', help: 'It is raised to so much where there is less.' },
    ],
    help: `What happens to ${what[0].toLowerCase()}${what.slice(1)} there.`,
  })
const working = (of: string) => ({ when: { param: of, is: ['add', 'set', 'most'] } })
const dye = (which: 'A' | 'B') =>
  number({
    ...working(`dye${which}How`),
    label: `Dye ${which}`,
    synonyms: ['colour', 'tint', 'marker', 'mix', 'free grid'],
    unit: '',
    unitBy: { param: `dye${which}How`, units: { add: '1/s' } },
    default: 1,
    min: 0,
    soft: [0, 10],
    animated: true,
    help: 'How much of it. A dye only goes along: it may colour smoke or glow, dim, and say where forces act.',
  })
/** What comes in, how fast, and when. */
export const feedParams = {
  densityHow: how('Density', 'add'),
  density: number({
    ...working('densityHow'),
    label: 'Density',
    unit: '',
    unitBy: { param: 'densityHow', units: { add: '1/s' } },
    default: 3,
    min: 0,
    soft: [0, 20],
    animated: true,
    help: 'How much of it: smoke of 1 is dense.',
  }),
  temperatureHow: how('Heat', 'add'),
  temperature: number({
    ...working('temperatureHow'),
    label: 'Heat',
    synonyms: ['temperature'],
    unit: 'K',
    unitBy: { param: 'temperatureHow', units: { add: 'K/s' } },
    default: 300,
    min: 0,
    soft: [0, 2000],
    animated: true,
    help: 'Over the air around. What is hot rises, and lights fuel.',
  }),
  fuelHow: how('Fuel', 'none'),
  fuel: number({
    ...working('fuelHow'),
    label: 'Fuel',
    unit: '',
    unitBy: { param: 'fuelHow', units: { add: '1/s' } },
    default: 2,
    min: 0,
    soft: [0, 10],
    animated: true,
    help: 'How much of it; it burns where the gas has a card for burning and is hot enough.',
  }),
  dyeAHow: how('Dye A', 'none'),
  dyeA: dye('A'),
  dyeBHow: how('Dye B', 'none'),
  dyeB: dye('B'),
  own: number({
    label: 'Inherits',
    unit: '%',
    default: 100,
    min: -1000,
    soft: [0, 100],
    animated: true,
    help: 'Share of the velocity of what feeds it that the gas takes up there.',
  }),
  lead: number({
    label: 'Taken up in',
    unit: 's',
    default: 0.1,
    min: 0.001,
    empty: 'never',
    soft: [0.01, 2],
    animated: true,
    help: 'How long the gas takes to follow these velocities; empty: it is not moved.',
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
} satisfies Record<string, Param>
/** Of objects: which way the gas is blown there, and in which patches. */
export const patchParams = {
  outwards: number({
    label: 'Outwards',
    unit: 'm/s',
    default: 0,
    min: -1000,
    soft: [-10, 10],
    animated: true,
    help: 'Speed away from its surface that the gas takes up there.',
  }),
  direction: vector({
    label: 'Blown',
    unit: 'm/s',
    default: [0, 0, 0],
    animated: true,
    help: 'Velocity that the gas takes up there.',
  }),
  breakUp: number({
    label: 'Broken up',
    synonyms: ['noise', 'patchy'],
    unit: '%',
    default: 60,
    min: 0,
    max: 100,
    soft: [0, 100],
    animated: true,
    help: 'How much of it a noise takes away in patches.',
  }),
  breakSize: number({
    label: 'Patches',
    unit: 'm',
    default: 0.15,
    min: 0.001,
    soft: [0.02, 1],
    help: 'How large these patches are.',
  }),
  breakRate: number({
    label: 'Renewed',
    unit: '1/s',
    default: 2,
    min: 0,
    soft: [0, 10],
    animated: true,
    integrated: true,
    help: 'How quickly they become others.',
  }),
} satisfies Record<string, Param>
type FeedReads = Reads<typeof feedParams>

export const feedWindow = (p: FeedReads): readonly [number, number] => [p.number('start'), p.optional('end') ?? Number.POSITIVE_INFINITY]
const FED = ['density', 'temperature', 'fuel', 'dyeA', 'dyeB'] as const
const amount = (p: FeedReads, what: (typeof FED)[number], t: number): FeedAmount | null => {
  const mode = p.choice(`${what}How`, t)
  return mode === 'none' ? null : { mode: mode as 'add' | 'set' | 'most', amount: p.number(what, t) }
}
export function feedAt(p: FeedReads, t: number, reach: number): FeedParams {
  const lead = p.optional('lead', t)
  return {
    reach,
    amounts: Object.fromEntries(FED.map((what) => [what, amount(p, what, t)])),
    own: p.number('own', t) / 100,
    ...{ outwards: 0, direction: [0, 0, 0] as const, breakUp: 0, breakSize: 1, breakPhase: 0 },
    lead: lead === null ? 0 : 1 / lead,
  }
}
export const patchesAt = (p: Reads<typeof patchParams>, t: number) => ({
  outwards: p.number('outwards', t),
  direction: p.vector('direction', t),
  breakUp: p.number('breakUp', t) / 100,
  breakSize: p.number('breakSize'),
  breakPhase: p.integral('breakRate', t),
})
/** “density 3 1/s, heat 300 K” – whatever it brings besides its velocity. */
export function brings(p: FeedReads) {
  const words = { density: 'density', temperature: 'heat', fuel: 'fuel', dyeA: 'dye A', dyeB: 'dye B' } as const
  const what = FED.filter((x) => p.choice(`${x}How`) !== 'none')
  if (!what.length) return ['only its velocity']
  return what.flatMap((x, i) => [i ? ', ' : '', `${words[x]} `, { param: x }]) as (string | { param: (typeof FED)[number] })[]
}
/** The dyes that it brings. */
export const broughtDyes = (p: FeedReads): GasDye[] => GAS_DYES.filter((d) => p.choice(`${d}How`) !== 'none')
