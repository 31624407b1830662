import { Neighbourhood } from '../fields'
import type { SolverKind } from '../solver'
import { ParticleSystem } from './particleSystem'
import { Shed } from './shed'
import { Trails } from './trails'

/** Every particle system of the plan, and what they share. */
export const particleSystems: SolverKind = (plan, machine) => {
  if (!plan.systems.length) return []
  const near = new Neighbourhood('neighbourhood of systems', machine)
  const systems = plan.systems.map((s) => new ParticleSystem(machine, s, near))
  const trails = (s: ParticleSystem) => (s.plan.trails ?? []).map((t) => new Trails(machine, t, s))
  const sheds = (s: ParticleSystem) => (s.plan.sheds ?? []).map((x) => new Shed(machine.heap, x, s))
  return [near, ...systems.flatMap((s) => [s, ...trails(s), ...sheds(s)])]
}
