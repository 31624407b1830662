import type { PlanObject, PlanStreak } from '../engine'
import type { Shot } from '../shot'
import { forcePlan, unmuted, type Where } from './forcePlan'
import { forceSite } from './forceSite'
import { actOf } from './registry'
import { trailPlans } from './strips'

/** Half the time, s, over which the velocity of an object is taken. */
const STEP = 1 / 960

/** What objects leave behind as they move. Points that drift feel the forces of the shot that reach all, or them. */
export function streaksOf(shot: Shot, objects: readonly PlanObject[], where: Where): PlanStreak[] {
  return shot.objects.flatMap((o, object): PlanStreak[] => {
    const trails = o.muted ? [] : trailPlans(shot, { ...o, phases: [], whole: { offspring: o.offspring } })
    if (!trails.length) return []
    const reaching = shot.forces.filter((f) => !f.muted && (f.reaches === 'all' || f.reaches.includes(o.id)))
    const forces = trails.some((t) => t.drift) ? unmuted(reaching.map((f) => f.act)) : []
    const site = forceSite(shot, { id: o.id, space: null }, objects, where)
    const place = (t: number) => {
      const m = where(o, t)
      return [m[3], m[7], m[11]]
    }
    return [
      {
        object,
        // Of one that the simulation moves, or that goes along with such a one, the run alone knows where it is.
        ...(shot.objects.some((x) => x.body)
          ? {}
          : {
              velocity: (t: number) => {
                const [a, b] = [place(t - STEP), place(t + STEP)]
                return a.map((v, k) => (b[k] - v) / (2 * STEP))
              },
            }),
        system: {
          ...{ id: o.id, name: o.name, seed: o.seed, limit: 1, life: () => [1e30, 0], endless: true, births: [], contacts: [] },
          forces: forces.map((a) => forcePlan(shot, o, a, 100, site)),
          extraColumns: [...new Set(forces.flatMap((a) => actOf(a.kind).columns ?? []))],
          trails,
        },
      },
    ]
  })
}
