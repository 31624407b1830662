'use client'
import { type PointerEvent, useEffect, useRef, useState } from 'react'
import {
  type Animated,
  atEveryKey,
  type MaskDoc,
  MOST_CORNERS,
  type Outline,
  type OutlinePoint,
  sampleOutline,
  timeOf,
  withValue,
} from '../../shot'
import { goesAlong, lineOf } from '../../stage/outline'
import { add } from '../adding'
import { newMask } from '../create'
import { edit, setStudio, shotNow, studio, useShot, useStudio } from '../store'

interface Box {
  left: number
  top: number
  width: number
  height: number
}
const grid = (v: number) => Math.round(v * 1e4) / 1e4
/** A click this near to the first corner closes the line; a drag this far makes a corner round. Pixels. */
const NEAR = 9

function writeOutline(id: string, label: string, change: (a: Animated<Outline>) => Animated<Outline>, gesture: string | null): void {
  const mask = shotNow().masks.find((x) => x.id === id)
  if (!mask) return
  const next = change(mask.outline)
  edit(
    label,
    (s) => {
      const m = s.masks.find((x) => x.id === id)
      if (m) m.outline = next
    },
    gesture,
  )
}
/** The outline at the playhead becomes this: a key where it has keys. */
export const setOutline = (id: string, label: string, change: (o: Outline) => Outline, gesture: string | null): void => {
  const s = shotNow()
  const t = timeOf(s, studio().playhead)
  writeOutline(id, label, (a) => withValue<Outline>(a, t, change(sampleOutline(a, t)), 'smooth', 0.25 / (s.rate.num / s.rate.den)), gesture)
}
/** One corner more, or one less, at all times. */
export const putCorner = (id: string, after: number, gesture: string | null): void =>
  writeOutline(
    id,
    'a new corner',
    (a) =>
      atEveryKey(a, (o) => {
        const [p, q] = [o[after], o[(after + 1) % o.length]]
        return [...o.slice(0, after + 1), p.map((v, k) => grid((v + q[k]) / 2)) as OutlinePoint, ...o.slice(after + 1)]
      }),
    gesture,
  )
export const dropCorner = (id: string, at: number): void =>
  writeOutline(id, 'a corner less', (a) => atEveryKey(a, (o) => o.filter((_, k) => k !== at)), null)

/** The outline of the selected mask over the picture, to draw and to drag. */
export function MaskLayer({ aspect, ...box }: Box & { aspect: number }) {
  const outlining = useStudio((s) => s.outlining)
  const selected = useStudio((s) => s.selected)
  const mask = useShot((s) => s.masks.find((m) => m.id === (outlining ? outlining.mask : selected)) ?? null)
  const free = useStudio((s) => s.pose !== null)
  const shown = useStudio((s) => s.overlays)
  if (free) return null
  if (outlining) return <Drawing mask={mask} corners={outlining.corners} box={box} aspect={aspect} />
  return shown && mask ? <Editing mask={mask} box={box} aspect={aspect} /> : null
}
const STANDS = { to: (x: number, y: number): [number, number] => [x, y], from: (x: number, y: number): [number, number] => [x, y] }
/** Between pixels of the panel and what the outline stores. */
function useSpace(mask: MaskDoc | null, { width, height }: Box, aspect: number) {
  const shot = useShot((s) => s)
  const t = timeOf(
    shot,
    useStudio((s) => s.playhead),
  )
  const along = mask ? goesAlong(shot, mask, t, aspect) : STANDS
  return {
    t,
    toScreen: (x: number, y: number): [number, number] => {
      const [a, b] = along.to(x, y)
      return [((a + 1) / 2) * width, ((1 - b) / 2) * height]
    },
    toStored: (px: number, py: number): [number, number] => {
      const [a, b] = along.from((px / width) * 2 - 1, 1 - (py / height) * 2)
      return [grid(a), grid(b)]
    },
  }
}
const pathOf = (line: readonly (readonly [number, number])[], to: (x: number, y: number) => [number, number]) =>
  line.map(([x, y], i) => `${i ? 'L' : 'M'}${to(x, y).join(',')}`).join('')

function Drawing({ mask, corners, box, aspect }: { mask: MaskDoc | null; corners: Outline; box: Box; aspect: number }) {
  const { toScreen, toStored } = useSpace(mask, box, aspect)
  const from = useRef<{ x: number; y: number } | null>(null)
  const [at, setAt] = useState<[number, number] | null>(null)
  const set = (next: Outline) => setStudio({ outlining: { mask: mask?.id ?? null, corners: next } })
  const close = () => {
    setStudio({ outlining: null })
    if (corners.length < 3) return
    if (mask) setOutline(mask.id, `outline of ${mask.name}`, () => corners, null)
    else add('masks', { ...newMask(shotNow()), outline: corners })
  }
  const keys = useRef({ close, set, corners })
  keys.current = { close, set, corners }
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === 'Enter') keys.current.close()
      else if (e.key === 'Backspace') keys.current.set(keys.current.corners.slice(0, -1))
      else return
      e.preventDefault()
      e.stopPropagation()
    }
    window.addEventListener('keydown', onKey, true)
    return () => window.removeEventListener('keydown', onKey, true)
  }, [])
  const inPicture = (e: PointerEvent): [number, number] => {
    const r = e.currentTarget.getBoundingClientRect()
    return [e.clientX - r.left, e.clientY - r.top]
  }
  const first = corners[0] && toScreen(corners[0][0], corners[0][1])
  const last = corners.at(-1)
  const end = last && toScreen(last[0], last[1])
  const closing = !!at && corners.length > 2 && Math.hypot(at[0] - first[0], at[1] - first[1]) < NEAR
  return (
    <>
      <svg
        data-handle="outline"
        role="application"
        aria-label={mask ? `Draw ${mask.name}` : 'Draw a mask'}
        className="absolute cursor-crosshair touch-none overflow-visible"
        style={box}
        onPointerDown={(e) => {
          if (e.button !== 0) return
          e.stopPropagation()
          e.currentTarget.setPointerCapture(e.pointerId)
          const [x, y] = inPicture(e)
          if (corners.length > 2 && Math.hypot(x - first[0], y - first[1]) < NEAR) {
            close()
            return
          }
          if (corners.length >= MOST_CORNERS) return
          from.current = { x, y }
          set([...corners, [...toStored(x, y), 0]])
        }}
        onPointerMove={(e) => {
          const [x, y] = inPicture(e)
          setAt([x, y])
          const d = from.current
          const last = corners.at(-1)
          if (d && last && last[2] === 0 && Math.hypot(x - d.x, y - d.y) > NEAR) set([...corners.slice(0, -1), [last[0], last[1], 1]])
        }}
        onPointerUp={() => void (from.current = null)}
        onPointerCancel={() => void (from.current = null)}
        onPointerLeave={() => setAt(null)}
      >
        {corners.length > 1 && (
          <path
            d={
              corners.length > 2
                ? `${pathOf(lineOf(corners), toScreen)}Z`
                : pathOf(
                    corners.map(([x, y]) => [x, y]),
                    toScreen,
                  )
            }
            className="fill-mist/10 stroke-mist"
            strokeWidth={1.5}
          />
        )}
        {at && end && (
          <line
            x1={end[0]}
            y1={end[1]}
            x2={closing ? first[0] : at[0]}
            y2={closing ? first[1] : at[1]}
            className="stroke-mist"
            strokeDasharray="4 3"
          />
        )}
        {corners.map(([x, y, round], i) => {
          const [cx, cy] = toScreen(x, y)
          return <Corner key={i} x={cx} y={cy} round={round > 0} large={i === 0 && closing} />
        })}
      </svg>
      <div
        data-handle="outlining"
        className="absolute inset-x-0 top-2 mx-auto flex w-fit items-center gap-3 rounded-md border border-mist bg-night px-3 py-1"
      >
        {corners.length < 3 ? 'Click the corners; drag for a round one' : 'Click the first corner, or press Enter, to close it'}
        <button type="button" className="text-moss hover:text-mist" onClick={() => setStudio({ outlining: null })}>
          Leave it
        </button>
      </div>
    </>
  )
}
function Corner({ x, y, round, large, picked }: { x: number; y: number; round: boolean; large?: boolean; picked?: boolean }) {
  const r = large || picked ? 6 : 4.5
  const look = `${picked ? 'fill-mist' : 'fill-night'} stroke-mist`
  return round ? (
    <circle cx={x} cy={y} r={r} className={look} strokeWidth={1.5} />
  ) : (
    <rect x={x - r + 0.5} y={y - r + 0.5} width={r * 2 - 1} height={r * 2 - 1} className={look} strokeWidth={1.5} />
  )
}

function Editing({ mask, box, aspect }: { mask: MaskDoc; box: Box; aspect: number }) {
  const { t, toScreen, toStored } = useSpace(mask, box, aspect)
  const picked = useStudio((s) => s.point)
  const group = useRef<SVGGElement>(null)
  const drag = useRef<{ at: number | null; gesture: string; last: [number, number] } | null>(null)
  const corners = sampleOutline(mask.outline, t)
  const shown = corners.map(([x, y]) => toScreen(x, y))
  const middle = [0, 1].map((k) => shown.reduce((a, p) => a + p[k], 0) / shown.length) as [number, number]
  const here = (e: PointerEvent): [number, number] => {
    const r = group.current?.ownerSVGElement?.getBoundingClientRect()
    return r ? toStored(e.clientX - r.left, e.clientY - r.top) : [0, 0]
  }
  const down = (at: number | null, after?: number) => (e: PointerEvent) => {
    if (e.button !== 0) return
    e.stopPropagation()
    group.current?.setPointerCapture(e.pointerId)
    const gesture = `corner-${performance.now()}`
    if (after !== undefined) putCorner(mask.id, after, gesture)
    drag.current = { at: after === undefined ? at : after + 1, gesture, last: here(e) }
    setStudio({ point: drag.current.at })
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const p = here(e)
    const [dx, dy] = [p[0] - d.last[0], p[1] - d.last[1]]
    d.last = p
    setOutline(
      mask.id,
      d.at === null ? `${mask.name}, moved` : `corner ${d.at + 1} of ${mask.name}`,
      (o) => o.map((q, i) => (d.at === null || i === d.at ? [grid(q[0] + dx), grid(q[1] + dy), q[2]] : q)),
      d.gesture,
    )
  }
  const turn = (at: number) =>
    setOutline(mask.id, `corner ${at + 1} of ${mask.name}`, (o) => o.map((q, i) => (i === at ? [q[0], q[1], q[2] > 0 ? 0 : 1] : q)), null)
  return (
    <svg className="pointer-events-none absolute overflow-visible" style={box} role="group" aria-label={`Outline of ${mask.name}`}>
      <path d={`${pathOf(lineOf(corners), toScreen)}Z`} className="fill-none stroke-black" strokeOpacity={0.55} strokeWidth={3.5} />
      <path d={`${pathOf(lineOf(corners), toScreen)}Z`} className="fill-none stroke-mist" strokeWidth={1.5} />
      <g ref={group} onPointerMove={move} onPointerUp={() => void (drag.current = null)} onPointerCancel={() => void (drag.current = null)}>
        <circle
          data-handle="whole"
          className="pointer-events-auto cursor-move fill-night/60 stroke-mist"
          cx={middle[0]}
          cy={middle[1]}
          r={7}
          onPointerDown={down(null)}
        >
          <title>Move it whole</title>
        </circle>
        {corners.length < MOST_CORNERS &&
          shown.map((p, i) => {
            const q = shown[(i + 1) % shown.length]
            return (
              <circle
                key={`between ${i}`}
                data-handle="between"
                className="pointer-events-auto cursor-copy fill-night stroke-mist"
                strokeOpacity={0.7}
                cx={(p[0] + q[0]) / 2}
                cy={(p[1] + q[1]) / 2}
                r={3}
                onPointerDown={down(null, i)}
              />
            )
          })}
        {shown.map((p, i) => (
          <g
            key={`corner ${i}`}
            data-handle="corner"
            className="pointer-events-auto cursor-move"
            onPointerDown={down(i)}
            onDoubleClick={() => turn(i)}
          >
            <Corner x={p[0]} y={p[1]} round={corners[i][2] > 0} picked={i === picked} />
            <title>{`Corner ${i + 1}; a double click makes it ${corners[i][2] > 0 ? 'sharp' : 'round'}`}</title>
          </g>
        ))}
      </g>
    </svg>
  )
}
