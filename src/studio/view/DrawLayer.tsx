'use client'
import { type PointerEvent, useRef, useState } from 'react'
import { worldMatrix } from '../../acts'
import { apply } from '../../engine'
import { MOST_POINTS, timeOf, type Vec3 } from '../../shot'
import { project } from '../../stage/camera'
import { setStudio, shotNow, studio, useShot, useStudio } from '../store'
import { toast } from '../toast'
import { aspectNow, poseNow } from './frame'
import { pointsOf, setPoints } from './PathHandles'
import { intoOwn, onPlane } from './plane'

/** While the pointer is held down, points lie this many pixels apart. */
const APART = 28

/**
 * Over the picture while a path is drawn: clicks and strokes become its points, on the plane that faces the camera through the last one.
 */
export function DrawLayer({ left, top, width, height }: { left: number; top: number; width: number; height: number }) {
  const drawing = useStudio((s) => s.drawing)
  const object = useShot((s) => s.objects.find((o) => o.id === drawing?.object))
  /** The first of two points of a path that begins again; the pointer. */
  const first = useRef<Vec3 | null>(null)
  const stroke = useRef<{ x: number; y: number; gesture: string } | null>(null)
  const [at, setAt] = useState<{ x: number; y: number } | null>(null)
  if (!drawing || object?.shape.kind !== 'path') return null
  const t = timeOf(shotNow(), studio().playhead)
  const matrix = worldMatrix(object, t)
  const last = drawing.restart ? first.current : (pointsOf(object).at(-1) ?? null)
  const inPicture = (e: PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect()
    return { x: e.clientX - r.left, y: e.clientY - r.top }
  }
  const put = (p: { x: number; y: number }, gesture: string) => {
    const through = apply(matrix, ...(last ?? ([0, 0, 0] as Vec3))) as Vec3
    const own = intoOwn(matrix, onPlane(poseNow(), aspectNow(), p.x / width, p.y / height, through))
    if (!own) {
      toast(`${object.name} is scaled to nothing here: there is no place for points. Give it a scale first.`, true)
      return
    }
    if (drawing.restart && !first.current) {
      first.current = own
      return
    }
    if (drawing.restart) {
      const from = first.current as Vec3
      setPoints(object.id, `points of ${object.name}`, () => [from, own], gesture)
      first.current = null
      setStudio({ drawing: { object: object.id, restart: false } })
      return
    }
    if (pointsOf(object).length >= MOST_POINTS) {
      toast(`${object.name} has its ${MOST_POINTS} points; go on with another path.`, true)
      setStudio({ drawing: null })
      return
    }
    setPoints(object.id, `a point of ${object.name}`, (list) => [...list, own], gesture)
  }
  const seen = last && project(poseNow(), aspectNow(), apply(matrix, ...last) as Vec3)
  const from = seen && { x: ((seen.x + 1) / 2) * width, y: ((1 - seen.y) / 2) * height }
  return (
    <svg
      data-handle="draw"
      role="application"
      aria-label={`Draw ${object.name}`}
      className="absolute cursor-crosshair touch-none"
      style={{ left, top, width, height }}
      width={width}
      height={height}
      onPointerDown={(e) => {
        if (e.button !== 0) return
        e.stopPropagation()
        e.currentTarget.setPointerCapture(e.pointerId)
        const p = inPicture(e)
        stroke.current = { ...p, gesture: `draw-${performance.now()}` }
        put(p, stroke.current.gesture)
        setAt(p)
      }}
      onPointerMove={(e) => {
        const p = inPicture(e)
        setAt(p)
        const s = stroke.current
        if (!s || Math.hypot(p.x - s.x, p.y - s.y) < APART) return
        s.x = p.x
        s.y = p.y
        put(p, s.gesture)
      }}
      onPointerUp={() => void (stroke.current = null)}
      onPointerCancel={() => void (stroke.current = null)}
      onPointerLeave={() => setAt(null)}
    >
      {at && from && <line x1={from.x} y1={from.y} x2={at.x} y2={at.y} className="stroke-mist" strokeDasharray="4 3" />}
      {from && <circle cx={from.x} cy={from.y} r={4.5} className="fill-night stroke-mist" />}
      {at && <circle cx={at.x} cy={at.y} r={3} className="fill-mist" />}
    </svg>
  )
}
