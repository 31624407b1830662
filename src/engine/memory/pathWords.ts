import type { PosePath } from '../math'
import { MOTION } from './layout'

/** The words of a POSE_PATH. */
export const pathWords = ({ motion, turn, end, pieces }: PosePath): number[] => [...turn, ...end, MOTION[motion], pieces]
