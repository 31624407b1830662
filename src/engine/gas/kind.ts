import type { SolverKind } from '../solver'
import { Gas } from './gas'
import { StoredGas } from './stored'

export const gases: SolverKind = (plan, machine) =>
  (plan.gases ?? []).map((g) => (g.stored ? new StoredGas(machine, { ...g, stored: g.stored }) : new Gas(machine, g)))
