import type { ObjectDoc, Shot, Vec3 } from '../../shot'
import { show } from '../units'

export const xyz = (v: Vec3): string => v.map((x) => show(x)).join(', ')
/** The object of an id in any state of the shot. */
export const finder =
  (id: string) =>
  (s: Shot): ObjectDoc | undefined =>
    s.objects.find((x) => x.id === id)
