import { compose, hash3, type Matrix, unit } from '../../engine'
import { number, type Params, vector } from '../../shot'
import type { Reader } from '../reader'

/** How copies differ from one another: the same for every arrangement. */
export const varyParams: Params = {
  moved: vector({ label: 'Moved ±', unit: 'm', default: [0, 0, 0], min: 0, animated: true, help: 'Each copy somewhere within this of its place.' }),
  turned: vector({ label: 'Rotated ±', unit: '°', default: [0, 0, 0], min: 0, animated: true, help: 'Each copy rotated by up to this either way.' }),
  larger: number({ label: 'Size ±', unit: '%', default: 0, min: 0, max: 99, soft: [0, 50], animated: true, help: 'Each copy larger or smaller by up to this.' }),
}
const either = (seed: number, copy: number, channel: number): number => unit(hash3(seed, copy, channel)) * 2 - 1

/** Place and rotation (degrees) of one copy, with its own differences. */
export function copyMatrix(p: Reader, t: number, seed: number, copy: number, place: readonly number[], rotate: readonly [number, number, number]): Matrix {
  const moved = p.vector('moved', t), turned = p.vector('turned', t), larger = p.number('larger', t) / 100
  const k = 1 + larger * either(seed, copy, 7)
  return compose(
    [0, 1, 2].map((a) => place[a] + moved[a] * either(seed, copy, 1 + a)) as never,
    [0, 1, 2].map((a) => rotate[a] + turned[a] * either(seed, copy, 4 + a)) as never,
    [k, k, k],
  )
}
/** More copies than this of one element are refused by their numbers. */
export const MOST_COPIES = 2000
export const countParam = (label: string, d: number, help: string, max = MOST_COPIES) => number({ label, unit: '', default: d, min: 1, max, soft: [1, 24], integer: true, help })
