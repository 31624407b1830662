'use client'
import { type PointerEvent, useRef, useState } from 'react'
import { readerOf, worldMatrix } from '../../acts'
import { apply } from '../../engine'
import type { Pose } from '../../protocol'
import { type Animated, type SystemDoc, timeOf, type Vec3, withValue } from '../../shot'
import { axesOf, cross, dot, project, rayThrough, unit } from '../../stage/camera'
import { meshFacts } from '../facts'
import { edit, useShot, useStudio } from '../store'
import { show } from '../units'

/** Length of the direction's line on the screen, pixels. */
const LENGTH_PX = 96
const STEPS = 48
const along = (a: Vec3, b: Vec3, k: number): Vec3 => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k]

/**
 * Direction and spread of the birth whose card is open: a line along the direction, the edge of the cone, and a knob on it that is dragged.
 */
export function SpreadHandle({
  system,
  pose,
  width,
  height,
  aspect,
}: {
  system: SystemDoc
  pose: Pose
  width: number
  height: number
  aspect: number
}) {
  const shot = useShot((s) => s)
  const open = useStudio((s) => s.open)
  const playhead = useStudio((s) => s.playhead)
  useStudio((s) => s.facts)
  const svg = useRef<SVGGElement>(null)
  const gesture = useRef<string | null>(null)
  const [dragging, setDragging] = useState(false)
  const act = system.birth.find((a) => a.id === open)
  if (!act) return null
  const t = timeOf(shot, playhead)
  const p = readerOf(act)
  const spread = p.number('spread', t)
  const object = shot.objects.find((o) => o.id === act.source)
  const matrix = object ? worldMatrix(object, t) : null
  const b = object ? meshFacts(object)?.bounds : null
  // On faces, births leave along their normals, most of all upwards: the line stands on the top of the source.
  const normal = p.choice('along', t) === 'normal'
  const own: Vec3 = p.choice('from', t) === 'faces' && b ? [(b.min[0] + b.max[0]) / 2, b.max[1], (b.min[2] + b.max[2]) / 2] : [0, 0, 0]
  const origin = (matrix ? apply(matrix, ...own) : [0, 0, 0]) as Vec3
  const d = normal ? ([0, 1, 0] as Vec3) : p.vector('direction', t)
  const tip = matrix ? apply(matrix, own[0] + d[0], own[1] + d[1], own[2] + d[2]) : d
  const direction = unit(matrix ? [tip[0] - origin[0], tip[1] - origin[1], tip[2] - origin[2]] : d)
  const screen = (w: Vec3) => {
    const s = project(pose, aspect, w)
    return s ? { x: ((s.x + 1) / 2) * width, y: ((1 - s.y) / 2) * height, depth: s.depth } : null
  }
  const middle = screen(origin)
  if (!middle) return null
  const length = (middle.depth * LENGTH_PX) / (width / 2 / (18 / pose.lens))
  const { right, forward } = axesOf(pose)
  // Across: where the cone is widest on the screen.
  const flat = cross(direction, forward)
  const side = unit(dot(flat, flat) > 1e-6 ? flat : right)
  const across = dot(side, right) < 0 ? ([-side[0], -side[1], -side[2]] as Vec3) : side
  const third = cross(direction, across)
  const angle = (spread * Math.PI) / 180
  const edge = (turn: number): Vec3 => {
    const out = along(along(origin, direction, Math.cos(angle) * length), across, Math.sin(angle) * Math.cos(turn) * length)
    return along(out, third, Math.sin(angle) * Math.sin(turn) * length)
  }
  const ring = Array.from({ length: STEPS + 1 }, (_, i) => screen(edge((i / STEPS) * 2 * Math.PI))).filter((x) => x !== null)
  const arc = Array.from({ length: STEPS + 1 }, (_, i) => {
    const a = ((i / STEPS) * 2 - 1) * angle
    return screen(along(along(origin, direction, Math.cos(a) * length), across, Math.sin(a) * length))
  }).filter((x) => x !== null)
  const end = screen(along(origin, direction, length))
  const knob = screen(edge(0))
  const other = screen(edge(Math.PI))
  if (!end || !knob) return null

  const move = (e: PointerEvent) => {
    const r = svg.current?.ownerSVGElement?.getBoundingClientRect()
    if (!gesture.current || !r) return
    const ray = rayThrough(pose, aspect, ((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2)
    // On the plane of the direction and across it.
    const k = dot([origin[0] - ray.from[0], origin[1] - ray.from[1], origin[2] - ray.from[2]], third) / dot(ray.along, third)
    if (!Number.isFinite(k) || k <= 0) return
    const at = along(ray.from, ray.along, k)
    const w: Vec3 = [at[0] - origin[0], at[1] - origin[1], at[2] - origin[2]]
    const degrees = Math.round(Math.min(180, Math.max(0, (Math.atan2(Math.abs(dot(w, across)), dot(w, direction)) * 180) / Math.PI)))
    edit(
      `spread of ${system.name}`,
      (s) => {
        const target = s.systems.find((x) => x.id === system.id)?.birth.find((a) => a.id === act.id)
        if (target) target.spread = withValue(target.spread as Animated<number>, t, degrees, 'smooth', 0.25 / (s.rate.num / s.rate.den))
      },
      gesture.current,
    )
  }
  const path = (points: { x: number; y: number }[]) => points.map((q, i) => `${i ? 'L' : 'M'}${q.x.toFixed(1)},${q.y.toFixed(1)}`).join('')
  const line = (q: { x: number; y: number } | null, dashed: boolean) =>
    q && <line x1={middle.x} y1={middle.y} x2={q.x} y2={q.y} className="stroke-mist" strokeDasharray={dashed ? '4 3' : undefined} />
  return (
    <g ref={svg} aria-label="Direction and spread">
      <path d={path(ring)} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={3} />
      <path d={path(arc)} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={3} />
      <path d={path(ring)} fill="none" className="stroke-mist" strokeOpacity={0.55} />
      <path d={path(arc)} fill="none" className="stroke-mist" strokeWidth={1.25} />
      {line(end, false)}
      {line(knob, true)}
      {line(other, true)}
      <circle cx={end.x} cy={end.y} r={3.5} className="fill-night stroke-mist" />
      <circle
        data-handle
        data-knob="spread"
        className="pointer-events-auto cursor-move fill-mist stroke-night"
        cx={knob.x}
        cy={knob.y}
        r={6}
        onPointerDown={(e) => {
          if (e.button !== 0) return
          e.stopPropagation()
          e.currentTarget.setPointerCapture(e.pointerId)
          gesture.current = `spread-${performance.now()}`
          setDragging(true)
        }}
        onPointerMove={move}
        onPointerUp={() => {
          gesture.current = null
          setDragging(false)
        }}
        onPointerCancel={() => {
          gesture.current = null
          setDragging(false)
        }}
      />
      <text
        x={knob.x + 14}
        y={knob.y + 4}
        className="fill-mist text-label"
        fontWeight={dragging ? 700 : 500}
        stroke="black"
        strokeOpacity={0.75}
        strokeWidth={3.5}
        paintOrder="stroke"
      >
        Spread {show(spread)}°
      </text>
    </g>
  )
}
