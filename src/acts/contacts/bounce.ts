import { number } from '../../shot'
import { defineContact, say } from '../define'
import { passesOf, passParams, withParams } from './common'

/** Newton's restitution along the normal, Coulomb's friction across it. */
export const bounce = defineContact({
  kind: 'bounce',
  title: 'Bounce',
  help: 'Particles bounce off colliders and rub along them.',
  synonyms: ['collision', 'collide', 'collider', 'rebound', 'restitution', 'friction'],
  params: {
    ...withParams('Off'),
    restitution: number({
      label: 'Restitution',
      unit: '%',
      default: 40,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      varied: true,
      help: 'Share of the speed towards the surface that comes back.',
    }),
    friction: number({
      label: 'Friction',
      unit: '1',
      default: 0.2,
      min: 0,
      soft: [0, 1],
      animated: true,
      varied: true,
      help: 'Speed lost along the surface for each part of speed lost into it.',
    }),
    ...passParams,
  },
  sentence: () => say`Bounces off ${'with'}, keeps ${'restitution'} of the speed, friction ${'friction'}.`,
  contact: (p, t) => ({
    mode: 'bounce',
    restitution: p.number('restitution', t) / 100,
    restitutionVary: p.vary('restitution') / 100,
    friction: p.number('friction', t),
    frictionVary: p.vary('friction'),
    letGo: 0,
    passes: passesOf(p, t),
  }),
})
