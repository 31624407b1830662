import { number, type Params, ref } from '../../shot'
import type { Reads } from '../reader'

/** Of acts that say what happens at a contact: with what, and for how many. */
export const withParams = (label: string) =>
  ({
    with: ref({
      label,
      to: 'object',
      default: null,
      empty: 'all colliders',
      help: 'One object, or every object with the role of a collider. Of several cards for an object the last counts.',
    }),
  }) satisfies Params
export const passParams = {
  passes: number({
    label: 'Let through',
    unit: '%',
    default: 0,
    min: 0,
    max: 100,
    soft: [0, 100],
    animated: true,
    help: 'Share of the particles that the object does not stop; each keeps to one or the other.',
  }),
} satisfies Params
export const passesOf = (p: Reads<typeof passParams>, t: number): number => p.number('passes', t) / 100
