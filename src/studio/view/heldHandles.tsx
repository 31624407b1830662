'use client'
import { type PointerEvent, useRef } from 'react'
import { apply, invert, type Matrix } from '../../engine'
import type { Vec3 } from '../../shot'
import { axesOf, cross, dot, unit } from '../../stage/camera'
import { show } from '../units'
import { along, MoveHandle, metresFor, onScreen, type Screen } from './MoveHandle'
import { pathOf, ring } from './outlines'
import { onPlane } from './plane'

const ARROW_PX = 84
const grid = (v: number) => Math.round(v * 1000) / 1000
const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
const directed = (m: Matrix, v: Vec3): Vec3 =>
  unit([m[0] * v[0] + m[1] * v[1] + m[2] * v[2], m[4] * v[0] + m[5] * v[1] + m[6] * v[2], m[8] * v[0] + m[9] * v[1] + m[10] * v[2]])

/** The act that handles change: its values at the playhead, and how a new one is written. */
export interface Held {
  name: string
  /** seconds */
  t: number
  screen: Screen
  /** From the space of its object to the shot. */
  matrix: Matrix
  label(param: string): string
  vector(param: string): Vec3
  /** Without what modulators add. */
  keyed(param: string): Vec3
  /** Null where the parameter is empty. */
  length(param: string): number | null
  set(param: string, next: Vec3 | number, gesture: string): void
}

/** A point moved in the shot, in the space of the act's object. */
function movedIn(matrix: Matrix, base: Vec3, moved: Vec3): Vec3 {
  const inverse = invert(matrix)
  if (!inverse) return [base[0] + moved[0], base[1] + moved[1], base[2] + moved[2]]
  const far = minus(apply(inverse, ...moved), apply(inverse, 0, 0, 0))
  return [base[0] + far[0], base[1] + far[1], base[2] + far[2]]
}
export function PlaceHandle({ param, held }: { param: string; held: Held }) {
  const base = useRef<Vec3>([0, 0, 0])
  return (
    <g data-place={param}>
      <MoveHandle
        screen={held.screen}
        origin={apply(held.matrix, ...held.vector(param))}
        onStart={() => void (base.current = held.keyed(param))}
        onMove={(moved, gesture) => held.set(param, movedIn(held.matrix, base.current, moved).map(grid) as Vec3, gesture)}
      />
    </g>
  )
}
/** Taken hold of, it follows the pointer on the plane of the picture through `through`. */
function Knob({
  x,
  y,
  what,
  through,
  screen,
  onMove,
}: {
  x: number
  y: number
  what: string
  through: Vec3
  screen: Screen
  onMove: (at: Vec3, gesture: string) => void
}) {
  const gesture = useRef<string | null>(null)
  const at = (e: PointerEvent<SVGCircleElement>): Vec3 => {
    const r = (e.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect()
    return onPlane(screen.pose, screen.aspect, (e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height, through)
  }
  return (
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
        gesture.current = `${what}-${performance.now()}`
      }}
      onPointerMove={(e) => gesture.current && onMove(at(e), gesture.current)}
      onPointerUp={() => void (gesture.current = null)}
      onPointerCancel={() => void (gesture.current = null)}
    />
  )
}
function Caption({ x, y, children }: { x: number; y: number; children: string }) {
  return (
    <text
      x={x}
      y={y}
      className="fill-mist font-medium text-label"
      stroke="black"
      strokeOpacity={0.75}
      strokeWidth={3.5}
      paintOrder="stroke"
    >
      {children}
    </text>
  )
}
/** An arrow from its place; from where the camera looks without one. */
export function DirectionHandle({ param, at, held, named }: { param: string; at: string | null; held: Held; named: boolean }) {
  const { screen, matrix } = held
  const place: Vec3 = at ? apply(matrix, ...held.vector(at)) : screen.pose.aim
  const direction = directed(matrix, held.vector(param))
  const foot = onScreen(screen, place)
  if (!foot) return null
  const length = metresFor(screen, foot.depth, ARROW_PX)
  const tip = onScreen(screen, along(place, direction, length))
  if (!tip) return null
  const turn = (q: Vec3, gesture: string) => {
    // In the picture's plane it follows the pointer; how far it points towards the camera or away stays.
    const { forward } = axesOf(screen.pose)
    const world = along(minus(q, place), forward, dot(direction, forward) * length)
    const inverse = invert(matrix)
    held.set(param, (inverse ? directed(inverse, world) : unit(world)).map(grid) as Vec3, gesture)
  }
  return (
    <>
      <line x1={foot.x} y1={foot.y} x2={tip.x} y2={tip.y} stroke="black" strokeOpacity={0.55} strokeWidth={4} />
      <line x1={foot.x} y1={foot.y} x2={tip.x} y2={tip.y} className="stroke-mist" strokeWidth={1.5} />
      <ArrowHead from={foot} to={tip} />
      <Knob x={tip.x} y={tip.y} what={param} through={place} screen={screen} onMove={turn} />
      {named && (
        <Caption x={tip.x + 12} y={tip.y + 4}>
          {held.name}
        </Caption>
      )}
    </>
  )
}
/** A ring at a distance from a place, or from an axis through it; nothing while the distance is empty. */
export function ReachHandle({ param, at, axis, held }: { param: string; at: string; axis?: string; held: Held }) {
  const { screen, matrix } = held
  const reach = held.length(param)
  const place = apply(matrix, ...held.vector(at))
  if (reach === null || !onScreen(screen, place)) return null
  const { forward, right } = axesOf(screen.pose)
  const around = axis ? directed(matrix, held.vector(axis)) : null
  // It is taken hold of to the right of the place, as the picture has it.
  const across = around ? unit(cross(around, Math.abs(dot(around, forward)) > 0.98 ? right : forward)) : right
  const sideways: Vec3 = dot(across, right) < 0 ? [-across[0], -across[1], -across[2]] : across
  const rim = onScreen(screen, along(place, sideways, reach))
  const d = pathOf(screen, ring(place, around ?? forward, reach))
  const stretch = (q: Vec3, gesture: string) => {
    const v = minus(q, place)
    held.set(param, Math.max(0.001, grid(around ? Math.abs(dot(v, sideways)) : Math.sqrt(dot(v, v)))), gesture)
  }
  return (
    <>
      <path d={d} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={3} />
      <path d={d} fill="none" className="stroke-mist" strokeOpacity={0.9} />
      {rim && (
        <>
          <Knob x={rim.x} y={rim.y} what="reach" through={place} screen={screen} onMove={stretch} />
          <Caption x={rim.x + 12} y={rim.y + 4}>{`${held.label(param)} ${show(reach)} m`}</Caption>
        </>
      )}
    </>
  )
}
function ArrowHead({ from, to }: { from: { x: number; y: number }; to: { x: number; y: number } }) {
  const l = Math.hypot(to.x - from.x, to.y - from.y)
  if (l < 12) return null
  const [x, y] = [(to.x - from.x) / l, (to.y - from.y) / l]
  const at = (back: number, side: number) => `${(to.x - x * back - y * side).toFixed(1)},${(to.y - y * back + x * side).toFixed(1)}`
  return <path d={`M${at(18, 5)}L${at(8, 0)}L${at(18, -5)}`} fill="none" className="stroke-mist" strokeWidth={1.5} />
}
