import type { Solver } from './solver'

/**
 * Solvers in the order in which a substep runs them: those who take something as it is now come after those who give it. Within a rank they
 * keep their order. Throws when two need each other so; one of them must take the state of the substep before.
 */
export function ranksOf(solvers: readonly Solver[]): Solver[][] {
  const isAfter = (a: Solver, b: Solver) => a !== b && a.takes.some((t) => t.when === 'now' && b.gives.includes(t.flow))
  const ranks: Solver[][] = []
  let left = [...solvers]
  while (left.length) {
    const rank = left.filter((a) => !left.some((b) => isAfter(a, b)))
    if (!rank.length) throw new Error(`${left.map((s) => s.id).join(', ')} each wait for another: one must take what was before`)
    ranks.push(rank)
    left = left.filter((s) => !rank.includes(s))
  }
  return ranks
}
