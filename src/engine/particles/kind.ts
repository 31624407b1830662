import { Neighbourhood } from '../fields'
import type { SolverKind } from '../solver'
import { ParticleSystem } from './particleSystem'
import { Trails } from './trails'

/** Every particle system of the plan, and what they share. */
export const particleSystems: SolverKind = (plan, machine) => {
  if (!plan.systems.length) return []
  const near = new Neighbourhood('neighbourhood of systems', machine)
  const systems = plan.systems.map((s) => new ParticleSystem(machine, s, near))
  return [near, ...systems.flatMap((s) => [s, ...(s.plan.trails ?? []).map((trail) => new Trails(machine, trail, s))])]
}
