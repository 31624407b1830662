import { Neighbourhood } from '../fields'
import type { SolverKind } from '../solver'
import { ThrownObject } from './thrownObject'

/** Every object of the plan that the simulation moves, and what they share. */
export const thrownObjects: SolverKind = (plan, machine) => {
  if (!plan.bodies?.length) return []
  const near = new Neighbourhood('neighbourhood of thrown objects', machine)
  return [near, ...plan.bodies.map((b) => new ThrownObject(machine, b, plan.objects[b.object], near))]
}
