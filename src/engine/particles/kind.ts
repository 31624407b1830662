import { Neighbourhood } from '../fields'
import type { SolverKind } from '../solver'
import { Links } from './links'
import { ParticleSystem } from './particleSystem'
import { Shed } from './shed'
import { Streak } from './streak'
import { Trails } from './trails'

/** Every particle system of the plan, and what they share. */
export const particleSystems: SolverKind = (plan, machine) => {
  const streaks = plan.streaks ?? []
  if (!plan.systems.length && !streaks.length) return []
  const near = new Neighbourhood('neighbourhood of systems', machine)
  const systems = plan.systems.map((s) => new ParticleSystem(machine, s, near))
  const trails = (s: ParticleSystem) => (s.plan.trails ?? []).map((t) => new Trails(machine, t, s))
  const sheds = (s: ParticleSystem) => (s.plan.sheds ?? []).map((x) => new Shed(machine.heap, x, s))
  const links = (s: ParticleSystem) => (s.plan.links ?? []).map((x) => new Links(machine, x, s, x.system < 0 ? s : systems[x.system], near))
  const ofObjects = streaks.flatMap((p) => {
    const streak = new Streak(machine, p, near)
    return [streak, ...trails(streak.system)]
  })
  return [near, ...systems.flatMap((s) => [s, ...trails(s), ...sheds(s), ...links(s)]), ...ofObjects]
}
