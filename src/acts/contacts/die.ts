import { ref } from '../../shot'
import { defineContact, say } from '../define'

export const die = defineContact({
  kind: 'die',
  title: 'Die on contact',
  help: 'A particle ends where it meets a collider.',
  params: { with: ref({ label: 'On', to: 'object', default: null, empty: 'all colliders', help: 'One object, or every object with the role of a collider.' }) },
  sentence: () => say`Dies on ${'with'}.`,
  contact: () => ({ keep: 0, keepVary: 0, friction: 0, frictionVary: 0, dies: true }),
})
