export { forcesOn, timesOf } from './examine'
export { particleSystems } from './kind'
export { type ParticleState, ParticleSystem, particleStateOf } from './particleSystem'
export { offenderOf, probe } from './probe'
