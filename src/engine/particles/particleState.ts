import type { Notice, SystemStats } from '../frame'
import type { ColumnName } from '../memory'
import type { SolverState } from '../solver'

export interface ParticleState extends SolverState {
  words: Uint32Array
  /** The columns of the words: another plan may keep others. */
  names: readonly ColumnName[]
  /** Number of the next particle, by the id of the birth. */
  births: Record<string, number>
  nextId: number
  stats: SystemStats
  /** Forces that it goes on without. */
  off: string[]
  notices: Notice[]
}
/** The state of one system in a snapshot. */
export function particleStateOf(snapshot: { states: Record<string, SolverState> }, system: string): ParticleState {
  const state = snapshot.states[system]
  if (!state || !('words' in state)) throw new Error(`the snapshot has no particles of ${system}`)
  return state as ParticleState
}
