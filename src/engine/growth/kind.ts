import type { SolverKind } from '../solver'
import { Growth } from './growth'

/** What grows on the objects of a plan. */
export const growths: SolverKind = (plan, machine) => {
  const frameOf = (t: number) => Math.round(plan.first + (t * plan.rate.num) / plan.rate.den)
  return (plan.growths ?? []).map(
    (g) => new Growth(g, plan.objects[g.object], machine, g.from && (plan.systems[g.from.system] ?? {}), frameOf),
  )
}
