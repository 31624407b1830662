import { number, ref } from '../../shot'
import { defineContact, say } from '../define'

/** Newton's restitution along the normal, Coulomb's friction across it. */
export const bounce = defineContact({
  kind: 'bounce',
  title: 'Bounce',
  help: 'Particles bounce off colliders and rub along them.',
  params: {
    with: ref({ label: 'Off', to: 'object', default: null, empty: 'all colliders', help: 'One object, or every object with the role of a collider.' }),
    keeps: number({ label: 'Keeps', unit: '%', default: 40, min: 0, max: 100, soft: [0, 100], animated: true, varied: true, help: 'Share of the speed towards the surface that comes back.' }),
    friction: number({ label: 'Friction', unit: '1', default: 0.2, min: 0, soft: [0, 1], animated: true, varied: true, help: 'Speed lost along the surface for each part of speed lost into it.' }),
  },
  sentence: () => say`Bounces off ${'with'}, keeps ${'keeps'} of the speed, friction ${'friction'}.`,
  contact: (p, t) => ({ keep: p.number('keeps', t) / 100, keepVary: p.vary('keeps') / 100, friction: p.number('friction', t), frictionVary: p.vary('friction'), dies: false }),
})
