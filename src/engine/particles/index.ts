export { forcesOn, offenderOf, probe, timesOf } from './examine'
export { particleSystems } from './kind'
export { type ParticleState, ParticleSystem, particleStateOf } from './particleSystem'
