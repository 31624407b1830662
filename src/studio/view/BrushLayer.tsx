'use client'
import { type PointerEvent, useRef, useState } from 'react'
import type { Dab } from '../../acts'
import { type BrushHit, valueOr } from '../../protocol'
import { grouped, MOST_DABS } from '../../shot'
import { project } from '../../stage/camera'
import { edit, shotNow, studio, useStudio } from '../store'
import { toast } from '../toast'
import { poseNow } from './frame'

/** Touches of one stroke lie this share of the brush's radius apart. */
const APART = 0.25
interface Stroke {
  gesture: string
  last: readonly number[] | null
  takes: boolean
  waiting: { x: number; y: number } | null
  busy: boolean
}
let strokes = 0

/** Over the picture while a brush is taken up: its ring on the surface, and the strokes. */
export function BrushLayer({ left, top, width, height }: { left: number; top: number; width: number; height: number }) {
  const brush = useStudio((s) => s.brush)
  const region = useStudio((s) => s.region)
  const size = useStudio((s) => s.brushSize)
  const [at, setAt] = useState<{ x: number; y: number; r: number | null } | null>(null)
  const stroke = useRef<Stroke | null>(null)
  const hovering = useRef({ busy: false, next: null as { x: number; y: number } | null })
  if (!brush || !region) return null
  const inPicture = (e: PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect()
    return { x: e.clientX - r.left, y: e.clientY - r.top }
  }
  const ask = async (p: { x: number; y: number }): Promise<BrushHit | null> => {
    const settled = await studio().session?.ask({
      what: 'brush',
      element: region.object,
      x: (p.x / width) * 2 - 1,
      y: 1 - (p.y / height) * 2,
    })
    return settled ? valueOr(settled, null) : null
  }
  /** The ring follows the surface; one question at a time, the newest next. */
  const ring = async (p: { x: number; y: number }): Promise<void> => {
    const h = hovering.current
    setAt((old) => ({ ...p, r: old?.r ?? null }))
    if (h.busy) {
      h.next = p
      return
    }
    h.busy = true
    const hit = await ask(p)
    h.busy = false
    const seen = hit?.at && project(poseNow(), width / height, hit.at)
    setAt((old) => old && { ...old, r: seen ? ((size / 2) * hit.scale * (poseNow().lens / 18) * (width / 2)) / seen.depth : null })
    const next = h.next
    h.next = null
    if (next) void ring(next)
  }
  const touch = async (s: Stroke, p: { x: number; y: number }): Promise<void> => {
    if (s.busy) {
      s.waiting = p
      return
    }
    s.busy = true
    const hit = await ask(p)
    s.busy = false
    if (hit?.place) {
      const radius = size / 2
      const strength = studio().brushStrength * (s.takes ? -1 : 1)
      // Between two answers the pointer may have gone far: touches lie close all the way.
      const from = s.last
      const far = from ? Math.hypot(...hit.place.map((v, i) => v - from[i])) : 0
      const count = from ? Math.floor(far / (radius * APART)) : 1
      const dabs: Dab[] = []
      for (let k = 1; k <= Math.min(count, 200); k++) {
        const q = from ? hit.place.map((v, i) => from[i] + ((v - from[i]) * k) / count) : hit.place
        dabs.push([...q.map((v) => Math.round(v * 1e5) / 1e5), radius, strength] as unknown as Dab)
      }
      if (dabs.length) {
        s.last = hit.place
        let full = false
        edit(
          'a stroke of the brush',
          (shot) => {
            const act = shot.objects
              .find((o) => o.id === region.object)
              ?.regions.find((r) => r.id === region.id)
              ?.acts.find((a) => a.id === brush)
            if (!act) return
            const list = act.dabs as Dab[]
            full = list.length + dabs.length > MOST_DABS
            if (!full) act.dabs = [...list, ...dabs]
          },
          s.gesture,
        )
        if (full) toast(`This painting has its ${grouped(MOST_DABS)} touches; go on in another step, or wipe it away.`, true)
      }
    } else s.last = null
    const next = s.waiting
    s.waiting = null
    if (next) await touch(s, next)
  }
  const name =
    shotNow()
      .objects.find((o) => o.id === region.object)
      ?.regions.find((r) => r.id === region.id)?.name ?? ''
  return (
    <svg
      data-handle="brush"
      role="application"
      aria-label={`Paint ${name}`}
      className="absolute cursor-none touch-none"
      style={{ left, top, width, height }}
      width={width}
      height={height}
      onPointerDown={(e) => {
        if (e.button !== 0) return
        e.stopPropagation()
        e.currentTarget.setPointerCapture(e.pointerId)
        stroke.current = { gesture: `brush-${++strokes}`, last: null, takes: e.shiftKey, waiting: null, busy: false }
        studio().session?.moving(true)
        void touch(stroke.current, inPicture(e))
      }}
      onPointerMove={(e) => {
        const p = inPicture(e)
        void ring(p)
        if (stroke.current) void touch(stroke.current, p)
      }}
      onPointerUp={() => {
        stroke.current = null
        if (!studio().playing) studio().session?.moving(false)
      }}
      onPointerLeave={() => setAt(null)}
    >
      {at && (
        <>
          <circle cx={at.x} cy={at.y} r={2} className="fill-mist" />
          <circle cx={at.x} cy={at.y} r={Math.max(4, at.r ?? 10)} fill="none" stroke="black" strokeOpacity={0.6} strokeWidth={3} />
          <circle
            cx={at.x}
            cy={at.y}
            r={Math.max(4, at.r ?? 10)}
            fill="none"
            className="stroke-mist"
            strokeDasharray={at.r === null ? '3 4' : undefined}
          />
        </>
      )}
    </svg>
  )
}
