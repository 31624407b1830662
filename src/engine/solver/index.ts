export type { SolverKind } from './kind'
export { ranksOf } from './ranks'
export type { Flow, ForceGuard, GrownSites, PointSource, Solver, SolverState, Substep, Take } from './solver'
