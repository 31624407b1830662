'use client'
import { type PointerEvent, useRef } from 'react'
import { parentsOf, worldMatrix } from '../../acts'
import { apply, invert, type Matrix } from '../../engine'
import { type CameraDoc, findElement, keyedNumber, type LightDoc, type ObjectDoc, sampleVec3, type SystemDoc, timeOf, type Vec3, withValue } from '../../shot'
import { axesOf, dot, project, rayThrough, shotPose } from '../../stage/camera'
import { meshFacts } from '../facts'
import { edit, useShot, useStudio } from '../store'
import { show } from '../units'
import { PathHandles } from './PathHandles'
import { SpreadHandle } from './SpreadHandle'

type Placed = (ObjectDoc | LightDoc | CameraDoc) & { place: ObjectDoc['place'] }
const AXES: { name: string; dir: Vec3 }[] = [
  { name: 'X', dir: [1, 0, 0] },
  { name: 'Y', dir: [0, 1, 0] },
  { name: 'Z', dir: [0, 0, 1] },
]
const add = (a: Vec3, b: Vec3, k: number): Vec3 => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k]
const grid = (v: number) => Math.round(v * 1000) / 1000

/** Crisp lines over the picture: the selection's ticks, and the move handle with its three lettered arms. */
export function Handles({ left, top, width, height, aspect }: { left: number; top: number; width: number; height: number; aspect: number }) {
  const shot = useShot((s) => s)
  const selected = useStudio((s) => s.selected)
  const playhead = useStudio((s) => s.playhead)
  const free = useStudio((s) => s.pose)
  useStudio((s) => s.facts)
  const drag = useRef<{ axis: number | null; start: Vec3; grab: Vec3; gesture: string; base: Vec3 } | null>(null)
  const svg = useRef<SVGSVGElement>(null)
  const t = timeOf(shot, playhead)
  const pose = free ?? shotPose(shot, t)
  const found = selected ? findElement(shot, selected) : null
  const place = found && 'place' in found.element && !(found.group === 'cameras' && !free && found.element.id === shot.camera) ? (found.element as Placed) : null
  const screen = (w: Vec3) => {
    const p = project(pose, aspect, w)
    return p ? { x: ((p.x + 1) / 2) * width, y: ((1 - p.y) / 2) * height, depth: p.depth } : null
  }
  const object = found?.group === 'objects' ? (found.element as ObjectDoc) : null
  const matrix = object ? worldMatrix(object, t) : null
  const origin: Vec3 | null = matrix ? [matrix[3], matrix[7], matrix[11]] : place ? sampleVec3(place.place, t) : null
  const middle = origin ? screen(origin) : null

  const rayAt = (e: PointerEvent) => {
    const r = (svg.current as SVGSVGElement).getBoundingClientRect()
    return rayThrough(pose, aspect, ((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2)
  }
  /** The point that a drag means: on the arm's line nearest to the ray, or on the picture's plane through the middle. */
  const grabAt = (e: PointerEvent, start: Vec3, arm: number | null): Vec3 => {
    const { from, along } = rayAt(e)
    if (arm === null) {
      const { forward } = axesOf(pose)
      const k = dot([start[0] - from[0], start[1] - from[1], start[2] - from[2]], forward) / dot(along, forward)
      return add(from, along, k)
    }
    const d = AXES[arm].dir
    const b = dot(d, along)
    const w: Vec3 = [start[0] - from[0], start[1] - from[1], start[2] - from[2]]
    const denom = 1 - b * b
    if (denom < 1e-4) return start
    const s = (b * dot(along, w) - dot(d, w)) / denom
    return add(start, d, s)
  }
  const down = (arm: number | null) => (e: PointerEvent) => {
    if (!origin || e.button !== 0) return
    e.stopPropagation()
    ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
    drag.current = { axis: arm, start: origin, grab: grabAt(e, origin, arm), gesture: `move-${performance.now()}`, base: (place as Placed).place.map((c) => keyedNumber(c, t)) as Vec3 }
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d || !place || !found) return
    const now = grabAt(e, d.start, d.axis)
    // In the space of the parent; what modulators add stays on top.
    const parent = object ? parentsOf(object)[0] : undefined
    const inverse = parent ? invert(worldMatrix(parent, t)) : null
    const far = (v: Vec3): Vec3 => (inverse ? apply(inverse, ...v) : v)
    const moved = now.map((v, i) => v - d.grab[i]) as Vec3
    const [a, b] = [far([0, 0, 0]), far(moved)]
    const target = d.base.map((v, i) => grid(v + b[i] - a[i])) as Vec3
    edit(
      `place of ${place.name}`,
      (s) => {
        const el = s[found.group][found.index] as Placed
        el.place = el.place.map((c, i) => (target[i] === keyedNumber(c, t) ? c : withValue(c, t, target[i], 'smooth', 0.25 / (s.rate.num / s.rate.den)))) as Placed['place']
      },
      d.gesture,
    )
  }
  const up = () => void (drag.current = null)

  const bounds = object && !(object.shape.kind === 'plane' && object.shape.endless) ? meshFacts(object)?.bounds : null
  let corners: { x0: number; y0: number; x1: number; y1: number } | null = null
  if (object && bounds) {
    const m = matrix as Matrix
    const points = Array.from({ length: 8 }, (_, c) => screen(apply(m, (c & 1 ? bounds.max : bounds.min)[0], (c & 2 ? bounds.max : bounds.min)[1], (c & 4 ? bounds.max : bounds.min)[2]))).filter((p) => p !== null)
    if (points.length === 8) corners = { x0: Math.min(...points.map((p) => p.x)) - 4, y0: Math.min(...points.map((p) => p.y)) - 4, x1: Math.max(...points.map((p) => p.x)) + 4, y1: Math.max(...points.map((p) => p.y)) + 4 }
  }
  const arm = middle ? (middle.depth * 52) / (width / 2 / (18 / pose.lens)) : 0
  const { right, up: upAxis } = axesOf(pose)
  return (
    <svg ref={svg} role="group" aria-label="Handles" className="live pointer-events-none absolute overflow-visible" style={{ left, top, width, height }}>
      {corners && (
        <path
          fill="none"
          className="stroke-mist"
          d={[
            [corners.x0, corners.y0, 1, 1],
            [corners.x1, corners.y0, -1, 1],
            [corners.x0, corners.y1, 1, -1],
            [corners.x1, corners.y1, -1, -1],
          ]
            .map(([x, y, sx, sy]) => `M${x + sx * 9},${y}H${x}V${y + sy * 9}`)
            .join('')}
        />
      )}
      {found?.group === 'systems' && <SpreadHandle system={found.element as SystemDoc} pose={pose} width={width} height={height} aspect={aspect} />}
      {object?.shape.kind === 'path' && <PathHandles object={object} t={t} pose={pose} width={width} height={height} aspect={aspect} />}
      {place && origin && middle && (
        <g>
          {AXES.map((a, i) => {
            const end = screen(add(origin, a.dir, arm))
            if (!end || Math.hypot(end.x - middle.x, end.y - middle.y) < 8) return null
            return (
              <g key={a.name} data-handle className="pointer-events-auto cursor-move" onPointerDown={down(i)} onPointerMove={move} onPointerUp={up} onPointerCancel={up}>
                <line x1={middle.x} y1={middle.y} x2={end.x} y2={end.y} stroke="black" strokeOpacity={0.55} strokeWidth={3.5} />
                <line x1={middle.x} y1={middle.y} x2={end.x} y2={end.y} className="stroke-mist" strokeWidth={1.25} />
                <circle cx={end.x} cy={end.y} r={8.5} className="fill-night stroke-mist" />
                <text x={end.x} y={end.y + 3.8} textAnchor="middle" className="fill-mist font-semibold text-[11px]">
                  {a.name}
                </text>
              </g>
            )
          })}
          <circle data-handle className="pointer-events-auto cursor-move fill-mist stroke-night" cx={middle.x} cy={middle.y} r={5.5} onPointerDown={down(null)} onPointerMove={move} onPointerUp={up} onPointerCancel={up} />
          {drag.current && (
            <text x={middle.x + 14} y={middle.y - 14} className="fill-mist text-[12px]" stroke="black" strokeWidth={3} paintOrder="stroke">
              {origin.map((v) => show(v)).join(', ')} m
            </text>
          )}
        </g>
      )}
      <g transform={`translate(${width - 44},${height - 40})`} aria-hidden="true">
        {AXES.map((a) => {
          const x = dot(a.dir, right) * 22
          const y = -dot(a.dir, upAxis) * 22
          return (
            <g key={a.name}>
              <line x2={x} y2={y} className="stroke-mist" strokeOpacity={0.8} />
              <text x={x * 1.38} y={y * 1.38 + 4} textAnchor="middle" className="fill-mist font-semibold text-[11px]">
                {a.name}
              </text>
            </g>
          )
        })}
      </g>
    </svg>
  )
}
