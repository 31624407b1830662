import { apply, type Falloff, type Matrix } from '../../engine'
import { choice, type NumberParam, number, type Params, ref, type Vec3, vector } from '../../shot'
import type { ForceSite } from '../define'
import type { Reads } from '../reader'

/** Where a force stands: of every act that has a place. */
export const placeParams = {
  place: vector({
    label: 'Place',
    unit: 'm',
    default: [0, 0, 0],
    animated: true,
    help: 'Where it stands: in the shot, or from the object that it is parented to.',
  }),
  object: ref({
    label: 'Parent',
    to: 'object',
    default: null,
    empty: 'the shot',
    help: 'It is parented to this object, which may be unseen.',
  }),
} satisfies Params
export const reachParam = (d: number, help = 'Nothing is felt farther away than this.') =>
  number({ label: 'Reach', unit: 'm', default: d, given: true, empty: 'everywhere', min: 0.001, soft: [0.05, 5], animated: true, help })
export const falloffParam = choice({
  label: 'Falls',
  default: 'smooth',
  options: [
    { value: 'even', label: 'not at all', help: 'As strong up to the reach.' },
    { value: 'linear', label: 'evenly', help: 'From all of it in the middle to nothing at the reach.' },
    { value: 'smooth', label: 'smoothly', help: 'Without a corner in the middle and at the reach.' },
    { value: 'steep', label: 'steeply', help: 'Most of it close to the middle.' },
  ],
  help: 'How it falls from its middle to its reach.',
})
export const axisParam = vector({
  label: 'Axis',
  unit: '',
  default: [0, 1, 0],
  animated: true,
  help: 'The direction of its axis; its length does not matter.',
})
export const reachOf = (p: Reads<{ reach: NumberParam }>, t: number): number => p.optional('reach', t) ?? Number.POSITIVE_INFINITY
export const falloffOf = (p: { choice(name: 'falloff', t?: number): string }, t: number): Falloff => p.choice('falloff', t) as Falloff

/** Half of a whole size along each axis. */
export const halves = ([x, y, z]: Vec3): Vec3 => [x / 2, y / 2, z / 2]
/** The place of a force in the space of the simulation. */
export const placeIn = (p: Reads<typeof placeParams>, t: number, site: ForceSite): Vec3 =>
  apply(site.from(p.text('object'), t), ...p.vector('place', t))
/** A direction (unit) in the space of the simulation; upwards when it has no length. */
export function directionIn(v: Vec3, m: Matrix): Vec3 {
  const out: Vec3 = [
    m[0] * v[0] + m[1] * v[1] + m[2] * v[2],
    m[4] * v[0] + m[5] * v[1] + m[6] * v[2],
    m[8] * v[0] + m[9] * v[1] + m[10] * v[2],
  ]
  const length = Math.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2])
  return length > 1e-12 ? [out[0] / length, out[1] / length, out[2] / length] : [0, 1, 0]
}
