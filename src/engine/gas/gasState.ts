import type { Notice } from '../frame'
import type { SolverState } from '../solver'
import type { DetailState } from './detail'
import type { Cells } from './window'

export interface GasState extends SolverState {
  window: Cells | null
  /** Velocity and scalars, with the cells around. */
  fields: Float32Array[]
  /** Which scalars these are. */
  slots: readonly number[]
  held: Cells | null
  room: Cells
  detail: DetailState | null
  /** Whether there was no memory for detail. */
  plain: boolean
  notices: Notice[]
}
