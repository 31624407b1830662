import { choice, number, ref } from '../../shot'
import { defineOffspring, say, word } from '../define'
import { SOLID, SOLID_PARAMS } from '../solidParams'

const GLITCHING = { param: 'glitch', is: ['some'] } as const
const LOOK = { changes: 'look' } as const

/** Lines between particles that are near each other. */
export const links = defineOffspring({
  kind: 'links',
  title: 'Links',
  help: 'Lines between particles that are near each other.',
  synonyms: ['connections', 'plexus', 'network', 'lines', 'constellation', 'web', 'net'],
  params: {
    with: ref({
      ...{ label: 'With', to: 'system', default: null, empty: 'each other', gone: 'mute' },
      help: 'Whose particles they are linked to.',
    }),
    distance: number({
      ...{ label: 'Nearer than', unit: 'm', default: 0.3, min: 0.0001, soft: [0.02, 3], animated: true },
      help: 'Farther ones are not linked.',
    }),
    most: number({
      ...{ label: 'At most', unit: '', default: 4, min: 1, max: 16, integer: true, soft: [1, 12] },
      help: 'Links of one particle: to those of the nearest that have it among theirs.',
    }),
    share: number({
      ...{ label: 'Share', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100] },
      help: 'How many of the particles are linked.',
    }),
    fadeIn: number({
      ...{ label: 'Comes in', unit: 's', default: 0.2, min: 0, soft: [0, 2], animated: true },
      help: 'Time over which a link appears.',
    }),
    fadeOut: number({
      ...{ label: 'Goes in', unit: 's', default: 0.3, min: 0, soft: [0, 2], animated: true },
      help: 'Time over which it goes.',
    }),
    stretch: number({
      ...{ label: 'Holds to', unit: '%', default: 50, min: 0, soft: [0, 300], animated: true, empty: 'the distance alone' },
      help: 'A link that was made holds while it is not stretched more than this, also to others beyond the nearest.',
    }),
    glitch: choice({
      label: 'Glitch',
      default: 'none',
      options: [
        { value: 'none', label: 'none', help: 'All links are there.' },
        { value: 'some', label: 'some are left out', help: 'Others at each beat.' },
      ],
      help: 'Whether links flicker.',
    }),
    left: number({
      ...{ label: 'Left out', unit: '%', default: 30, min: 0, max: 100, soft: [0, 100], animated: true, when: GLITCHING },
      help: 'How many are not there at a beat.',
    }),
    beats: number({
      ...{ label: 'Beats', unit: '1/s', default: 8, min: 0, soft: [1, 24], when: GLITCHING },
      help: 'How often it is drawn anew which.',
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
      help: 'What they look like across.',
    }),
    ...SOLID_PARAMS,
    width: number({
      ...{ label: 'Width', unit: 'm', default: 0.004, min: 0, soft: [0, 0.05], animated: true, ...LOOK },
      help: 'Of one at no distance, before the curve over distance.',
    }),
    look: ref({
      ...{ label: 'Look over distance', to: 'look', default: null, empty: 'fading white', ...LOOK },
      help: 'Colour, width and opacity from touching to the farthest. While this card is open they are on the life strip.',
    }),
    brightness: number({
      ...{ label: 'Brightness', unit: '×', default: 1, min: 0, soft: [0, 20], animated: true, ...LOOK },
      help: 'Multiplies the colour; above 1 it glows through bloom.',
    }),
    opacity: number({
      ...{ label: 'Opacity', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, ...LOOK },
      help: 'Before the curve over distance.',
    }),
    own: choice({
      label: 'Of the particle',
      default: 'none',
      ...LOOK,
      options: [
        { value: 'all', label: 'takes its look', help: 'Times the colour, opacity and size of the first of both.' },
        { value: 'none', label: 'its own look', help: 'Only what is set here.' },
      ],
      help: 'Whether the look of the particles counts.',
    }),
    blend: choice({
      label: 'Blend',
      default: 'add',
      ...LOOK,
      options: [
        { value: 'add', label: 'adds', help: 'Light on light.' },
        { value: 'normal', label: 'covers', help: 'Hides what is behind.' },
      ],
      help: 'How they go over the picture.',
    }),
  },
  share: (p) => p.number('share') / 100,
  links: (p) => ({
    with: p.text('with'),
    params: (t) => {
      const stretch = p.optional('stretch', t)
      return {
        distance: p.number('distance', t),
        most: p.number('most'),
        fadeIn: p.number('fadeIn', t),
        fadeOut: p.number('fadeOut', t),
        stretch: stretch === null ? null : stretch / 100,
        glitch: p.choice('glitch') === 'none' ? null : { share: p.number('left', t) / 100, rate: p.number('beats') },
      }
    },
  }),
  strips: (p, t) => ({
    as: p.choice('as'),
    solid: { sides: p.number('sides'), roughness: p.number('rough') / 100 },
    width: p.number('width', t),
    normal: [0, 1, 0],
    softness: 0.7,
    brightness: p.number('brightness', t),
    opacity: p.number('opacity', t) / 100,
    own: p.choice('own') === 'all',
    blend: p.choice('blend'),
    pattern: null,
    head: null,
    look: p.text('look'),
  }),
  sentence: (p) =>
    say`Links with ${'with'} nearer than ${'distance'}, ${'most'} each at most, ${'width'} wide, ${word(p.choice('glitch') === 'some' ? 'with a glitch' : 'steady', 'glitch')}.`,
})
