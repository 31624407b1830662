import { Neighbourhood } from '../fields'
import type { SolverKind } from '../solver'
import { ParticleSystem } from './particleSystem'

/** Every particle system of the plan, and what they share. */
export const particleSystems: SolverKind = (plan, machine) => {
  if (!plan.systems.length) return []
  const near = new Neighbourhood('neighbourhood of systems', machine)
  return [near, ...plan.systems.map((s) => new ParticleSystem(machine, s, near))]
}
