import { number } from '../shot'

/** How strips may be drawn that are bodies, as a choice of `as`. */
export const SOLID = {
  value: 'solid',
  label: 'solid',
  help: 'A body among the objects: in all lights, with shadows. What would fade thins.',
} as const
/** What a body has beside its width and look. */
export const SOLID_PARAMS = {
  sides: number({
    ...{ label: 'Sides', unit: '', default: 8, min: 3, max: 24, integer: true, soft: [3, 12], changes: 'look' },
    ...{ when: { param: 'as', is: ['solid'] } },
    help: 'Around it. Below five they have edges.',
  }),
  rough: number({
    ...{ label: 'Rough', unit: '%', default: 70, min: 0, max: 100, soft: [0, 100], changes: 'look' },
    ...{ when: { param: 'as', is: ['solid'] } },
    help: 'How dull it is; at 0 it mirrors the lights.',
  }),
} as const
