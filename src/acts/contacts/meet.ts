import { MEET_COLUMNS } from '../../engine'
import { number } from '../../shot'
import { defineContact, say } from '../define'

/** Particles of one system as balls: they push each other apart, bounce and rub, and pile up. Colliders stop them at their radius. */
export const meet = defineContact({
  kind: 'meet',
  title: 'Meet each other',
  help: 'The particles have a radius, push each other apart, bounce and pile up.',
  synonyms: ['self collision', 'inter-particle collision', 'granular', 'sand', 'balls'],
  columns: MEET_COLUMNS,
  params: {
    radius: number({
      label: 'Radius',
      unit: 'm',
      default: 0.02,
      min: 0.0001,
      soft: [0.005, 0.2],
      animated: true,
      varied: true,
      help: 'Of each particle, also against colliders. Heavier are the larger ones, by their volume.',
    }),
    restitution: number({
      label: 'Restitution',
      unit: '%',
      default: 20,
      min: 0,
      max: 100,
      soft: [0, 100],
      animated: true,
      help: 'Share of the speed towards each other that comes back.',
    }),
    friction: number({
      label: 'Friction',
      unit: '1',
      default: 0.4,
      min: 0,
      soft: [0, 1],
      animated: true,
      help: 'How much they rub along each other: the steeper their piles.',
    }),
    rounds: number({
      label: 'Rounds',
      unit: '',
      default: 6,
      min: 1,
      max: 64,
      soft: [1, 16],
      integer: true,
      help: 'How often in a substep they are pushed apart: more keep high piles from sinking in, and take longer.',
    }),
  },
  sentence: () => say`Meets its own at ${'radius'}, keeps ${'restitution'} of the speed, friction ${'friction'}.`,
  meet: (p, t) => ({
    radius: p.number('radius', t),
    radiusVary: p.vary('radius'),
    restitution: p.number('restitution', t) / 100,
    friction: p.number('friction', t),
    rounds: p.number('rounds', t),
  }),
})
