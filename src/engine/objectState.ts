import type { Matrix } from './matrix'
import type { RegionAt, Surface } from './surfaces'

/** Everything a system needs to know of an object in one substep. */
export interface ObjectState {
  id: string
  sides?: 'front' | 'both'
  /** Cells of the grid of distances that stands for it, or 0. */
  cells: number
  /** metres */
  thick: number
  surface: Surface | null
  endless: boolean
  /** The amounts of a region when the substep began; null for one that is not there. */
  region(id: string): RegionAt | null
  m0: Matrix
  m1: Matrix
  in0: Matrix | null
  in1: Matrix | null
}
