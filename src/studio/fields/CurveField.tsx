import { type PointerEvent, useRef, useState } from 'react'
import { type Curve, type CurveParam, MOST_CURVE_POINTS, sampleCurve } from '../../shot'
import { StopsMenu } from '../life/StopsMenu'
import { focusPicked, StripStop } from '../life/stripParts'
import { useSize } from '../useSize'
import type { Bind } from './bind'
import { useFps } from './fps'
import { NumberField } from './NumberField'

/** Pixels: where the curve stands at its highest, how far it goes down, and all of it. */
const TOP = 8
const TALL = 44
const HEIGHT = 60
const grid = (v: number): number => Math.round(v * 1000) / 1000
const clamp = (v: number): number => Math.min(1, Math.max(0, v))

/** A curve of the artist's own: a press on it adds a point, a drag moves one, Delete takes one away; the picked one stands below in numbers. */
export function CurveField({ bind: b, param: p }: { bind: Bind; param: CurveParam }) {
  const fps = useFps()
  const box = useRef<HTMLDivElement>(null)
  const drag = useRef<{ index: number; gesture: string } | null>(null)
  const [picked, setPicked] = useState(0)
  const { width } = useSize(box)
  const c = b.value as Curve
  const name = p.label.toLowerCase()
  const tall = Math.max(1, ...c.points.map((q) => q.v))
  const index = Math.min(picked, c.points.length - 1)
  const point = c.points[index]
  const yOf = (v: number) => TOP + TALL * (1 - Math.min(1, v / tall))
  const set = (points: Curve['points'], gesture: string | null) => b.write(name, { ...c, points }, gesture)
  const put = (i: number, at: number, v: number, gesture: string | null) =>
    set(
      c.points.map((q, k) => (k === i ? { at: grid(clamp(at)), v: grid(Math.min(p.max, Math.max(0, v))) } : q)),
      gesture,
    )
  const where = (e: PointerEvent) => {
    const r = (box.current as HTMLDivElement).getBoundingClientRect()
    return { at: grid(clamp((e.clientX - r.left) / r.width)), v: grid(tall * clamp(1 - (e.clientY - r.top - TOP) / TALL)) }
  }
  const add = (e: PointerEvent) => {
    if (e.button !== 0 || c.points.length >= MOST_CURVE_POINTS || (e.target as HTMLElement).closest('[data-stop]')) return
    set([...c.points, where(e)], null)
    setPicked(c.points.length)
    focusPicked(e.currentTarget)
  }
  const remove = (i: number) => {
    if (c.points.length < 2) return
    set(
      c.points.filter((_, k) => k !== i),
      null,
    )
    setPicked(Math.max(0, i - 1))
  }
  return (
    <div className="flex w-full min-w-0 flex-col gap-1">
      <div className="rounded-md border border-bark px-3">
        <div
          ref={box}
          className="relative select-none"
          style={{ height: HEIGHT }}
          onPointerDown={add}
          onPointerMove={(e) => {
            const d = drag.current
            if (!d) return
            const q = where(e)
            put(d.index, q.at, q.v, d.gesture)
          }}
          onPointerUp={() => void (drag.current = null)}
        >
          <svg className="pointer-events-none absolute inset-0 h-full w-full overflow-visible" role="img" aria-label={p.label}>
            <line x1={0} x2={width} y1={yOf(0)} y2={yOf(0)} className="stroke-bark" />
            <polyline
              fill="none"
              className="stroke-mist"
              points={Array.from({ length: 65 }, (_, i) => `${(i / 64) * width},${yOf(sampleCurve(c, i / 64))}`).join(' ')}
            />
          </svg>
          {c.points.map((q, i) => (
            <StripStop
              key={i}
              name={`${p.label}, point ${i + 1}: ${Math.round(q.v * 100)} % at ${Math.round(q.at * 100)} %`}
              x={q.at * width}
              y={yOf(q.v)}
              fill="var(--color-night)"
              picked={i === index}
              onTake={() => {
                setPicked(i)
                drag.current = { index: i, gesture: `curve-${performance.now()}` }
              }}
              onRemove={() => remove(i)}
            />
          ))}
        </div>
      </div>
      <div className="flex justify-between text-caption text-moss">
        <span>{p.from}</span>
        <span>{p.to}</span>
      </div>
      <div className="flex items-center gap-1">
        <NumberField
          className="flex-1"
          label={`${p.label}: where the point is`}
          value={point.at * 100}
          spec={{ unit: '%', min: 0, max: 100, soft: [0, 100] }}
          fps={fps}
          onChange={(v, g) => put(index, v / 100, point.v, g)}
        />
        <NumberField
          className="flex-1"
          label={`${p.label}: its value`}
          value={p.unit === '%' ? point.v * 100 : point.v}
          spec={{ unit: p.unit, min: 0, max: p.unit === '%' ? p.max * 100 : p.max, soft: p.unit === '%' ? [0, 100] : [0, 2] }}
          fps={fps}
          onChange={(v, g) => put(index, point.at, p.unit === '%' ? v / 100 : v, g)}
        />
        <StopsMenu
          name={name}
          value={c}
          onChange={(v) => b.write(name, { ...v, points: v.points.map((q) => ({ ...q, v: Math.min(p.max, q.v) })) }, null)}
        />
      </div>
    </div>
  )
}
