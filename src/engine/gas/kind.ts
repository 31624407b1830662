import type { SolverKind } from '../solver'
import { Gas } from './gas'

export const gases: SolverKind = (plan, machine) => (plan.gases ?? []).map((g) => new Gas(machine, g))
