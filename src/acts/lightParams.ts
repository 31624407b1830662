import { choice, colour, number, type Params, ref, toggle, vector } from '../shot'

const STANDS = { param: 'kind', is: ['point', 'spot', 'sun', 'area'] } as const
const AIMS = { param: 'kind', is: ['spot', 'sun', 'area'] } as const
const SPOT = { param: 'kind', is: ['spot'] } as const
const AREA = { param: 'kind', is: ['area'] } as const
const CASTS = { param: 'kind', is: ['point', 'spot', 'sun'] } as const
const AROUND = { param: 'kind', is: ['around'] } as const
export const LIGHT_PARAMS = {
  kind: choice({
    label: 'Kind',
    default: 'spot',
    changes: 'picture',
    options: [
      { value: 'point', label: 'point' },
      { value: 'spot', label: 'spot' },
      { value: 'sun', label: 'sun' },
      { value: 'area', label: 'area', help: 'A rectangle or a disc that shines to its front, soft on all that is near.' },
      {
        value: 'around',
        label: 'all around',
        help: 'From a picture of light, HDR or EXR, far away on all sides; metal and ice mirror it.',
      },
    ],
    help: 'All ways from a point, a cone, even from far away, from a rectangle, or from a picture all around.',
  }),
  follows: ref({
    ...{ label: 'Follows', to: 'source', default: null, empty: 'nothing', changes: 'picture', when: STANDS },
    help: 'An object or a system with which it goes along: place and aim are then from there, and with an object turn with it.',
  }),
  which: choice({
    label: 'At',
    default: 'middle',
    changes: 'picture',
    when: STANDS,
    options: [
      { value: 'middle', label: 'the middle of all', help: 'As many as are alive.' },
      { value: 'oldest', label: 'the first born', help: 'As the head of a swarm or of a streak.' },
    ],
    help: 'Of a system that it follows. While nobody lives there it gives no light.',
  }),
  place: vector({
    label: 'Place',
    unit: 'm',
    default: [2, 3, 2],
    animated: true,
    changes: 'picture',
    when: STANDS,
    help: 'Where it hangs.',
  }),
  aim: vector({
    label: 'Aim',
    unit: 'm',
    default: [0, 0, 0],
    animated: true,
    changes: 'picture',
    when: AIMS,
    help: 'The point it looks at.',
  }),
  colour: colour({ label: 'Colour', default: [1, 1, 1], animated: true, changes: 'picture', when: STANDS, help: 'Colour of the light.' }),
  strength: number({
    label: 'Strength',
    unit: '×',
    default: 10,
    min: 0,
    soft: [0, 100],
    animated: true,
    changes: 'picture',
    help: 'Brightness at one metre; for a sun everywhere; of a picture all around 1 is as its file has it.',
  }),
  angle: number({
    label: 'Angle',
    unit: '°',
    default: 40,
    min: 1,
    max: 89,
    soft: [1, 89],
    animated: true,
    changes: 'picture',
    when: SPOT,
    help: 'Half angle of a spot.',
  }),
  edge: number({
    ...{ label: 'Edge', unit: '%', default: 50, min: 0, max: 100, soft: [0, 100], animated: true, changes: 'picture', when: SPOT },
    help: 'Over how much of that angle a spot fades towards its edge.',
  }),
  round: toggle({ label: 'Round', default: false, changes: 'picture', when: AREA, help: 'A disc, or an ellipse, as wide and as high.' }),
  width: number({
    ...{ label: 'Width', unit: 'm', default: 1, min: 0.01, soft: [0.05, 5], animated: true, changes: 'picture', when: AREA },
    help: 'Of it. As large as it is, its strength stays that of a lamp at a metre.',
  }),
  height: number({
    ...{ label: 'Height', unit: 'm', default: 1, min: 0.01, soft: [0.05, 5], animated: true, changes: 'picture', when: AREA },
    help: 'Of it.',
  }),
  turn: number({
    ...{
      label: 'Turn',
      unit: '°',
      default: 0,
      min: -36000,
      max: 36000,
      soft: [-180, 180],
      animated: true,
      changes: 'picture',
      when: AROUND,
    },
    help: 'About the vertical; at 0 the middle of the picture lies towards −Z.',
  }),
  seen: toggle({ label: 'Seen', default: true, changes: 'picture', when: AROUND, help: 'Behind everything; off, it gives light alone.' }),
  brightness: number({
    ...{ label: 'Brightness', unit: '%', default: 100, min: 0, soft: [0, 200], animated: true, changes: 'picture', when: AROUND },
    help: 'How bright it is where it is seen.',
  }),
  blur: number({
    ...{ label: 'Blur', unit: '%', default: 0, min: 0, max: 100, soft: [0, 100], animated: true, changes: 'picture', when: AROUND },
    help: 'How blurred it is where it is seen.',
  }),
  onGas: number({
    label: 'On gas',
    unit: '%',
    default: 100,
    min: 0,
    max: 10000,
    soft: [0, 200],
    animated: true,
    changes: 'picture',
    help: 'How much of it smoke, fire and tufts are lit by.',
  }),
  shadow: toggle({
    label: 'Shadows',
    default: true,
    changes: 'picture',
    when: STANDS,
    help: 'Casts shadows. Four lights of the shot can; those of and on gases and tufts are of spots and suns, on objects of the first of them.',
  }),
  size: number({
    ...{ label: 'Size', unit: 'm', default: 0, min: 0, max: 45, soft: [0, 1], animated: true, changes: 'picture', when: CASTS },
    ...{ unitBy: { param: 'kind', units: { spot: 'm', sun: '°', point: 'm' } }, synonyms: ['soft shadow', 'radius', 'penumbra', 'blur'] },
    help: 'Radius of what shines: the larger, the softer its shadows, the more so the farther what shades is. At 0 edges are as sharp as can be; the sun has 0.27°.',
  }),
} satisfies Params
