import { thrownObjects } from '../bodies'
import { gases } from '../gas'
import { growths } from '../growth'
import { particleSystems } from '../particles'
import type { SolverKind } from '../solver'

/** Every kind of solver there is. What a World runs is what these make of its plan. */
export const SOLVER_KINDS: readonly SolverKind[] = [thrownObjects, particleSystems, gases, growths]
