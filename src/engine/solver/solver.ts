import type { Notice, Part, SystemStats } from '../frame'
import type { Matrix } from '../math'
import type { Columns } from '../memory'
import type { ObjectState } from '../objects'
import type { StepTime } from '../plan'

/** What flows from one solver to another. */
export type Flow = 'points' | 'surfaces' | 'fields' | 'values'
/**
 * What a solver reads of others. `now`: as it is in this substep, so those who give it go first. `before`: as the substep began, whoever
 * goes first; where two need each other, both take it so.
 */
export interface Take {
  flow: Flow
  when: 'now' | 'before'
}
/** Points that a solver gives: their columns, and how many there were as the substep began, before any birth in it. */
export interface PointSource {
  id: string
  columns: Columns
  count: number
}
/** One substep as a solver sees it. */
export interface Substep {
  readonly at: StepTime
  /** The frame that it leads to. */
  readonly frame: number
  readonly objects: readonly ObjectState[]
  /** By the place of their systems in the plan. */
  readonly points: readonly (PointSource | undefined)[]
  /** Where the records of gases lie, by their places in the plan: as they are before they step. */
  readonly airs: readonly number[]
  /** Only to be looked at: prepare also what holds nothing. */
  readonly examining: boolean
  /** What has grown over an object, by its place in the plan. */
  grownOn(object: number, on: 'tips' | 'lines'): readonly GrownSites[]
  /** Metres of all that, at t (s). */
  metresGrown(object: number, t: number): number
}
/** Where births may start on what has grown over an object, in the object's own space. */
export interface GrownSites {
  /** Metres: what several on one object share births by. */
  readonly weight: number
  /** The place of a share (0 to 1) of all, at t (s): where it is on the object as the substep begins and as it ends, and the normal there; xyz each. */
  place(share: number, t: number, out: Float64Array): void
}
/** What a solver keeps at a frame, from which it goes on exactly as before. */
export interface SolverState {
  /** For the budget of the history. */
  readonly bytes: number
}
/** Forces that throw points to non-finite places, and going on without them. */
export interface ForceGuard {
  /** Ids of forces that were found, since the last call, to do so; each is off from the next substep on. */
  takeOffenders(): string[]
  /** Goes on without forces from the coming frame on, and says so in a notice. */
  switchOff(forces: readonly string[], frame: number): void
}
/**
 * One thing that a World advances: a particle system, a thrown object, the neighbourhood that some of them share. In each substep the
 * solvers of one rank all spawn, then all prepare, then all step; a later rank begins when the earlier ones have stepped. Prepare and step
 * throw Stopped when they were asked to stop half way.
 */
export interface Solver {
  /** Of the element that it belongs to, or a name of its own: unique in a World, and the key of its state in a snapshot. */
  readonly id: string
  readonly gives: readonly Flow[]
  readonly takes: readonly Take[]
  /** Its points, of one that gives some. */
  readonly columns?: Columns
  readonly stats?: SystemStats
  /** Of a gas, where its record lies. */
  readonly air?: number
  readonly notices?: readonly Notice[]
  /** Of one that grows over an object, that one's place in the plan, where births may start on it in a substep, and metres that it has come to at t (s). */
  readonly growsOn?: number
  sites?(on: 'tips' | 'lines', at: StepTime): GrownSites | null
  metres?(t: number): number
  readonly forces?: ForceGuard
  /** A new frame begins: its counts start at zero. */
  beginFrame?(): void
  /** A loop begins again: whatever counts or waits from the beginning does so anew. */
  beginAgain?(): void
  /** Adds what begins in this substep. */
  spawn?(substep: Substep): void
  /** Reads what it needs of others; its own state stays as it is. */
  prepare(substep: Substep): void
  /** Advances its state to the end of the substep. */
  step(substep: Substep): void
  /** Hands over what leaves it for another solver of its rank, by the place of a system in the plan, when all have stepped. */
  passOn?(substep: Substep, to: (system: number) => Solver | undefined): void
  /** Where it has an object at t (s), of one that moves objects; null while they are where their own values have them. */
  poseOf?(object: string, t: number): Matrix | null
  /** Its parts of the frame, at t (s). */
  capture(t: number): Part[]
  save(): SolverState
  restore(state: SolverState): void
  /** Bytes of the World's memory that it holds. */
  readonly bytes: number
  /** Gives all of it back; safe to call twice. */
  dispose(): void
}
