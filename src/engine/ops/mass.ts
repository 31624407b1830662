import { f32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

/** Masses for the forces behind it that move heavy particles less. */
export const massOp = defineOp({ name: 'mass', code: 16, group: 'other', kernel: 'index', words: { kg: f32(), vary: f32() } })
export const encodeMass = (w: OpWriter, kg: number, vary: number, seed: number): void => void w.write(massOp, { kg, vary }, seed)
