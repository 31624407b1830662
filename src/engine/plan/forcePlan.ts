import type { OpWriter } from '../ops'

export interface StepTime {
  t0: number
  t1: number
  dt: number
}
export interface ForcePlan {
  id: string
  /** As the artist knows it. */
  name?: string
  /** Drags against air at rest or in motion: it acts behind all that accelerate, whatever the order of the cards. */
  resists?: boolean
  /** Says what others go by: it acts before them, whatever the order of the cards. */
  leads?: boolean
  encode(w: OpWriter, at: StepTime): void
}
