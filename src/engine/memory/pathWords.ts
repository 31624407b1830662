import { type Matrix, posePath } from '../math'
import { MOTION } from './layout'

/** The words of a GLIDE between the poses of an object at the start and at the end of a substep. */
export function pathWords(m0: Matrix, m1: Matrix): number[] {
  const { motion, turn, end, pieces } = posePath(m0, m1)
  return [...turn, ...end, MOTION[motion], pieces]
}
