'use client'
import { actOf, actOfSort, type Handle, readerOf, worldMatrix } from '../../acts'
import { identity, type Matrix } from '../../engine'
import { type ActDoc, type Animated, type AnimatedVec3, keyedNumber, keyedVec3, type Shot, type Vec3, withValue } from '../../shot'
import { meshFacts } from '../facts'
import { edit, useShot } from '../store'
import { DirectionHandle, type Held, PlaceHandle, ReachHandle } from './heldHandles'
import type { Screen } from './MoveHandle'
import { linesOf, pathOf } from './outlines'

/** What an act lets one take hold of, and the lines that show where it and its limits work. `find` fetches the act from a draft. */
export function ForceHandles({
  act,
  name,
  find,
  t,
  screen,
}: {
  act: ActDoc
  name: string
  find: (s: Shot) => ActDoc | undefined
  t: number
  screen: Screen
}) {
  const objects = useShot((s) => s.objects)
  const tolerance = useShot((s) => 0.25 / (s.rate.num / s.rate.den))
  const def = actOfSort(act.kind, 'force')
  const p = readerOf(act)
  const carrier = objects.find((o) => o.id === act.object)
  const matrix = carrier ? worldMatrix(carrier, t) : identity()
  const held: Held = {
    name,
    t,
    screen,
    matrix,
    label: (param) => def.params[param].label,
    vector: (param) => p.vector(param, t),
    keyed: (param) => keyedVec3(act[param] as AnimatedVec3, t),
    length: (param) => p.optional(param, t),
    set: (param, next, gesture) =>
      edit(
        `${def.params[param].label.toLowerCase()} of ${name}`,
        (s) => {
          const a = find(s)
          if (!a) return
          const written = (c: Animated<number>, v: number) => withValue(c, t, v, 'smooth', tolerance)
          // Only what changes becomes a key.
          a[param] =
            typeof next === 'number'
              ? written(a[param] as Animated<number>, next)
              : (a[param] as AnimatedVec3).map((c, i) => (next[i] === keyedNumber(c, t) ? c : written(c, next[i])))
        },
        gesture,
      ),
  }
  // Places last, so that no ring or arrow covers their arms.
  const handles = [...(def.handles ?? [])].sort((a, b) => Number(a.kind === 'place') - Number(b.kind === 'place'))
  // With nothing that stands somewhere, the name goes by the arrow.
  const placed = handles.some((h) => h.kind === 'place')
  const outlines = [
    ...(def.outlines?.(p, t) ?? []).flatMap((o) => linesOf(o, matrix)),
    ...(act.limits ?? []).filter((l) => !l.muted).flatMap((l) => limitLines(l, t, objects)),
  ]
  return (
    <g aria-label={`Handles of ${name}`}>
      {outlines.map((points, i) => {
        const d = pathOf(screen, points)
        return (
          <g key={i}>
            <path d={d} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={3} />
            <path d={d} fill="none" className="stroke-mist" strokeOpacity={0.7} strokeDasharray="4 4" />
          </g>
        )
      })}
      {handles.map((h) => (
        <OneHandle key={h.param} handle={h} held={held} named={!placed} />
      ))}
    </g>
  )
}
function OneHandle({ handle, held, named }: { handle: Handle; held: Held; named: boolean }) {
  switch (handle.kind) {
    case 'place':
      return <PlaceHandle param={handle.param} held={held} />
    case 'direction':
      return <DirectionHandle param={handle.param} at={handle.at} held={held} named={named} />
    case 'reach':
      return <ReachHandle param={handle.param} at={handle.at} axis={handle.axis} held={held} />
  }
}
/** The lines of where a limit works; none while it lacks something. */
function limitLines(l: ActDoc, t: number, objects: Shot['objects']): Vec3[][] {
  const limit = actOf(l.kind)
  if (limit.sort !== 'limit' || !limit.outlines) return []
  const p = readerOf(l)
  if (limit.needs?.(p)) return []
  const o = objects.find((x) => x.id === l.object)
  const matrix: Matrix = o ? worldMatrix(o, t) : identity()
  return limit.outlines(p, t, (o && meshFacts(o)?.bounds) ?? null).flatMap((x) => linesOf(x, matrix))
}
