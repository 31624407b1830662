import type { GrowthParams } from '../../engine'
import { type Curve, choice, curve, number, ref, vector } from '../../shot'
import { defineOffspring, say, word } from '../define'
import { curveTable } from '../lookTables'
import { SOLID, SOLID_PARAMS } from '../solidParams'

const LOOK = { changes: 'look' } as const
const NEAR = { param: 'begins', is: ['near'] } as const
const LANDED = { param: 'begins', is: ['particles'] } as const
const KEYED = { param: 'by', is: ['amount'] } as const
const TIMED = { param: 'by', is: ['time'] } as const
function reachAlong(shorter: 'shorter' | 'same' | 'curve', c: Curve): GrowthParams['along'] {
  if (shorter === 'curve') return curveTable(c)
  return shorter === 'shorter' ? 'ellipse' : null
}
const HEADED = { param: 'head', is: ['glow', 'rays'] } as const

/** Lines that crawl over a surface and fork: ivy, frost, cracks, veins. */
export const growth = defineOffspring({
  kind: 'growth',
  title: 'Growth',
  help: 'Lines that crawl over the object and fork, generation by generation: ivy, frost, veins.',
  synonyms: ['ivy', 'frost', 'veins', 'branches', 'cracks', 'coral', 'roots', 'lightning', 'fractal'],
  params: {
    lines: number({
      ...{ label: 'Lines', unit: '', default: 5, min: 1, max: 5000, integer: true, soft: [1, 40] },
      help: 'How many begin; at most, where particles begin them.',
    }),
    begins: choice({
      label: 'They begin',
      default: 'anywhere',
      options: [
        { value: 'anywhere', label: 'anywhere', help: 'Evenly by area.' },
        { value: 'near', label: 'near an object', help: 'About the place of the surface that is nearest to it.' },
        {
          value: 'particles',
          label: 'at particles',
          help: 'Each particle begins one line, where it comes near the surface first.',
        },
      ],
      help: 'Where on the surface.',
    }),
    near: ref({
      ...{ label: 'Object', to: 'object', default: null, empty: 'the shot’s middle', when: NEAR },
      help: 'Where it is at the first frame.',
    }),
    around: number({
      ...{ label: 'Around', unit: 'm', default: 0.2, min: 0, soft: [0, 2], when: NEAR },
      help: 'How far from there they begin; 0 is all at one place.',
    }),
    system: ref({
      ...{ label: 'Of', to: 'system', default: null, empty: 'no system', when: LANDED },
      help: 'Whose particles begin lines.',
    }),
    within: number({
      ...{ label: 'Nearer than', unit: 'm', default: 0.02, min: 0, soft: [0, 0.5], when: LANDED },
      help: 'How near one comes to begin a line.',
    }),
    region: {
      type: 'region',
      label: 'Region',
      of: null,
      default: '',
      help: 'They begin by the amounts of a region of this object, as they are at the first frame, and end at its edge; all of it when empty.',
    },
    edge: number({
      ...{ label: 'Its edge', unit: '%', default: 30, min: 0, max: 100, soft: [0, 100] },
      help: 'Lines end where there is less of the region; 0 lets them leave it.',
    }),
    byRegion: number({
      ...{ label: 'Reach by it', unit: '%', default: 0, min: 0, max: 100, soft: [0, 100] },
      help: 'How far lines reach by the amount of the region where they begin; at 100 half as far where there is half of it.',
    }),
    goes: choice({
      label: 'They go',
      default: 'any',
      options: [
        { value: 'any', label: 'any way', help: 'Each in a direction of its own.' },
        { value: 'direction', label: 'a direction', help: 'Laid onto the surface.' },
        { value: 'ahead', label: 'as they flew', help: 'As the particle came that begins it; any way without one.' },
      ],
      help: 'Which way they set out.',
    }),
    direction: vector({
      ...{ label: 'Direction', unit: '1', default: [0, 1, 0], when: { param: 'goes', is: ['direction'] } },
      help: 'In the object’s own space.',
    }),
    fan: number({
      ...{ label: 'Fan', unit: '°', default: 30, min: 0, max: 180, soft: [0, 180], when: { param: 'goes', is: ['direction', 'ahead'] } },
      help: 'How far to each side of it.',
    }),
    reach: number({
      ...{ label: 'Reach', unit: 'm', default: 1, min: 0.001, soft: [0.05, 10], varied: true },
      help: 'Length of the first lines.',
    }),
    speed: number({ ...{ label: 'Speed', unit: 'm/s', default: 0.5, min: 0.0001, soft: [0.05, 5] }, help: 'Of their tips.' }),
    curl: number({
      ...{ label: 'Curl', unit: '°', default: 0, soft: [-180, 180], varied: true },
      help: 'How far each turns by the metre, to the left.',
    }),
    wander: number({
      ...{ label: 'Wander', unit: '°', default: 60, min: 0, soft: [0, 360] },
      help: 'How far it sways by the metre, to one side and the other.',
    }),
    generations: number({
      ...{ label: 'Generations', unit: '', default: 3, min: 1, max: 8, integer: true, soft: [1, 6] },
      help: 'Lines, their forks, the forks of these, and so on.',
    }),
    spacing: number({
      ...{ label: 'Forks every', unit: 'm', default: 0.12, min: 0.001, soft: [0.01, 2] },
      help: 'Way along a line from one to the next.',
    }),
    uneven: number({
      ...{ label: 'Uneven', unit: '%', default: 40, min: 0, max: 100, soft: [0, 100] },
      help: 'How unevenly they are spaced.',
    }),
    forks: number({ ...{ label: 'Forks', unit: '', default: 1, min: 1, max: 6, integer: true, soft: [1, 4] }, help: 'At one place.' }),
    angle: number({
      ...{ label: 'Angle', unit: '°', default: 50, soft: [0, 120], varied: true },
      help: 'Off the line, to one side and the other by turns.',
    }),
    child: number({ ...{ label: 'Fork reach', unit: '%', default: 45, min: 0, soft: [0, 100] }, help: 'Of the line that they leave.' }),
    shorter: choice({
      label: 'To the tip',
      default: 'shorter',
      options: [
        { value: 'shorter', label: 'forks get shorter', help: 'To nothing at the tip.' },
        { value: 'same', label: 'forks are as long', help: 'All along.' },
        { value: 'curve', label: 'by a curve', help: 'One that you draw.' },
      ],
      help: 'How long forks are along a line.',
    }),
    along: curve({
      ...{ label: 'Reach along', unit: '%', max: 10, from: 'base', to: 'tip', when: { param: 'shorter', is: ['curve'] } },
      default: {
        points: [
          { at: 0, v: 0.2 },
          { at: 0.35, v: 1 },
          { at: 1, v: 0 },
        ],
        smooth: true,
      },
      help: 'How much of their reach forks have, from the base of the line that they leave to its tip.',
    }),
    childSpeed: number({
      ...{ label: 'Fork speed', unit: '%', default: 80, min: 1, soft: [10, 200] },
      help: 'Of the line that they leave.',
    }),
    first: choice({
      label: 'First forks',
      default: 'base',
      options: [
        { value: 'base', label: 'base', help: 'A fork begins when the tip comes by.' },
        { value: 'tip', label: 'tip', help: 'When a line is done, from its tip back.' },
        { value: 'all', label: 'all at once', help: 'When a line is done.' },
      ],
      help: 'Which of them grow first.',
    }),
    meets: number({
      ...{ label: 'Blocked', unit: '%', default: 90, min: 0, max: 100, soft: [0, 100] },
      help: 'How many lines end where they meet another.',
    }),
    detail: number({
      ...{ label: 'Detail', unit: 'm', default: 0.015, min: 0.0002, soft: [0.002, 0.1] },
      help: 'Length of a piece; lines keep as far apart. Finer costs points.',
    }),
    lift: number({
      ...{ label: 'Lies off', unit: 'm', default: 0.003, min: 0, soft: [0, 0.05] },
      help: 'How far off the surface its middle is.',
    }),
    by: choice({
      label: 'Grows by',
      default: 'time',
      options: [
        { value: 'time', label: 'time', help: 'From a moment on, at its speed.' },
        { value: 'amount', label: 'an amount', help: 'As far as a value says, which keys can lead up and back.' },
      ],
      help: 'What it follows.',
    }),
    start: number({
      ...{ label: 'From', unit: 's', default: 0, moment: true, soft: [0, 10], when: TIMED },
      help: 'The moment at which it begins.',
    }),
    grown: number({
      ...{ label: 'Grown', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, when: KEYED },
      help: 'How far: 0 is nothing, 100 all of it.',
    }),
    as: choice({
      label: 'Drawn as',
      default: 'line',
      ...LOOK,
      options: [
        { value: 'line', label: 'line', help: 'Soft at its sides.' },
        { value: 'ribbon', label: 'ribbon', help: 'Sharp.' },
        { value: 'tube', label: 'tube', help: 'Round, shaded by the shot’s first light.' },
        SOLID,
      ],
      help: 'What it looks like across.',
    }),
    ...SOLID_PARAMS,
    width: number({
      ...{ label: 'Width', unit: 'm', default: 0.012, min: 0, soft: [0, 0.1], animated: true, ...LOOK },
      help: 'Of the first lines at their base.',
    }),
    thinner: number({
      ...{ label: 'Forks thinner', unit: '%', default: 30, min: 0, max: 100, soft: [0, 100], ...LOOK },
      help: 'Each generation than the one before.',
    }),
    fainter: number({
      ...{ label: 'Forks fainter', unit: '%', default: 15, min: 0, max: 100, soft: [0, 100], ...LOOK },
      help: 'Each generation than the one before.',
    }),
    look: ref({
      ...{ label: 'Look along it', to: 'look', default: null, empty: 'white, thin at the tip', ...LOOK },
      help: 'Colour, width and opacity from the tip to the base.',
    }),
    orders: ref({
      ...{ label: 'Look of forks', to: 'look', default: null, empty: 'as the first', ...LOOK },
      help: 'Colour, width and opacity from the first lines to the last generation, times those along each line.',
    }),
    brightness: number({
      ...{ label: 'Brightness', unit: '×', default: 1, min: 0, soft: [0, 20], animated: true, ...LOOK },
      help: 'Multiplies the colour.',
    }),
    opacity: number({
      ...{ label: 'Opacity', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, ...LOOK },
      help: 'Before the curve along it.',
    }),
    softness: number({
      ...{ label: 'Softness', unit: '%', default: 40, min: 0, max: 100, soft: [0, 100], animated: true, ...LOOK },
      help: 'How soft a line is at its sides.',
    }),
    blend: choice({
      label: 'Blend',
      default: 'normal',
      ...LOOK,
      options: [
        { value: 'add', label: 'adds', help: 'Light on light.' },
        { value: 'normal', label: 'covers', help: 'Hides what is behind.' },
      ],
      help: 'How it goes over the picture.',
    }),
    head: choice({
      label: 'Tip',
      default: 'none',
      ...LOOK,
      options: [
        { value: 'none', label: 'plain', help: 'Round.' },
        { value: 'glow', label: 'glow', help: 'A soft disc of light.' },
        { value: 'rays', label: 'glow with rays', help: 'A soft disc with rays.' },
      ],
      help: 'What is at each tip.',
    }),
    headSize: number({
      ...{ label: 'Glow', unit: 'm', default: 0.06, min: 0, soft: [0, 1], animated: true, ...LOOK, when: HEADED },
      help: 'How wide the light at a tip is.',
    }),
    headBright: number({
      ...{ label: 'Glow bright', unit: '×', default: 1, min: 0, soft: [0, 20], animated: true, ...LOOK, when: HEADED },
      help: 'How bright it is.',
    }),
  },
  share: () => 1,
  growth: (p) => ({
    near: p.choice('begins') === 'near' ? { object: p.text('near'), radius: p.number('around') } : null,
    from:
      p.choice('begins') === 'particles'
        ? { system: p.text('system'), within: p.number('within'), ahead: p.choice('goes') === 'ahead' }
        : null,
    lift: p.number('lift'),
    region: p.text('region') ? { id: p.text('region') as string, edge: p.number('edge') / 100, reach: p.number('byRegion') / 100 } : null,
    params: {
      lines: p.number('lines'),
      direction: p.choice('goes') === 'direction' ? p.vector('direction') : null,
      directionSpread: p.number('fan'),
      ...{ reach: p.number('reach'), reachVary: p.vary('reach'), speed: p.number('speed') },
      ...{ curl: p.number('curl'), curlVary: p.vary('curl'), wander: p.number('wander'), wanderSize: p.number('reach') / 4 },
      ...{
        generations: p.number('generations'),
        spacing: p.number('spacing'),
        spacingVary: p.number('uneven') / 100,
        forks: p.number('forks'),
      },
      ...{
        angle: p.number('angle'),
        angleVary: p.vary('angle'),
        childReach: p.number('child') / 100,
        childSpeed: p.number('childSpeed') / 100,
      },
      ...{
        along: reachAlong(p.choice('shorter'), p.curve('along')),
        first: p.choice('first'),
        meets: p.number('meets') / 100,
        detail: p.number('detail'),
      },
    },
    progress: (t) =>
      p.choice('by') === 'time' ? { seconds: t - p.number('start'), share: null } : { seconds: 0, share: p.number('grown', t) / 100 },
  }),
  strips: (p, t) => ({
    as: p.choice('as'),
    solid: { sides: p.number('sides'), roughness: p.number('rough') / 100 },
    width: p.number('width', t),
    normal: [0, 1, 0],
    softness: p.number('softness', t) / 100,
    brightness: p.number('brightness', t),
    opacity: p.number('opacity', t) / 100,
    own: false,
    blend: p.choice('blend'),
    pattern: null,
    head:
      p.choice('head') === 'none'
        ? null
        : { size: p.number('headSize', t), brightness: p.number('headBright', t), rays: p.choice('head') === 'rays' ? 6 : 0 },
    generations: {
      ...{ width: 1 - p.number('thinner') / 100, brightness: 1 - p.number('fainter') / 100 },
      ...{ count: p.number('generations'), look: p.text('orders') },
    },
    look: p.text('look'),
  }),
  sentence: (p) =>
    p.choice('begins') === 'particles'
      ? say`Where particles of ${'system'} come nearer than ${'within'}, grows lines of ${'reach'}, ${'generations'} generations, forks every ${'spacing'} at ${'angle'}.`
      : say`Grows ${'lines'} lines of ${'reach'}, ${'generations'} generations, forks every ${'spacing'} at ${'angle'}, ${word(p.choice('by') === 'time' ? 'by time' : 'by an amount', 'by')}.`,
})
