import type { RegionAt, Surface } from '../geometry'
import { invert, type Matrix, multiply } from '../math'

/** Everything a solver needs to know of an object in one substep. */
export interface ObjectState {
  id: string
  sides?: 'front' | 'both'
  /** Cells of the distance grid that stands for it, or 0. */
  cells: number
  /** m */
  thickness: number
  surface: Surface | null
  endless: boolean
  /** The amounts of a region when the substep began; null for one that is not there. */
  region(id: string): RegionAt | null
  /** Own space to the world as the substep begins and as it ends, and back; null where it is flat. */
  m0: Matrix
  m1: Matrix
  in0: Matrix | null
  in1: Matrix | null
}
/** Objects as they are seen from a space that is there at `m0` as the substep begins and at `m1` as it ends; from the world when it cannot be entered. */
export function seenFrom(objects: readonly ObjectState[], m0: Matrix, m1: Matrix): readonly ObjectState[] {
  const [a, b] = [invert(m0), invert(m1)]
  if (!a || !b) return objects
  return objects.map((o) => {
    const [out0, out1] = [multiply(a, o.m0), multiply(b, o.m1)]
    return { ...o, m0: out0, m1: out1, in0: invert(out0), in1: invert(out1) }
  })
}
