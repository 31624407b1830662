import { STICK_COLUMNS } from '../../engine'
import { number } from '../../shot'
import { defineContact, say } from '../define'
import { passesOf, passParams, withParams } from './common'

/**
 * What meets the surface keeps to the place where it met it, however that moves and bends, until something pulls harder than the
 * strength.
 */
export const stick = defineContact({
  kind: 'stick',
  title: 'Stick',
  help: 'Particles stick to colliders and ride along, until something pulls too hard.',
  synonyms: ['collision', 'adhesion', 'glue', 'stickiness'],
  columns: STICK_COLUMNS,
  params: {
    ...withParams('To'),
    letGo: number({
      label: 'Lets go at',
      unit: 'm/s²',
      default: 20,
      empty: 'never',
      min: 0,
      soft: [0, 100],
      animated: true,
      help: 'The pull at which it comes off: of gravity, of winds, or of the object when it starts, stops or turns.',
    }),
    ...passParams,
  },
  sentence: (p) =>
    p.optional('letGo', 0) === null ? say`Sticks to ${'with'} for good.` : say`Sticks to ${'with'}, lets go at ${'letGo'}.`,
  contact: (p, t) => ({
    mode: 'stick',
    restitution: 0,
    restitutionVary: 0,
    friction: 0,
    frictionVary: 0,
    letGo: p.optional('letGo', t) ?? 1e30,
    passes: passesOf(p, t),
  }),
})
