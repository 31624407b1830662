import { number } from '../../shot'
import { defineContact, say } from '../define'
import { passesOf, passParams, withParams } from './common'

/** What goes into the surface ends there; what goes along it stays, less the friction. */
export const slide = defineContact({
  kind: 'slide',
  title: 'Slide',
  help: 'Particles glide along colliders and do not come back from them.',
  synonyms: ['collision', 'collide', 'glide'],
  params: {
    ...withParams('Along'),
    friction: number({
      label: 'Friction',
      unit: '1',
      default: 0,
      min: 0,
      soft: [0, 1],
      animated: true,
      varied: true,
      help: 'Speed lost along the surface for each part of speed lost into it.',
    }),
    ...passParams,
  },
  sentence: () => say`Slides along ${'with'}, friction ${'friction'}.`,
  contact: (p, t) => ({
    mode: 'bounce',
    restitution: 0,
    restitutionVary: 0,
    friction: p.number('friction', t),
    frictionVary: p.vary('friction'),
    letGo: 0,
    passes: passesOf(p, t),
  }),
})
