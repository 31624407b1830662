import type { Columns } from '../memory'
import type { StepTime } from '../plan'

/** What goes along with the particles of a system: it sees each substep when all have moved, and before the dead leave the columns. */
export interface Follower {
  /** `dt`: own seconds of the system. `died`: whether any are dead. */
  follow(columns: Columns, at: StepTime, dt: number, frame: number, died: boolean): void
  /** Whether it goes on by the forces of the system, also when none of the particles are left. */
  readonly feels: boolean
  /** What its last capture was made of. */
  readonly built: { strips: number; points: number }
}
