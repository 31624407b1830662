import { defineContact, say } from '../define'
import { withParams } from './common'

/** An exception for one system: what others meet it goes through. */
export const ignore = defineContact({
  kind: 'ignore',
  title: 'Pass through',
  help: 'Particles of this system go through an object that others meet.',
  synonyms: ['collision exception', 'pass through', 'exclude'],
  params: withParams('Through'),
  sentence: () => say`Passes through ${'with'}.`,
  contact: () => ({ mode: 'pass', restitution: 0, restitutionVary: 0, friction: 0, frictionVary: 0, letGo: 0, passes: 1 }),
})
