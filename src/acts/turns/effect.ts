import type { TurnEffect } from '../../engine'
import { number, type Params, toggle, vector } from '../../shot'
import type { Reader } from '../reader'

/** What else happens to a particle at the moment of a turn. */
export const EFFECT_PARAMS = {
  keeps: number({
    label: 'Keeps velocity',
    unit: '%',
    default: 100,
    soft: [0, 200],
    animated: true,
    varied: true,
    help: 'Of the velocity they had: 0 stops them, so that a push sets it; 100 changes nothing, below zero turns them round.',
  }),
  deflect: number({
    label: 'Turns by',
    synonyms: ['deflect', 'angle', 'heading', 'zigzag'],
    unit: '°',
    default: 0,
    soft: [0, 90],
    animated: true,
    varied: true,
    help: 'The angle by which the velocity is turned, any way round, before it is pushed.',
  }),
  push: vector({
    label: 'Push',
    unit: 'm/s',
    default: [0, 0, 0],
    animated: true,
    help: 'Added to the velocity, in the space of the system.',
  }),
  scatter: number({ label: 'Scatter', unit: 'm/s', default: 0, min: 0, soft: [0, 20], animated: true, help: 'Added in any direction.' }),
  size: number({
    label: 'Size',
    unit: '%',
    default: 100,
    min: 0,
    soft: [0, 300],
    animated: true,
    varied: true,
    help: 'Of the size they had, from the turn on.',
  }),
  life: number({
    label: 'Life left',
    unit: 's',
    default: 1,
    min: 0,
    soft: [0, 5],
    animated: true,
    varied: true,
    empty: 'as before',
    help: 'From the turn on.',
  }),
  redraw: toggle({
    label: 'Redrawn',
    synonyms: ['new colour', 'colour seed', 'random'],
    default: false,
    help: 'What is drawn by chance for each, as its colour, its size and its shape, is drawn again. A copy always has its own.',
  }),
  free: toggle({ label: 'Lets go', default: false, help: 'Of what it sticks to, and of the place it keeps.' }),
} as const satisfies Params

export function effectOf(p: Pick<Reader<typeof EFFECT_PARAMS>, 'number' | 'vary' | 'vector' | 'optional' | 'on'>, t: number): TurnEffect {
  const life = p.optional('life', t)
  return {
    scale: p.number('keeps', t) / 100,
    scaleVary: p.vary('keeps') / 100,
    deflect: (p.number('deflect', t) * Math.PI) / 180,
    deflectVary: (p.vary('deflect') * Math.PI) / 180,
    push: p.vector('push', t),
    scatter: p.number('scatter', t),
    size: p.number('size', t) / 100,
    sizeVary: p.vary('size') / 100,
    life: life === null ? null : [life, p.vary('life')],
    free: p.on('free', t),
    redraw: p.on('redraw', t),
  }
}
