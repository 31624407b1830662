import { defineContact, say } from '../define'
import { withParams } from './common'

/** Goes through, and counts as a contact all the same: a turn or a shed can wait for it. */
export const notice = defineContact({
  kind: 'notice',
  title: 'Notice',
  help: 'Particles go through the object as if it were not there, but the moment counts as a contact: for turns, sheds and charts.',
  synonyms: ['trigger', 'pass through', 'sensor', 'crossing'],
  params: withParams('Through'),
  sentence: () => say`Goes through ${'with'} and notices it.`,
  contact: () => ({ mode: 'notice', restitution: 0, restitutionVary: 0, friction: 0, frictionVary: 0, letGo: 0, passes: 0 }),
})
