import type { Machine } from '../memory'
import type { Plan } from '../plan'
import type { Solver } from './solver'

/** One kind of solver: what of it a plan asks for. */
export type SolverKind = (plan: Plan, machine: Machine) => Solver[]
