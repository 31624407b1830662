import type { PlanObject } from '../engine'
import type { Shot } from '../shot'
import type { Where } from './forcePlan'

export interface CompileProblem {
  element: string
  message: string
}
/** What the parts of a compilation share. */
export interface CompileContext {
  shot: Shot
  objects: PlanObject[]
  /** Places of the objects that are colliders. */
  colliders: number[]
  where: Where
  problems: CompileProblem[]
  secondsPerFrame: number
  secondsPerSubstep: number
  /** The place of an object among the plan's, or −1. */
  indexOf(id: string): number
}
