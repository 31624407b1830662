import { hashOf } from '../../engine'
import { choice, number, ref, vector } from '../../shot'
import { defineOffspring, say, word } from '../define'

const RATED = { param: 'each', is: ['metre', 'second'] } as const
const COUNTED = { param: 'each', is: ['contact', 'end', 'turn'] } as const
const TOUCHING = { param: 'each', is: ['contact'] } as const
const EACH = {
  metre: 'along their way',
  second: 'as they go',
  contact: 'at each contact',
  end: 'at their end',
  turn: 'at each turn',
} as const

/** Particles that particles give birth to. */
export const shed = defineOffspring({
  kind: 'shed',
  title: 'Shed',
  help: 'New particles from particles: along their way, as they go, where they hit something, at their end or at a turn.',
  synonyms: ['spawn', 'emit', 'children', 'sub-emitter', 'splash', 'burst on death', 'secondary', 'fireworks', 'smoke'],
  columns: ['generation'],
  params: {
    into: choice({
      label: 'They join',
      default: 'system',
      options: [
        { value: 'system', label: 'a system', help: 'Another system, into its first phase.' },
        { value: 'phase', label: 'a phase', help: 'A phase of this system.' },
      ],
      help: 'Where the new ones live.',
    }),
    to: ref({
      ...{ label: 'System', to: 'system', default: null, empty: 'nowhere yet', gone: 'mute' },
      ...{ when: { param: 'into', is: ['system'] }, help: 'Whose particles they are. It needs no birth of its own.' },
    }),
    phase: { type: 'phase', label: 'Phase', default: '', when: { param: 'into', is: ['phase'] }, help: 'In which they begin.' },
    each: choice({
      label: 'When',
      default: 'metre',
      options: [
        { value: 'metre', label: 'along the way', help: 'So many per metre, evenly, however fast it goes.' },
        { value: 'second', label: 'as time goes', help: 'So many per second.' },
        { value: 'contact', label: 'at each contact', help: 'Some at once where it hits a collider.' },
        { value: 'end', label: 'at its end', help: 'Some at once when its life is over, for whatever reason.' },
        { value: 'turn', label: 'at each turn', help: 'Some at once when it goes to another phase.' },
      ],
      help: 'What makes a particle shed others.',
    }),
    rate: number({
      ...{
        label: 'Rate',
        unit: '1/m',
        unitBy: { param: 'each', units: { metre: '1/m', second: '1/s' } },
        default: 20,
        min: 0,
        soft: [0, 500],
      },
      ...{ animated: true, integrated: true, when: RATED, help: 'How many, of each particle.' },
    }),
    count: number({
      ...{ label: 'Count', unit: '', default: 8, min: 0, max: 100_000, soft: [0, 200], animated: true, varied: true, when: COUNTED },
      help: 'How many at once.',
    }),
    object: ref({
      ...{ label: 'With', to: 'object', default: null, empty: 'any collider', gone: 'mute', when: TOUCHING },
      help: 'Only where it hits this one.',
    }),
    hard: number({
      ...{ label: 'From', unit: 'm/s', default: 0, min: 0, soft: [0, 20], animated: true, when: TOUCHING },
      help: 'Gentler contacts shed nothing: speed towards the surface.',
    }),
    share: number({
      ...{ label: 'Share', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100] },
      help: 'How many of the particles shed any.',
    }),
    from: number({
      ...{ label: 'From age', unit: 's', default: 0, min: 0, soft: [0, 5] },
      help: 'Younger ones shed nothing.',
    }),
    until: number({
      ...{ label: 'To age', unit: 's', default: 1, min: 0, soft: [0, 10], empty: 'its end' },
      help: 'Older ones shed nothing more.',
    }),
    inherit: number({
      ...{ label: 'Its motion', unit: '%', default: 20, soft: [0, 100], animated: true, synonyms: ['inherit velocity', 'takes velocity'] },
      help: 'Share of the velocity of the one that sheds them; below zero they go the other way.',
    }),
    size: number({
      ...{ label: 'Its size', unit: '%', default: 0, min: 0, max: 100, soft: [0, 100] },
      help: 'Share of what turns made of its size, of larger or smaller.',
    }),
    lies: choice({
      label: 'They lie',
      default: 'own',
      options: [
        { value: 'own', label: 'each their own way', help: 'As chance has it.' },
        {
          value: 'parent',
          label: 'as it lies',
          help: 'With its orientation and spin, where both have one: flakes, or particles that spin.',
        },
      ],
      help: 'How they are turned as they begin.',
    }),
    colour: number({
      ...{
        label: 'Its colour',
        unit: '%',
        default: 0,
        min: 0,
        max: 100,
        soft: [0, 100],
        synonyms: ['takes colour', 'inherit colour', 'tint', 'hue'],
      },
      help: 'Share of the colour of the one that sheds them, at that moment, for good. How bright they are stays their own.',
    }),
    along: choice({
      label: 'Set out',
      default: 'any',
      options: [
        { value: 'any', label: 'everywhere', help: 'In all directions alike.' },
        { value: 'motion', label: 'along its motion', help: 'Around the way that it goes.' },
        { value: 'normal', label: 'off what it hit', help: 'Around the direction in which it was thrown back.' },
        { value: 'direction', label: 'in a direction', help: 'Around a direction of your own.' },
      ],
      help: 'Where they go by themselves.',
    }),
    direction: vector({
      ...{ label: 'Direction', unit: '1', default: [0, 1, 0], animated: true, when: { param: 'along', is: ['direction'] } },
      help: 'In the space of the system.',
    }),
    spread: number({
      ...{ label: 'Spread', unit: '°', default: 30, min: 0, max: 180, soft: [0, 180], animated: true },
      ...{ when: { param: 'along', is: ['motion', 'normal', 'direction'] }, help: 'Largest angle off it.' },
    }),
    hollow: number({
      ...{ label: 'Hollow', unit: '°', default: 0, min: 0, max: 180, soft: [0, 180], animated: true, synonyms: ['ring', 'cone'] },
      ...{ when: { param: 'along', is: ['motion', 'normal', 'direction'] }, help: 'Least angle off it: near the spread they make a ring.' },
    }),
    speed: number({
      ...{ label: 'Speed', unit: 'm/s', default: 1, soft: [0, 20], animated: true, varied: true },
      help: 'Of their own, on top of what they take over.',
    }),
    generations: number({
      ...{ label: 'Generations', unit: '', default: 4, min: 1, max: 12, integer: true, soft: [1, 8] },
      help: 'What is shed by the shed, and so on: so many, then no more.',
    }),
  },
  reads: (p) => (p.number('colour') > 0 ? ['colour'] : []),
  share: (p) => p.number('share') / 100,
  shed: (p) => ({
    to: p.choice('into') === 'system' ? { system: p.text('to') } : { phase: p.text('phase') },
    each: p.choice('each'),
    rate: (t) => (p.choice('each') === 'second' ? p.integral('rate', t) : p.number('rate', t)),
    count: (t) => [p.number('count', t), p.vary('count')],
    touch: (t) => ({ object: p.text('object') ? hashOf(p.text('object') as string) : 0, speed: p.number('hard', t) }),
    ages: [p.number('from'), p.optional('until') ?? Number.POSITIVE_INFINITY],
    generations: p.number('generations'),
    colour: p.number('colour') / 100,
    launch: (t) => ({
      inherit: p.number('inherit', t) / 100,
      size: p.number('size') / 100,
      lies: p.choice('lies') === 'parent',
      along: p.choice('along'),
      direction: p.vector('direction', t),
      spreadTurns: p.number('spread', t) / 360,
      hollowTurns: p.number('hollow', t) / 360,
      speed: p.number('speed', t),
      speedVary: p.vary('speed'),
    }),
  }),
  sentence(p) {
    const many = p.choice('each') === 'metre' || p.choice('each') === 'second' ? 'rate' : 'count'
    const where = p.choice('into') === 'system' ? 'to' : 'phase'
    const head = say`Sheds ${many} ${word(EACH[p.choice('each')], 'each')} into ${where}, at ${'speed'}, with ${'inherit'} of its velocity`
    return [...head, ...(p.number('colour') > 0 ? say` and ${'colour'} of its colour.` : say`.`)]
  },
})
