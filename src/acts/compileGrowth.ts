import { apply, invert, type PlanGrowth, type PlanObject } from '../engine'
import type { Shot } from '../shot'
import { seedOf, unmuted, type Where } from './forcePlan'
import { readerOf } from './reader'
import { actOfSort } from './registry'

/** What grows on the objects of a shot. Lengths are of the shot, at the scale that an object has at the first frame. */
export function growthsOf(shot: Shot, objects: readonly PlanObject[], where: Where): PlanGrowth[] {
  return shot.objects.flatMap((o, object): PlanGrowth[] =>
    o.muted || !objects[object].mesh
      ? []
      : unmuted(o.offspring).flatMap((a): PlanGrowth[] => {
          const act = actOfSort(a.kind, 'offspring')
          const what = act.growth?.(readerOf(a))
          if (!what) return []
          const m = where(o, 0)
          const into = invert(m)
          const volume = m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])
          const scale = Math.cbrt(Math.abs(volume)) || 1
          const { params: p, near } = what
          const system = what.from ? shot.systems.findIndex((s) => s.id === what.from?.system) : -1
          // Nobody to wait for.
          if (what.from && system < 0) return []
          const from = near?.object ? shot.objects.find((x) => x.id === near.object) : null
          const at = from ? where(from, 0) : null
          const amounts = what.region ? objects[object].regions?.get(what.region.id) : null
          const place = into ? apply(into, at ? at[3] : 0, at ? at[7] : 0, at ? at[11] : 0) : ([0, 0, 0] as const)
          return [
            {
              ...{
                object,
                id: a.id,
                name: `${act.title} of ${o.name}`,
                seed: seedOf(shot, o, a),
                lift: what.lift,
                scale,
                ...(amounts && what.region
                  ? { region: { amounts: () => amounts(0), edge: what.region.edge, reach: what.region.reach } }
                  : {}),
                ...(what.from ? { from: { ...what.from, system } } : {}),
                progress: what.progress,
              },
              params: {
                ...p,
                ...{ reach: p.reach / scale, reachVary: p.reachVary / scale, speed: p.speed / scale, wanderSize: p.wanderSize / scale },
                ...{ curl: p.curl * scale, curlVary: p.curlVary * scale, wander: p.wander * scale },
                ...{ spacing: p.spacing / scale, detail: p.detail / scale },
                near: near ? { place: [place[0], place[1], place[2]], radius: near.radius / scale } : null,
              },
            },
          ]
        }),
  )
}
