import { addColumnsOp } from './addColumns'
import { ageingOp } from './ageing'
import { boundsOp } from './bounds'
import { carryOp } from './carry'
import { chaseOp } from './chase'
import { contactOp } from './contact'
import { crawlOp } from './crawl'
import type { Op } from './define'
import { dragOp } from './drag'
import { endLimitsOp } from './endLimits'
import { gasCarryOp } from './gasCarry'
import { gravityOp } from './gravity'
import { limitChanceOp } from './limitChance'
import { limitGasOp } from './limitGas'
import { limitNearOp } from './limitNear'
import { limitOthersOp } from './limitOthers'
import { limitPhaseOp } from './limitPhase'
import { limitPlanesOp } from './limitPlanes'
import { limitRangeOp } from './limitRange'
import { limitRegionOp } from './limitRegion'
import { limitShapeOp } from './limitShape'
import { massOp } from './mass'
import { massByOp } from './massBy'
import { minSizeOp } from './minSize'
import { pathOp } from './path'
import { pointOp } from './point'
import { radiusByOp } from './radiusBy'
import { segmentOp } from './segment'
import { speedClampOp } from './speedClamp'
import { spinOp } from './spin'
import { squareDragOp } from './squareDrag'
import { stayOp } from './stay'
import { surfaceOp } from './surface'
import { turbulenceOp } from './turbulence'
import { turnOp, turnsOfOp, turnsOp } from './turn'
import { vortexOp } from './vortex'
import { limitWakeOp, wakeFlowOp, wakeOp } from './wake'
import {
  whenAgeOp,
  whenChanceOp,
  whenContactsOp,
  whenFewOp,
  whenJoinedOp,
  whenLimitsOp,
  whenReachedOp,
  whenShotOp,
  whenTimeOp,
  whenTouchedOp,
} from './when'
import { windOp } from './wind'

/** Every op there is: the kernels' codes, words and calls are made of this list. */
export const OPS: readonly Op[] = [
  gravityOp,
  dragOp,
  squareDragOp,
  turbulenceOp,
  windOp,
  wakeOp,
  wakeFlowOp,
  carryOp,
  vortexOp,
  pointOp,
  pathOp,
  segmentOp,
  gasCarryOp,
  speedClampOp,
  massByOp,
  radiusByOp,
  ageingOp,
  addColumnsOp,
  chaseOp,
  stayOp,
  crawlOp,
  surfaceOp,
  spinOp,
  limitRangeOp,
  limitShapeOp,
  limitNearOp,
  limitChanceOp,
  limitWakeOp,
  limitPhaseOp,
  limitPlanesOp,
  limitOthersOp,
  limitRegionOp,
  limitGasOp,
  endLimitsOp,
  massOp,
  contactOp,
  boundsOp,
  minSizeOp,
  turnsOp,
  turnsOfOp,
  whenTimeOp,
  whenAgeOp,
  whenShotOp,
  whenTouchedOp,
  whenContactsOp,
  whenChanceOp,
  whenLimitsOp,
  whenReachedOp,
  whenFewOp,
  whenJoinedOp,
  turnOp,
]
