export { type ObjectState, seenFrom } from './objectState'
export { Scene } from './scene'
