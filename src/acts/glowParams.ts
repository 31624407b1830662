import { choice, colour, number, type Params, ref, vector } from '../shot'

const DISC = { param: 'kind', is: ['disc'] } as const
const LINE = { param: 'kind', is: ['line'] } as const
const picture = { animated: true, changes: 'picture' } as const
/** Light that is drawn and not thrown: what the eye sees about a lamp, and a line that shines. */
export const GLOW_PARAMS = {
  kind: choice({
    label: 'Kind',
    default: 'disc',
    changes: 'picture',
    options: [
      { value: 'disc', label: 'a disc', help: 'About a place, with or without rays.' },
      { value: 'line', label: 'a line', help: 'Along a path or line.' },
    ],
    help: 'What shines.',
  }),
  follows: ref({
    ...{ label: 'Stuck to', to: 'stuck', default: null, empty: 'nothing', changes: 'picture', when: DISC },
    ...{ synonyms: ['attach', 'parent', 'follow', 'flare source'] },
    help: 'An object, a system or a light with which it goes along; its place is then from there.',
  }),
  which: choice({
    ...{ label: 'At', default: 'middle', changes: 'picture', when: DISC },
    options: [
      { value: 'middle', label: 'the middle of all', help: 'As many as are alive.' },
      { value: 'oldest', label: 'the first born', help: 'As the head of a swarm or of a streak.' },
    ],
    help: 'Of a system that it is stuck to. While nobody lives there it is not seen.',
  }),
  place: vector({ label: 'Place', unit: 'm', default: [0, 0, 0], ...picture, when: DISC, help: 'Of its middle.' }),
  along: ref({
    ...{ label: 'Along', to: 'object', default: null, empty: 'nothing yet', changes: 'picture', when: LINE },
    help: 'A path or a line: where it shines.',
  }),
  colour: colour({ label: 'Colour', default: [1, 0.72, 0.38], ...picture, help: 'Of its light.' }),
  strength: number({
    ...{ label: 'Strength', unit: '×', default: 1.5, min: 0, soft: [0, 10], ...picture, synonyms: ['brightness', 'intensity'] },
    help: 'How bright its middle is.',
  }),
  size: number({
    ...{ label: 'Size', unit: 'm', default: 0.5, min: 0.001, soft: [0.05, 3], ...picture, when: DISC },
    help: 'Radius at which it has faded to nothing.',
  }),
  core: number({
    ...{ label: 'Core', unit: '%', default: 18, min: 0, max: 100, soft: [0, 100], ...picture, when: DISC },
    help: 'How much of that radius its bright middle has.',
  }),
  halo: number({
    ...{ label: 'Halo', unit: '%', default: 25, min: 0, max: 1000, soft: [0, 100], ...picture },
    help: 'How bright what is around the core is, against it.',
  }),
  rays: number({
    ...{ label: 'Rays', unit: '', default: 0, min: 0, max: 64, soft: [0, 16], integer: true, changes: 'picture', when: DISC },
    ...{ synonyms: ['star', 'spikes', 'streaks', 'beams'] },
    help: 'How many there are.',
  }),
  rayLength: number({
    ...{ label: 'Ray length', unit: '%', default: 220, min: 0, max: 5000, soft: [0, 500], ...picture, when: DISC },
    help: 'Of the size.',
  }),
  rayWidth: number({
    ...{ label: 'Ray width', unit: '%', default: 4, min: 0.1, max: 100, soft: [0.5, 20], ...picture, when: DISC },
    help: 'Of the size, at the middle; they end in points.',
  }),
  rayTurn: number({
    ...{ label: 'Ray turn', unit: '°', default: 12, min: -36000, max: 36000, soft: [-180, 180], ...picture, when: DISC },
    help: 'How far they are turned in the picture.',
  }),
  uneven: number({
    ...{ label: 'Uneven', unit: '%', default: 35, min: 0, max: 100, soft: [0, 100], ...picture, when: DISC },
    help: 'By how much rays are shorter and fainter than the longest, each by the seed.',
  }),
  width: number({
    ...{ label: 'Width', unit: 'm', default: 0.03, min: 0.0005, soft: [0.005, 0.3], ...picture, when: LINE },
    help: 'Of its core, from side to side.',
  }),
  spread: number({
    ...{ label: 'Spread', unit: '×', default: 6, min: 1, max: 100, soft: [1, 20], ...picture, when: LINE },
    help: 'How many times as wide as the core its halo is.',
  }),
  flicker: number({
    ...{ label: 'Flicker', unit: '%', default: 0, min: 0, max: 100, soft: [0, 100], ...picture },
    help: 'How far its strength falls now and then; of a line, here and there.',
  }),
  flickerRate: number({
    ...{ label: 'Flicker rate', unit: '1/s', default: 8, min: 0, max: 120, soft: [0.5, 24], changes: 'picture' },
    help: 'How often.',
  }),
  hidden: number({
    ...{ label: 'Hidden', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], ...picture, synonyms: ['occlusion', 'behind'] },
    help: 'How much of it is gone where objects lie in front: of a disc by as much of its core as they cover, of a line where they do.',
  }),
} satisfies Params
