import type { Mesh } from '../geometry'
import { identity } from '../math'
import type { PlanObject, StepTime } from '../plan'
import type { GrownSites } from '../solver'
import type { Grown } from './forest'
import { type Placer, placer } from './placer'

const OWN = identity()

/** The first of `count` sorted numbers from `from` on that is greater than a value. */
function above(list: ArrayLike<number>, from: number, count: number, value: number): number {
  let [low, high] = [from, from + count]
  while (low < high) {
    const middle = (low + high) >> 1
    if (list[middle] > value) high = middle
    else low = middle + 1
  }
  return low
}

/**
 * Where births may start on what has grown: at the tips, by how far each grows in the substep, so that they lie evenly along the lines; or along
 * all that has grown as it begins, evenly by length. `untilAt`: seconds of growth at a time of the shot. Null: there is nothing now.
 */
export function grownSites(
  g: Grown,
  on: 'tips' | 'lines',
  { mesh, shape }: Pick<PlanObject, 'shape'> & { mesh: Mesh },
  at: StepTime,
  untilAt: (t: number) => number,
): GrownSites | null {
  const [until, next] = [untilAt(at.t0), untilAt(at.t1)]
  const lines: number[] = []
  /** Of each line what counts of its length, and all before it. */
  const sums: number[] = []
  let metres = 0
  for (let line = 0; line < g.generations.length; line++) {
    if (g.since[line] > at.t0) continue
    const own = on === 'tips' ? metresAt(g, line, next) - metresAt(g, line, until) : metresAt(g, line, until)
    if (!(own > 0)) continue
    lines.push(line)
    sums.push((metres += own))
  }
  if (!lines.length) return null
  const start = mesh.positions
  // The array may be the same for every time: it is read out before the next is asked for.
  const ends = [at.t0, at.t1].map((t) => placer(mesh, shape ? shape(t).slice() : start, OWN, 0))
  return {
    weight: metres,
    place(share, t, out) {
      const k = Math.min(lines.length - 1, above(sums, 0, sums.length, share * metres))
      const [from, to] = [g.offsets[lines[k]], g.offsets[lines[k] + 1]]
      if (on === 'tips') {
        const now = Math.min(Math.max(untilAt(t), g.times[from]), g.times[to - 1])
        const i = Math.min(to - 1, Math.max(from + 1, above(g.times, from, to - from, now)))
        between(g, i, (now - g.times[i - 1]) / (g.times[i] - g.times[i - 1]), ends, out)
        return
      }
      const m = share * metres - (k ? sums[k - 1] : 0)
      const i = Math.min(to - 1, Math.max(from + 1, above(g.metres, from, to - from, m)))
      between(g, i, (m - g.metres[i - 1]) / (g.metres[i] - g.metres[i - 1]), ends, out)
    },
  }
}
/** How long a line is at a moment of growth, m; 0 before it begins. */
function metresAt(g: Grown, line: number, until: number): number {
  const [from, to] = [g.offsets[line], g.offsets[line + 1]]
  if (to - from < 2 || !(g.times[from] < until)) return 0
  if (g.times[to - 1] <= until) return g.metres[to - 1]
  const i = above(g.times, from, to - from, until)
  const f = (until - g.times[i - 1]) / (g.times[i] - g.times[i - 1])
  return g.metres[i - 1] + f * (g.metres[i] - g.metres[i - 1])
}
/** How long all lines together are at a moment of growth, of those that have begun at t (s), m. */
export function metresGrown(g: Grown, until: number, t: number): number {
  let sum = 0
  for (let line = 0; line < g.generations.length; line++) if (g.since[line] <= t) sum += metresAt(g, line, until)
  return sum
}
const [a, b] = [new Float64Array(3), new Float64Array(3)]
/** A place between a point of a line and the one before it, at both ends of a substep, and the normal there. */
function between(g: Grown, i: number, share: number, ends: readonly Placer[], out: Float64Array): void {
  const f = Math.min(1, Math.max(0, share)) || 0
  ends.forEach((place, end) => {
    place(g.triangles[i - 1], g.b1[i - 1], g.b2[i - 1], a)
    place(g.triangles[i], g.b1[i], g.b2[i], b)
    for (let q = 0; q < 3; q++) out[end * 3 + q] = a[q] + (b[q] - a[q]) * f
  })
  ends[0].normal(g.triangles[i], b)
  out.set(b, 6)
}
