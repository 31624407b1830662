'use client'
import { type PointerEvent, useRef } from 'react'
import { worldMatrix } from '../../acts'
import { apply } from '../../engine'
import type { Pose } from '../../protocol'
import { MOST_POINTS, type ObjectDoc, type Vec3 } from '../../shot'
import { project } from '../../stage/camera'
import { edit, setStudio, useStudio } from '../store'
import { intoOwn, onPlane } from './plane'

/** What a path is made of; any other shape has none of it. */
const pathOf = (o: ObjectDoc) => o.shape as unknown as { points: Vec3[]; ends: string }
export const pointsOf = (o: ObjectDoc): Vec3[] => pathOf(o).points
export const setPoints = (id: string, label: string, next: (points: Vec3[]) => Vec3[], gesture: string | null): void =>
  edit(
    label,
    (s) => {
      const o = s.objects.find((x) => x.id === id)
      if (o?.shape.kind === 'path') pathOf(o).points = next(pointsOf(o).map((q) => [...q] as Vec3))
    },
    gesture,
  )

/** The points of a path, to drag; a small ring between two of them becomes a new one. */
export function PathHandles({
  object: o,
  t,
  pose,
  width,
  height,
  aspect,
}: {
  object: ObjectDoc
  t: number
  pose: Pose
  width: number
  height: number
  aspect: number
}) {
  const picked = useStudio((s) => s.point)
  const drag = useRef<{ index: number; through: Vec3; gesture: string } | null>(null)
  const group = useRef<SVGGElement>(null)
  const points = pointsOf(o)
  const matrix = worldMatrix(o, t)
  const screen = (q: Vec3) => {
    const at = apply(matrix, ...q) as Vec3
    const p = project(pose, aspect, at)
    return p ? { x: ((p.x + 1) / 2) * width, y: ((1 - p.y) / 2) * height, at } : null
  }
  const down = (index: number, between: boolean, at: Vec3) => (e: PointerEvent) => {
    if (e.button !== 0) return
    e.stopPropagation()
    // The ring between two points is gone once it has become one of them: the group keeps the pointer.
    group.current?.setPointerCapture(e.pointerId)
    const gesture = `point-${performance.now()}`
    drag.current = { index, through: at, gesture }
    if (between)
      setPoints(o.id, 'a new point', (list) => [...list.slice(0, index), intoOwn(matrix, at) ?? list[index], ...list.slice(index)], gesture)
    setStudio({ point: index })
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    const r = group.current?.ownerSVGElement?.getBoundingClientRect()
    if (!d || !r) return
    const own = intoOwn(matrix, onPlane(pose, aspect, (e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height, d.through))
    if (own) setPoints(o.id, `point ${d.index + 1} of ${o.name}`, (list) => list.map((q, i) => (i === d.index ? own : q)), d.gesture)
  }
  const closed = pathOf(o).ends === 'closed' && points.length > 2
  const shown = points.map(screen)
  return (
    <g
      ref={group}
      aria-label="Points of the path"
      onPointerMove={move}
      onPointerUp={() => void (drag.current = null)}
      onPointerCancel={() => void (drag.current = null)}
    >
      {shown.map(
        (p, i) =>
          p && (
            <circle
              key={`under ${i}`}
              className="fill-none stroke-black"
              strokeOpacity={0.6}
              strokeWidth={4}
              cx={p.x}
              cy={p.y}
              r={i === picked ? 6 : 4.5}
            />
          ),
      )}
      {points.length < MOST_POINTS &&
        points.map((q, i) => {
          const next = points[i + 1] ?? (closed ? points[0] : null)
          const half = next && screen([0, 1, 2].map((a) => (q[a] + next[a]) / 2) as Vec3)
          return (
            half && (
              <circle
                key={`between ${i}`}
                data-handle="between"
                className="pointer-events-auto cursor-copy fill-night stroke-mist"
                strokeOpacity={0.7}
                cx={half.x}
                cy={half.y}
                r={3}
                onPointerDown={down(i + 1, true, half.at)}
              />
            )
          )
        })}
      {shown.map(
        (p, i) =>
          p && (
            <circle
              key={`point ${i}`}
              data-handle="point"
              className={`pointer-events-auto cursor-move ${i === picked ? 'fill-mist' : 'fill-night'} stroke-mist`}
              strokeWidth={1.5}
              cx={p.x}
              cy={p.y}
              r={i === picked ? 6 : 4.5}
              onPointerDown={down(i, false, p.at)}
            >
              <title>{`Point ${i + 1}`}</title>
            </circle>
          ),
      )}
    </g>
  )
}
