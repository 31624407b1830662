import type { Pose, Shot } from '../shot'
import { shotPose } from './camera'
import type { Stage } from './stage'

// Pictures before there is a frame.
const atBeginning = (shot: Shot) => ({ t: 0, pose: shotPose(shot, 0), share: 1, transparent: false, editing: true, through: true })

/** The objects of a shot without anything that is simulated. Throws when they cannot be drawn. */
export function objectsAlone(stage: Stage, shot: Shot, view: { pose: Pose | null; width: number; height: number }): void {
  const { width, height } = view
  const at = { pose: view.pose ?? shotPose(shot, 0), through: !view.pose }
  stage.draw({ ...atBeginning(shot), ...at, samples: 0, width, height })
}
/** There is no View yet: a tiny picture, which nobody sees, makes shaders ready that the first one needs. */
export function warmUp(stage: Stage, shot: Shot): void {
  try {
    stage.draw({ ...atBeginning(shot), samples: 4, width: 64, height: 36 })
  } catch {
    // What is wrong is said when the View is drawn.
  }
}
