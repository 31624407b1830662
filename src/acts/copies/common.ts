import { compose, hash3, type Matrix, unit } from '../../engine'
import { choice, number, type Params, ref, type Vec3, vector } from '../../shot'
import type { Reads } from '../reader'

/** How copies differ from one another: the same for every arrangement. */
export const varyParams = {
  moved: vector({
    label: 'Moved ±',
    unit: 'm',
    default: [0, 0, 0],
    min: 0,
    animated: true,
    help: 'Each copy somewhere within this of its place.',
  }),
  turned: vector({
    label: 'Rotated ±',
    unit: '°',
    default: [0, 0, 0],
    min: 0,
    animated: true,
    help: 'Each copy rotated by up to this either way.',
  }),
  larger: number({
    label: 'Size ±',
    unit: '%',
    default: 0,
    min: 0,
    max: 99,
    soft: [0, 50],
    animated: true,
    help: 'Each copy larger or smaller by up to this.',
  }),
  object: ref({
    label: '± within',
    to: 'object',
    default: null,
    empty: 'everywhere',
    help: 'Only copies in the box of this object have the ±; it may be unseen, and move.',
  }),
  soft: number({
    label: 'Soft edge',
    unit: 'm',
    default: 0.1,
    min: 0,
    soft: [0, 1],
    animated: true,
    help: 'From none to all of the ± within this, around that box.',
  }),
  lag: number({
    label: 'Each later',
    unit: 's',
    default: 0,
    soft: [-1, 1],
    help: 'Of an object that changes shape: each copy runs this much behind the one before it.',
  }),
  late: number({
    label: 'Time ±',
    unit: 's',
    default: 0,
    min: 0,
    soft: [0, 2],
    help: 'Of an object that changes shape: each copy earlier or later by up to this.',
  }),
  among: {
    type: 'refs',
    to: 'object',
    label: 'Shapes too',
    default: [],
    empty: 'only its own',
    help: 'Further objects whose shapes the copies are picked among, each turned and scaled as it is. Of objects only.',
  },
  pick: choice({
    label: 'Picked',
    default: 'random',
    options: [
      { value: 'random', label: 'at random' },
      { value: 'turn', label: 'one after another' },
    ],
    help: 'Which copy has which of the shapes.',
  }),
} satisfies Params
const each = (of: (axis: number) => number): Vec3 => [of(0), of(1), of(2)]
const signedUnit = (seed: number, copy: number, channel: number): number => unit(hash3(seed, copy, channel)) * 2 - 1

/** Place and rotation (degrees) of one copy, with its own differences. */
export function copyMatrix(
  p: Reads<typeof varyParams>,
  t: number,
  seed: number,
  copy: number,
  place: readonly number[],
  rotate: readonly [number, number, number],
  within: (place: readonly number[]) => number,
): Matrix {
  const part = within(place)
  const [moved, turned] = [p.vector('moved', t), p.vector('turned', t)].map((v) => v.map((x) => x * part))
  const larger = (p.number('larger', t) / 100) * part
  const k = 1 + larger * signedUnit(seed, copy, 7)
  return compose(
    each((a) => place[a] + moved[a] * signedUnit(seed, copy, 1 + a)),
    each((a) => rotate[a] + turned[a] * signedUnit(seed, copy, 4 + a)),
    [k, k, k],
  )
}
/** More copies than this of one element are refused by their numbers. */
export const MOST_COPIES = 2000
export const countParam = (label: string, d: number, help: string, max = MOST_COPIES) =>
  number({ label, unit: '', default: d, min: 1, max, soft: [1, 24], integer: true, help })
