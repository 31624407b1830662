import { defineContact, say } from '../define'
import { passesOf, passParams, withParams } from './common'

export const die = defineContact({
  kind: 'die',
  title: 'Die on contact',
  help: 'A particle ends where it meets a collider.',
  synonyms: ['kill', 'collision', 'destroy', 'death on contact'],
  endsLives: true,
  params: { ...withParams('On'), ...passParams },
  sentence: () => say`Dies on ${'with'}.`,
  contact: (p, t) => ({ mode: 'die', restitution: 0, restitutionVary: 0, friction: 0, frictionVary: 0, letGo: 0, passes: passesOf(p, t) }),
})
