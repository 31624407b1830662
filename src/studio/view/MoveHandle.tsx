'use client'
import { type PointerEvent, useRef } from 'react'
import type { Pose } from '../../protocol'
import type { Vec3 } from '../../shot'
import { axesOf, dot, project, rayThrough } from '../../stage/camera'
import { show } from '../units'

export const AXES: { name: string; dir: Vec3 }[] = [
  { name: 'X', dir: [1, 0, 0] },
  { name: 'Y', dir: [0, 1, 0] },
  { name: 'Z', dir: [0, 0, 1] },
]
export const along = (a: Vec3, b: Vec3, k: number): Vec3 => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k]
/** The picture on the screen that handles lie over. */
export interface Screen {
  pose: Pose
  width: number
  height: number
  aspect: number
}
export function onScreen({ pose, width, height, aspect }: Screen, w: Vec3): { x: number; y: number; depth: number } | null {
  const p = project(pose, aspect, w)
  return p ? { x: ((p.x + 1) / 2) * width, y: ((1 - p.y) / 2) * height, depth: p.depth } : null
}
/** Metres in the shot that are `px` pixels on the screen at a depth. */
export const metresFor = ({ pose, width }: Screen, depth: number, px: number): number => (depth * px) / (width / 2 / (18 / pose.lens))

/**
 * Three lettered arms and a knob in the middle: moves along an axis, or in the plane of the picture. `onMove` gets how far from where it
 * began, in the shot.
 */
export function MoveHandle({
  screen,
  origin,
  onStart,
  onMove,
}: {
  screen: Screen
  origin: Vec3
  onStart: () => void
  onMove: (moved: Vec3, gesture: string) => void
}) {
  const drag = useRef<{ axis: number | null; start: Vec3; grab: Vec3; gesture: string } | null>(null)
  const group = useRef<SVGGElement>(null)
  const middle = onScreen(screen, origin)
  if (!middle) return null
  /** The point that a drag means: on the arm's line nearest to the ray, or on the picture's plane through the middle. */
  const grabAt = (e: PointerEvent, start: Vec3, arm: number | null): Vec3 => {
    const r = ((group.current as SVGGElement).ownerSVGElement as SVGSVGElement).getBoundingClientRect()
    const ray = rayThrough(screen.pose, screen.aspect, ((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2)
    if (arm === null) {
      const { forward } = axesOf(screen.pose)
      return along(
        ray.from,
        ray.along,
        dot([start[0] - ray.from[0], start[1] - ray.from[1], start[2] - ray.from[2]], forward) / dot(ray.along, forward),
      )
    }
    const d = AXES[arm].dir
    const b = dot(d, ray.along)
    const w: Vec3 = [start[0] - ray.from[0], start[1] - ray.from[1], start[2] - ray.from[2]]
    const denom = 1 - b * b
    return denom < 1e-4 ? start : along(start, d, (b * dot(ray.along, w) - dot(d, w)) / denom)
  }
  const down = (arm: number | null) => (e: PointerEvent) => {
    if (e.button !== 0) return
    e.stopPropagation()
    ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
    drag.current = { axis: arm, start: origin, grab: grabAt(e, origin, arm), gesture: `move-${performance.now()}` }
    onStart()
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const now = grabAt(e, d.start, d.axis)
    onMove(now.map((v, i) => v - d.grab[i]) as Vec3, d.gesture)
  }
  const up = () => void (drag.current = null)
  const arm = metresFor(screen, middle.depth, 52)
  return (
    <g ref={group}>
      {AXES.map((a, i) => {
        const end = onScreen(screen, along(origin, a.dir, arm))
        if (!end || Math.hypot(end.x - middle.x, end.y - middle.y) < 8) return null
        return (
          <g
            key={a.name}
            data-handle
            className="pointer-events-auto cursor-move"
            onPointerDown={down(i)}
            onPointerMove={move}
            onPointerUp={up}
            onPointerCancel={up}
          >
            <line x1={middle.x} y1={middle.y} x2={end.x} y2={end.y} stroke="black" strokeOpacity={0.55} strokeWidth={3.5} />
            <line x1={middle.x} y1={middle.y} x2={end.x} y2={end.y} className="stroke-mist" strokeWidth={1.25} />
            <circle cx={end.x} cy={end.y} r={8.5} className="fill-night stroke-mist" />
            <text x={end.x} y={end.y + 3.8} textAnchor="middle" className="fill-mist font-semibold text-caption">
              {a.name}
            </text>
          </g>
        )
      })}
      <circle
        data-handle
        className="pointer-events-auto cursor-move fill-mist stroke-night"
        cx={middle.x}
        cy={middle.y}
        r={5.5}
        onPointerDown={down(null)}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
      />
      {drag.current && (
        <text x={middle.x + 14} y={middle.y - 14} className="fill-mist text-label" stroke="black" strokeWidth={3} paintOrder="stroke">
          {origin.map((v) => show(v)).join(', ')} m
        </text>
      )}
    </g>
  )
}
