import { encodeDrag, encodeGravity, encodeTurbulence } from '../../engine'
import { choice, number, ref, vector } from '../../shot'
import { defineOffspring, say, word } from '../define'
import { SOLID, SOLID_PARAMS } from '../solidParams'

const TIMED = { param: 'by', is: ['time'] } as const
const FAR = { param: 'by', is: ['way'] } as const
const DRIFTING = { param: 'points', is: ['drift'] } as const
const PATTERNED = { param: 'pattern', is: ['dashes', 'pulses'] } as const
const HEADED = { param: 'head', is: ['glow', 'rays'] } as const
/** How fast the eddies that stir a drifting trail renew themselves, 1/s. */
const RENEWAL = 0.5

const DRAWN_AS = { line: 'a soft line', ribbon: 'a ribbon', band: 'a flat band', tube: 'a tube', solid: 'a body' } as const

/** A line behind each particle. What is recorded belongs to the simulation; how it is drawn does not. */
export const trail = defineOffspring({
  kind: 'trail',
  title: 'Trail',
  help: 'A line along the way of each particle, which fades behind it.',
  synonyms: ['streak', 'tail', 'ribbon', 'line', 'path', 'tube', 'smoke trail', 'comet', 'trace'],
  params: {
    by: choice({
      label: 'Length by',
      default: 'time',
      options: [
        { value: 'time', label: 'time', help: 'It reaches back for so long: fast particles have longer ones.' },
        { value: 'way', label: 'way', help: 'It reaches back so far: all are as long.' },
      ],
      help: 'What its length is measured by.',
    }),
    seconds: number({
      ...{ label: 'Length', unit: 's', default: 0.6, min: 0.001, max: 600, soft: [0.05, 5], animated: true, varied: true, when: TIMED },
      help: 'Where the particle was so long ago is its end.',
    }),
    metres: number({
      ...{ label: 'Length', unit: 'm', default: 1, min: 0.0001, max: 10000, soft: [0.05, 10], animated: true, varied: true, when: FAR },
      help: 'From its head to its end, along the way.',
    }),
    fade: number({
      ...{ label: 'Fades in', unit: 's', default: 1, min: 0, max: 600, soft: [0, 5], animated: true },
      help: 'How long it can still be seen when its particle is gone.',
    }),
    share: number({
      ...{ label: 'Share', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100] },
      help: 'How many of the particles leave one.',
    }),
    detail: number({
      ...{ label: 'Detail', unit: 'm', default: 0.002, min: 1e-5, max: 10, soft: [0.0005, 0.05] },
      help: 'How far its straight pieces may be off the true way. Finer costs points.',
    }),
    points: choice({
      label: 'Its points',
      default: 'stay',
      options: [
        { value: 'stay', label: 'stay', help: 'Where the particle was.' },
        { value: 'drift', label: 'drift', help: 'Go on by themselves, as smoke does.' },
      ],
      help: 'What becomes of the places that it leads through.',
    }),
    inherit: number({
      ...{ label: 'Sets out with', unit: '%', default: 10, soft: [0, 100], when: DRIFTING },
      help: 'Share of the particle’s velocity that a point begins with.',
    }),
    carried: number({
      ...{ label: 'Feels forces', unit: '%', default: 100, min: 0, soft: [0, 100], when: DRIFTING },
      help: 'Share of the forces of the system, wind and gravity among them, that moves the points.',
    }),
    slows: number({
      ...{ label: 'Halves in', unit: 's', default: 0.3, min: 0.001, soft: [0.05, 5], animated: true, when: DRIFTING },
      help: 'How long the air takes to halve the speed of the points.',
    }),
    lift: number({
      ...{ label: 'Lift', unit: 'm/s²', default: 0, soft: [-2, 2], animated: true, when: DRIFTING },
      help: 'Upwards, as of warm smoke; below zero it sinks.',
    }),
    stir: number({
      ...{ label: 'Stirred by', unit: 'm/s²', default: 0.5, min: 0, soft: [0, 5], animated: true, when: DRIFTING },
      help: 'Largest push of eddies on the points.',
    }),
    eddy: number({
      ...{ label: 'Eddies', unit: 'm', default: 0.3, min: 0.001, soft: [0.05, 3], animated: true, when: DRIFTING },
      help: 'Size of the coarsest of them.',
    }),
    as: choice({
      label: 'Drawn as',
      default: 'line',
      changes: 'look',
      options: [
        { value: 'line', label: 'line', help: 'Soft at its sides; never thinner than a hair, fainter instead.' },
        { value: 'ribbon', label: 'ribbon', help: 'A sharp band that faces the camera.' },
        { value: 'band', label: 'flat band', help: 'A band that lies in the world, across a direction.' },
        { value: 'tube', label: 'tube', help: 'Round, shaded by the shot’s first light.' },
        SOLID,
      ],
      help: 'What it looks like across.',
    }),
    ...SOLID_PARAMS,
    width: number({
      ...{ label: 'Width', unit: 'm', default: 0.01, min: 0, soft: [0, 0.2], animated: true, changes: 'look' },
      help: 'At its widest, before the curve along it.',
    }),
    lies: choice({
      label: 'It lies',
      default: 'direction',
      when: { param: 'as', is: ['band'] },
      options: [
        { value: 'direction', label: 'across a direction', help: 'The same all along.' },
        { value: 'spin', label: 'as it spins', help: 'As the particle lay at each place; of particles that are turned.' },
      ],
      help: 'How a flat band is turned about its way.',
    }),
    normal: vector({
      ...{ label: 'Faces', unit: '1', default: [0, 1, 0], animated: true, changes: 'look', when: { param: 'as', is: ['band'] } },
      help: 'The direction that a flat band is seen from at its full width.',
    }),
    look: ref({
      ...{ label: 'Look along it', to: 'look', default: null, empty: 'fading white', changes: 'look' },
      help: 'Colour, width and opacity from its head to its end. While this card is open they are on the life strip.',
    }),
    brightness: number({
      ...{ label: 'Brightness', unit: '×', default: 1, min: 0, soft: [0, 20], animated: true, changes: 'look' },
      help: 'Multiplies the colour; above 1 it glows through bloom.',
    }),
    opacity: number({
      ...{ label: 'Opacity', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, changes: 'look' },
      help: 'Before the curve along it.',
    }),
    softness: number({
      ...{ label: 'Softness', unit: '%', default: 70, min: 0, max: 100, soft: [0, 100], animated: true, changes: 'look' },
      help: 'How soft a line is at its sides.',
    }),
    own: choice({
      label: 'Of the particle',
      default: 'all',
      changes: 'look',
      options: [
        { value: 'all', label: 'takes its look', help: 'Times the particle’s colour, opacity and size over life.' },
        { value: 'none', label: 'its own look', help: 'Only what is set here.' },
      ],
      help: 'Whether the look of the particle counts for its trail.',
    }),
    blend: choice({
      label: 'Blend',
      default: 'add',
      changes: 'look',
      options: [
        { value: 'add', label: 'adds', help: 'Light on light.' },
        { value: 'normal', label: 'covers', help: 'Hides what is behind.' },
      ],
      help: 'How it goes over the picture.',
    }),
    pattern: choice({
      label: 'Along it',
      default: 'whole',
      changes: 'look',
      options: [
        { value: 'whole', label: 'unbroken', help: 'All of it.' },
        { value: 'dashes', label: 'dashes', help: 'Pieces with clear ends.' },
        { value: 'pulses', label: 'pulses', help: 'Pieces that swell and fade.' },
      ],
      help: 'Whether it is broken up.',
    }),
    period: number({
      ...{ label: 'Every', unit: 'm', default: 0.2, min: 0.0001, soft: [0.02, 2], animated: true, changes: 'look', when: PATTERNED },
      help: 'From one piece to the next, along the way.',
    }),
    filled: number({
      ...{ label: 'Filled', unit: '%', default: 50, min: 0, max: 100, soft: [0, 100], animated: true, changes: 'look', when: PATTERNED },
      help: 'How much of it is drawn.',
    }),
    pace: number({
      ...{ label: 'Moves', unit: 'm/s', default: 0, soft: [-5, 5], animated: true, integrated: true, changes: 'look', when: PATTERNED },
      help: 'The pieces go towards the head; below zero away from it.',
    }),
    head: choice({
      label: 'Head',
      default: 'none',
      changes: 'look',
      options: [
        { value: 'none', label: 'plain', help: 'Round.' },
        { value: 'glow', label: 'glow', help: 'A soft disc of light.' },
        { value: 'rays', label: 'glow with rays', help: 'A soft disc with rays that stand still in the picture.' },
      ],
      help: 'What is at its leading end.',
    }),
    headSize: number({
      ...{ label: 'Glow', unit: 'm', default: 0.1, min: 0, soft: [0, 1], animated: true, changes: 'look', when: HEADED },
      help: 'How wide the light at the head is.',
    }),
    headBright: number({
      ...{ label: 'Glow bright', unit: '×', default: 1, min: 0, soft: [0, 20], animated: true, changes: 'look', when: HEADED },
      help: 'How bright it is, of the colour at the head.',
    }),
    rays: number({
      ...{ label: 'Rays', unit: '', default: 6, min: 1, max: 64, integer: true, soft: [2, 16], changes: 'look' },
      ...{ when: { param: 'head', is: ['rays'] }, help: 'How many.' },
    }),
  },
  trail: (p, t) => ({
    seconds: p.choice('by') === 'time' ? p.number('seconds', t) : null,
    metres: p.choice('by') === 'way' ? p.number('metres', t) : null,
    tolerance: p.number('detail'),
    fade: p.number('fade', t),
  }),
  turned: (p) => p.choice('lies') === 'spin',
  share: (p) => p.number('share') / 100,
  reachVary(p) {
    const name = p.choice('by') === 'time' ? 'seconds' : 'metres'
    return Math.min(1, p.vary(name) / p.number(name))
  },
  drift(p, seed) {
    if (p.choice('points') !== 'drift') return null
    return {
      inherit: p.number('inherit') / 100,
      carried: p.number('carried') / 100,
      spacing: p.number('eddy') / 3,
      encode(w, { t0 }) {
        encodeGravity(w, [0, p.number('lift', t0), 0])
        const noise = {
          carry: false,
          strength: p.number('stir', t0),
          eddy: p.number('eddy', t0),
          octaves: 3,
          phase: RENEWAL * t0,
          responseS: 0.1,
        }
        if (noise.strength > 0) encodeTurbulence(w, noise, seed)
        encodeDrag(w, p.number('slows', t0))
      },
    }
  },
  strips: (p, t) => ({
    as: p.choice('as'),
    solid: { sides: p.number('sides'), roughness: p.number('rough') / 100 },
    width: p.number('width', t),
    normal: p.vector('normal', t),
    turned: p.choice('lies') === 'spin',
    softness: p.number('softness', t) / 100,
    brightness: p.number('brightness', t),
    opacity: p.number('opacity', t) / 100,
    own: p.choice('own') === 'all',
    blend: p.choice('blend'),
    pattern:
      p.choice('pattern') === 'whole'
        ? null
        : {
            period: p.number('period', t),
            filled: p.number('filled', t) / 100,
            shift: p.integral('pace', t),
            soft: p.choice('pattern') === 'pulses',
          },
    head:
      p.choice('head') === 'none'
        ? null
        : {
            size: p.number('headSize', t),
            brightness: p.number('headBright', t),
            rays: p.choice('head') === 'rays' ? p.number('rays') : 0,
          },
    look: p.text('look'),
  }),
  sentence: (p) =>
    say`Trail of ${p.choice('by') === 'time' ? 'seconds' : 'metres'}, ${word(DRAWN_AS[p.choice('as')], 'as')} ${'width'} wide, ${'look'} along it.`,
})
