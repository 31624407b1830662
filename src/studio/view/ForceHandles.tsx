'use client'
import { type PointerEvent, useRef } from 'react'
import { actOf, actOfSort, readerOf, worldMatrix } from '../../acts'
import { apply, identity, invert, type Matrix } from '../../engine'
import { type ActDoc, type Animated, type AnimatedVec3, keyedNumber, type Shot, type Vec3, withValue } from '../../shot'
import { axesOf, cross, dot, unit } from '../../stage/camera'
import { meshFacts } from '../facts'
import { edit, useShot } from '../store'
import { show } from '../units'
import { along, MoveHandle, metresFor, onScreen, type Screen } from './MoveHandle'
import { onPlane } from './plane'

const ARROW_PX = 84
const STEPS = 48
const grid = (v: number) => Math.round(v * 1000) / 1000
const directed = (m: Matrix, v: Vec3): Vec3 =>
  unit([m[0] * v[0] + m[1] * v[1] + m[2] * v[2], m[4] * v[0] + m[5] * v[1] + m[6] * v[2], m[8] * v[0] + m[9] * v[1] + m[10] * v[2]])
const line = (points: ({ x: number; y: number } | null)[]): string => {
  let d = ''
  let pen = false
  for (const p of points) {
    d += p ? `${pen ? 'L' : 'M'}${p.x.toFixed(1)},${p.y.toFixed(1)}` : ''
    pen = !!p
  }
  return d
}
/** A circle around a place, across an axis. */
const circle = (s: Screen, place: Vec3, axis: Vec3, radius: number) => {
  const flat = cross(axis, Math.abs(axis[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0])
  const a = unit(flat)
  const b = cross(axis, a)
  return line(
    Array.from({ length: STEPS + 1 }, (_, i) =>
      onScreen(s, along(along(place, a, radius * Math.cos((i / STEPS) * 2 * Math.PI)), b, radius * Math.sin((i / STEPS) * 2 * Math.PI))),
    ),
  )
}

/**
 * Of a force: its place, its direction, its reach, to take hold of; and the places that it is limited to. `find` fetches its act from a
 * draft.
 */
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
  const base = useRef<Vec3>([0, 0, 0])
  const drag = useRef<string | null>(null)
  const group = useRef<SVGGElement>(null)
  const handles = actOfSort(act.kind, 'force').handles ?? {}
  const p = readerOf(act)
  const { forward, right } = axesOf(screen.pose)
  const carrier = objects.find((o) => o.id === act.object)
  const matrix = carrier ? worldMatrix(carrier, t) : identity()
  // One without a place is drawn where the camera looks.
  const place: Vec3 = handles.place ? (apply(matrix, ...p.vector(handles.place, t)) as Vec3) : screen.pose.aim
  const middle = onScreen(screen, place)
  const change = (label: string, recipe: (a: ActDoc) => void, gesture: string) =>
    edit(
      `${label} of ${name}`,
      (s) => {
        const a = find(s)
        if (a) recipe(a)
      },
      gesture,
    )
  const setVector = (param: string, v: Vec3, label: string, gesture: string) =>
    change(
      label,
      (a) => {
        a[param] = (a[param] as AnimatedVec3).map((c, i) => (v[i] === keyedNumber(c, t) ? c : withValue(c, t, v[i], 'smooth', tolerance)))
      },
      gesture,
    )
  const at = (e: PointerEvent, through: Vec3): Vec3 => {
    const r = ((group.current as SVGGElement).ownerSVGElement as SVGSVGElement).getBoundingClientRect()
    return onPlane(screen.pose, screen.aspect, (e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height, through)
  }
  const knob = (x: number, y: number, what: string, move: (e: PointerEvent, gesture: string) => void) => (
    <circle
      data-handle
      data-knob={what}
      className="pointer-events-auto cursor-move fill-mist stroke-night"
      cx={x}
      cy={y}
      r={6}
      onPointerDown={(e) => {
        if (e.button !== 0) return
        e.stopPropagation()
        e.currentTarget.setPointerCapture(e.pointerId)
        drag.current = `${what}-${performance.now()}`
      }}
      onPointerMove={(e) => drag.current && move(e, drag.current)}
      onPointerUp={() => void (drag.current = null)}
      onPointerCancel={() => void (drag.current = null)}
    />
  )
  const text = (x: number, y: number, words: string) => (
    <text
      x={x}
      y={y}
      className="fill-mist font-medium text-[11.5px]"
      stroke="black"
      strokeOpacity={0.75}
      strokeWidth={3.5}
      paintOrder="stroke"
    >
      {words}
    </text>
  )
  const stroke = (d: string, key: string, dashed?: boolean) => (
    <g key={key}>
      <path d={d} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={3} />
      <path d={d} fill="none" className="stroke-mist" strokeOpacity={dashed ? 0.7 : 0.9} strokeDasharray={dashed ? '4 4' : undefined} />
    </g>
  )
  if (!middle) return null

  const direction = handles.arrow ? directed(matrix, p.vector(handles.arrow, t)) : null
  const length = metresFor(screen, middle.depth, ARROW_PX)
  const tip = direction && onScreen(screen, along(place, direction, length))
  const turn = (e: PointerEvent, gesture: string) => {
    if (!direction || !handles.arrow) return
    // In the picture's plane it follows the pointer; how far it points towards the camera or away stays.
    const q = at(e, place)
    const flat: Vec3 = [q[0] - place[0], q[1] - place[1], q[2] - place[2]]
    const world = along(flat, forward, dot(direction, forward) * length)
    const inverse = invert(matrix)
    const own = inverse ? directed(inverse, world) : unit(world)
    setVector(handles.arrow, own.map(grid) as Vec3, 'direction', gesture)
  }
  const reach = handles.reach ? p.optional(handles.reach, t) : null
  const around = handles.around && direction ? direction : null
  // The rim is taken hold of to the right of the place, as the picture has it.
  const sideways = around ? unit(cross(around, Math.abs(dot(around, forward)) > 0.98 ? right : forward)) : right
  const rimAt =
    reach === null ? null : onScreen(screen, along(place, dot(sideways, right) < 0 ? (sideways.map((v) => -v) as Vec3) : sideways, reach))
  const stretch = (e: PointerEvent, gesture: string) => {
    if (!handles.reach) return
    const q = at(e, place)
    const d: Vec3 = [q[0] - place[0], q[1] - place[1], q[2] - place[2]]
    const next = Math.max(0.001, grid(around ? Math.abs(dot(d, sideways)) : Math.sqrt(dot(d, d))))
    const param = handles.reach
    change(
      param,
      (a) => {
        a[param] = withValue(a[param] as Animated<number>, t, next, 'smooth', tolerance)
      },
      gesture,
    )
  }
  return (
    <g ref={group} aria-label={`Handles of ${name}`}>
      {(act.limits ?? [])
        .filter((l) => !l.muted)
        .map((l) => {
          const shape = limitShape(l, t, objects)
          return shape ? shape.map((points, i) => stroke(line(points.map((w) => onScreen(screen, w))), `${l.id} ${i}`, true)) : null
        })}
      {handles.box &&
        stroke(
          boxLines(matrix, handles.place ? p.vector(handles.place, t) : [0, 0, 0], p.vector(handles.box, t).map((v) => v / 2) as Vec3)
            .map((points) => line(points.map((w) => onScreen(screen, w))))
            .join(''),
          'box',
          true,
        )}
      {reach !== null && stroke(circle(screen, place, around ?? forward, reach), 'reach')}
      {direction && tip && (
        <>
          <line x1={middle.x} y1={middle.y} x2={tip.x} y2={tip.y} stroke="black" strokeOpacity={0.55} strokeWidth={4} />
          <line x1={middle.x} y1={middle.y} x2={tip.x} y2={tip.y} className="stroke-mist" strokeWidth={1.5} />
          <ArrowHead from={middle} to={tip} />
        </>
      )}
      {handles.place && (
        <MoveHandle
          screen={screen}
          origin={place}
          onStart={() => void (base.current = (act[handles.place as string] as AnimatedVec3).map((c) => keyedNumber(c, t)) as Vec3)}
          onMove={(moved, gesture) => {
            const inverse = invert(matrix)
            const far = (v: Vec3): Vec3 => (inverse ? (apply(inverse, ...v) as Vec3) : v)
            const [a, b] = [far([0, 0, 0]), far(moved)]
            setVector(handles.place as string, base.current.map((v, i) => grid(v + b[i] - a[i])) as Vec3, 'place', gesture)
          }}
        />
      )}
      {tip && knob(tip.x, tip.y, 'direction', turn)}
      {rimAt && reach !== null && knob(rimAt.x, rimAt.y, 'reach', stretch)}
      {rimAt &&
        reach !== null &&
        text(rimAt.x + 12, rimAt.y + 4, `${actOf(act.kind).params[handles.reach as string].label} ${show(reach)} m`)}
      {!handles.place && tip && text(tip.x + 12, tip.y + 4, name)}
    </g>
  )
}
function ArrowHead({ from, to }: { from: { x: number; y: number }; to: { x: number; y: number } }) {
  const l = Math.hypot(to.x - from.x, to.y - from.y)
  if (l < 12) return null
  const [x, y] = [(to.x - from.x) / l, (to.y - from.y) / l]
  const at = (back: number, side: number) => `${(to.x - x * back - y * side).toFixed(1)},${(to.y - y * back + x * side).toFixed(1)}`
  return <path d={`M${at(18, 5)}L${at(8, 0)}L${at(18, -5)}`} fill="none" className="stroke-mist" strokeWidth={1.5} />
}
/** The lines of a limit's place in the shot. */
function limitShape(l: ActDoc, t: number, objects: Shot['objects']): Vec3[][] | null {
  if (l.kind !== 'limitPlace' && l.kind !== 'limitObject') return null
  const p = readerOf(l)
  const o = objects.find((x) => x.id === l.object)
  const m = o ? worldMatrix(o, t) : identity()
  let mid: Vec3 = [0, 0, 0]
  let half: Vec3
  let shape: string = p.choice('shape', t)
  // Its own shape is seen anyway; its box says where to look.
  if (shape === 'shape') shape = 'box'
  if (l.kind === 'limitPlace') {
    mid = p.vector('place', t)
    half = p.vector('size', t).map((v) => v / 2) as Vec3
  } else {
    const b = o && meshFacts(o)?.bounds
    if (!o) return null
    const beyond = p.number('beyond', t)
    mid = b ? (b.min.map((v, i) => (v + b.max[i]) / 2) as Vec3) : mid
    half = (b ? b.min.map((v, i) => (b.max[i] - v) / 2) : [0, 0, 0]).map((v) => Math.max(0, v + beyond)) as Vec3
    if (shape === 'ball') half = [Math.max(...half), 0, 0]
  }
  const at = (x: number, y: number, z: number): Vec3 => apply(m, mid[0] + x, mid[1] + y, mid[2] + z) as Vec3
  if (shape === 'above') {
    half = [half[0], 0, half[2]]
    shape = 'box'
  }
  if (shape === 'ball') {
    const round = (f: (c: number, s: number) => Vec3) =>
      Array.from({ length: STEPS + 1 }, (_, i) =>
        f(half[0] * Math.cos((i / STEPS) * 2 * Math.PI), half[0] * Math.sin((i / STEPS) * 2 * Math.PI)),
      )
    return [round((c, s) => at(c, 0, s)), round((c, s) => at(c, s, 0)), round((c, s) => at(0, c, s))]
  }
  return boxLines(m, mid, half)
}
/** The edges of a box of half sizes about a place, flat when it has no height. */
function boxLines(m: Matrix, mid: Vec3, half: Vec3): Vec3[][] {
  const at = (x: number, y: number, z: number): Vec3 => apply(m, mid[0] + x * half[0], mid[1] + y * half[1], mid[2] + z * half[2]) as Vec3
  const face = (y: number) =>
    [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
      [-1, -1],
    ].map(([x, z]) => at(x, y, z))
  return [
    face(-1),
    ...(half[1] > 0
      ? [
          face(1),
          ...[
            [-1, -1],
            [1, -1],
            [1, 1],
            [-1, 1],
          ].map(([x, z]) => [at(x, -1, z), at(x, 1, z)]),
        ]
      : []),
  ]
}
