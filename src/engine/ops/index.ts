export { encodePass } from './addColumns'
export { encodeAgeing } from './ageing'
export { encodeBounds } from './bounds'
export { encodeCarry } from './carry'
export { encodeChase, type Target } from './chase'
export { encodeContact } from './contact'
export { encodeCrawl } from './crawl'
export { encodeDrag } from './drag'
export { encodeEndLimits } from './endLimits'
export { FALLOFFS, type Falloff } from './falloff'
export { encodeFlock } from './flock'
export { encodeGasCarry } from './gasCarry'
export { encodeGravity } from './gravity'
export { encodeLimitChance } from './limitChance'
export { encodeLimitGas } from './limitGas'
export { encodeLimitNear } from './limitNear'
export { encodeLimitOthers } from './limitOthers'
export { encodeLimitPhase } from './limitPhase'
export { encodeLimitPlanes } from './limitPlanes'
export { encodeLimitRange } from './limitRange'
export { encodeLimitRegion } from './limitRegion'
export { encodeLimitShape } from './limitShape'
export { encodeMass } from './mass'
export { encodeMassBy } from './massBy'
export { encodeMinSize } from './minSize'
export { MAX_OCTAVES } from './noise'
export { encodePath } from './path'
export { encodePoint } from './point'
export { encodeRadiusBy } from './radiusBy'
export { countOps, scaledForces } from './scaled'
export { encodeSegment } from './segment'
export { FULL, type Share } from './share'
export { encodeSpeedClamp } from './speedClamp'
export { encodeSpin } from './spin'
export { encodeSquareDrag } from './squareDrag'
export { encodeStay } from './stay'
export { encodeSurface } from './surface'
export { encodeSwarm } from './swarm'
export { OPS } from './table'
export { encodeTurbulence } from './turbulence'
export { encodeTurn, encodeTurns, encodeTurnsOf, NO_EFFECT, TURN_MODES, type TurnEffect } from './turn'
export { encodeVortex } from './vortex'
export { encodeLimitWake, encodeWake, encodeWakeFlow, type Wake, type WakePlace } from './wake'
export {
  CONDITION_ROWS,
  encodeWhenAge,
  encodeWhenChance,
  encodeWhenContacts,
  encodeWhenFew,
  encodeWhenJoined,
  encodeWhenLimits,
  encodeWhenReached,
  encodeWhenShot,
  encodeWhenTime,
  encodeWhenTouched,
  type Slot,
} from './when'
export { encodeWind } from './wind'
export { OpWriter, type PassRequest, type SurfaceRequest, type VolumeRequest } from './writer'
