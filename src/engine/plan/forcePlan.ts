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
  /** The largest factor by which it widens the contact radius of a particle; 1 leaves it as it is. */
  widens?(at: StepTime): number
  encode(w: OpWriter, at: StepTime): void
}
/** In the order in which they act: what others go by first, what drags last, the others in the order of their cards. */
export function inOrder(forces: readonly ForcePlan[]): ForcePlan[] {
  const turn = (f: ForcePlan) => (f.leads ? 0 : f.resists ? 2 : 1)
  return [...forces].sort((a, b) => turn(a) - turn(b))
}
/** The largest factor by which all of them together may widen a contact radius. */
export const widestOf = (forces: readonly ForcePlan[], at: StepTime): number =>
  forces.reduce((most, f) => most * Math.max(1, f.widens?.(at) ?? 1), 1)
