'use client'
import { type PointerEvent, useEffect, useRef, useState, type WheelEvent } from 'react'
import { type Animated, frameAt, isKeyed, type Key, keyedNumber, sampleNumber, timeOf } from '../../shot'
import { PLAIN_2D } from '../canvas'
import { inner } from '../fields/bind'
import { setPlayhead, shotNow, useShot, useStudio } from '../store'
import { RULER_RIGHT } from '../time/TimeBar'
import { show, unitText } from '../units'
import { useSize } from '../useSize'
import { changeKeys, isChosen, moveKeys, SAME, scaleKeys, type Track, writeKeys } from './tracks'

const TOP = 14
const BOTTOM = 26
const HIT = 8
type Drag =
  | {
      kind: 'move' | 'scale'
      x: number
      y: number
      keys: Key<unknown>[]
      chosen: number[]
      about: number
      span: number
      gesture: string
      moved: boolean
    }
  | { kind: 'bend'; end: 0 | 1; at: number; gesture: string }
  | { kind: 'box'; x: number; y: number; toX: number; toY: number; keep: number[] }
interface Range {
  low: number
  high: number
}
/** Values that the picture must hold: all keys and the curve between. */
export function rangeOf(track: Track, t0: number, t1: number): Range {
  const a = inner(track.bind, track.component) as Animated<number>
  let low = Infinity,
    high = -Infinity
  const take = (v: number) => {
    low = Math.min(low, v)
    high = Math.max(high, v)
  }
  for (const k of track.keys) take(k.v as number)
  for (let i = 0; i <= 200; i++) take(sampleNumber(a, t0 + ((t1 - t0) * i) / 200))
  if (!(high > low)) return { low: low - Math.max(1, Math.abs(low) * 0.5), high: high + Math.max(1, Math.abs(high) * 0.5) }
  const room = (high - low) * 0.08
  return { low: low - room, high: high + room }
}
/** A round step so that about `n` lines fit. */
const roundStep = (span: number, n: number): number => {
  const raw = span / n
  const power = 10 ** Math.floor(Math.log10(raw))
  return power * ([1, 2, 5, 10].find((m) => m * power >= raw) ?? 10)
}

/** The keys of one value over the same frames as the ruler above: dragged, boxed, scaled in time, bent. */
export function Graph({
  track,
  chosen,
  choose,
  range,
  setRange,
  left,
}: {
  track: Track
  chosen: number[]
  choose: (t: number[]) => void
  range: Range | null
  setRange: (r: Range | null) => void /** Pixels of this panel left of the ruler's beginning. */
  left: number
}) {
  const shot = useShot((s) => s)
  const playhead = useStudio((s) => s.playhead)
  const canvas = useRef<HTMLCanvasElement>(null)
  const box = useRef<HTMLDivElement>(null)
  const size = useSize(box)
  const drag = useRef<Drag | null>(null)
  const [, again] = useState(0)
  const { first, last } = shot.range
  const t0 = 0,
    t1 = Math.max(1e-6, timeOf(shot, last))
  const flat = track.kind !== 'number'
  const r = flat ? { low: -1, high: 1 } : (range ?? rangeOf(track, t0, t1))
  const plotW = Math.max(1, size.width - left - RULER_RIGHT),
    plotH = Math.max(1, size.height - TOP - BOTTOM)
  const xOf = (t: number) => left + ((t - t0) / (t1 - t0)) * plotW
  const yOf = (v: number) => TOP + (1 - (v - r.low) / (r.high - r.low)) * plotH
  const tOf = (x: number) => t0 + ((x - left) / plotW) * (t1 - t0)
  const vOf = (y: number) => r.low + (1 - (y - TOP) / plotH) * (r.high - r.low)
  const snap = shot.rate.den / shot.rate.num
  const keyY = (k: Key<unknown>) => (flat ? yOf(0) : yOf(k.v as number))
  const unit = 'unit' in track.bind.param ? unitText(track.bind.param as never) : ''
  const bounds: [number, number] =
    track.bind.param.type === 'number' ? [track.bind.param.min ?? -Infinity, track.bind.param.max ?? Infinity] : [-Infinity, Infinity]

  /** The two handles of a bent segment, in pixels, when its key is chosen. */
  const handles = track.keys.flatMap((k, i) => {
    const next = track.keys[i + 1]
    if (flat || k.ease !== 'curve' || !next || !(isChosen(chosen, k.t) || isChosen(chosen, next.t))) return []
    const [x1, d1, x2, d2] = k.bend ?? [1 / 3, 0, 2 / 3, 0]
    const span = next.t - k.t
    return [
      { end: 0 as const, at: k.t, x: xOf(k.t + x1 * span), y: yOf((k.v as number) + d1), fromX: xOf(k.t), fromY: keyY(k) },
      { end: 1 as const, at: k.t, x: xOf(k.t + x2 * span), y: yOf((next.v as number) + d2), fromX: xOf(next.t), fromY: keyY(next) },
    ]
  })
  const chosenKeys = track.keys.filter((k) => isChosen(chosen, k.t))
  const bracket = chosenKeys.length > 1 ? { x0: xOf(chosenKeys[0].t), x1: xOf(chosenKeys[chosenKeys.length - 1].t) } : null

  useEffect(() => {
    const c = canvas.current
    if (!c || size.width < 2) return
    const ratio = devicePixelRatio
    c.width = Math.round(size.width * ratio)
    c.height = Math.round(size.height * ratio)
    const g = c.getContext('2d', PLAIN_2D) as CanvasRenderingContext2D
    g.scale(ratio, ratio)
    const style = getComputedStyle(c)
    const colour = (name: string) => style.getPropertyValue(`--color-${name}`)
    g.font = '12px "Figtree Variable", sans-serif'
    g.lineWidth = 1
    const line = (x0: number, y0: number, x1: number, y1: number) => {
      g.beginPath()
      g.moveTo(x0, y0)
      g.lineTo(x1, y1)
      g.stroke()
    }
    g.fillStyle = colour('moss')
    g.strokeStyle = colour('fern')
    const step = [1, 2, 3, 4, 6, 12, 24, 48, 96, 240, 480, 960].find((s) => (s / Math.max(1, last - first)) * plotW >= 58) ?? 96
    for (let f = first; f <= last; f += step) {
      const x = Math.round(xOf(timeOf(shot, f))) + 0.5
      line(x, TOP, x, size.height - BOTTOM)
      g.textAlign = 'center'
      g.fillText(`${f}${f === first ? ' f' : ''}`, x, size.height - 8)
    }
    if (!flat) {
      const lines = roundStep(r.high - r.low, Math.max(2, plotH / 40))
      g.textAlign = 'right'
      for (let v = Math.ceil(r.low / lines) * lines; v <= r.high; v += lines) {
        const y = Math.round(yOf(v)) + 0.5
        line(left, y, size.width - RULER_RIGHT, y)
        g.fillText(`${show(Number(v.toPrecision(10)))}`, left - 8, y + 4)
      }
    } else line(left, yOf(0), size.width - RULER_RIGHT, yOf(0))
    g.save()
    g.beginPath()
    g.rect(left - 8, 0, plotW + 16, size.height - BOTTOM + 8)
    g.clip()
    if (!flat) {
      const a = inner(track.bind, track.component) as Animated<number>
      const draw = (f: (t: number) => number, c2: string, dash: number[]) => {
        g.strokeStyle = c2
        g.setLineDash(dash)
        g.beginPath()
        for (let x = left; x <= left + plotW; x += 1) {
          const y = yOf(f(tOf(x)))
          if (x === left) g.moveTo(x, y)
          else g.lineTo(x, y)
        }
        g.stroke()
        g.setLineDash([])
      }
      if (track.modulators.length) draw((t) => sampleNumber(a, t), colour('moss'), [])
      g.lineWidth = 1.5
      draw((t) => keyedNumber(a, t), colour('mist'), track.modulators.length ? [4, 4] : [])
      g.lineWidth = 1
    }
    g.strokeStyle = colour('moss')
    for (const h of handles) {
      line(h.fromX, h.fromY, h.x, h.y)
      g.beginPath()
      g.arc(h.x, h.y, 4, 0, Math.PI * 2)
      g.fillStyle = colour('night')
      g.fill()
      g.strokeStyle = colour('mist')
      g.stroke()
      g.strokeStyle = colour('moss')
    }
    for (const k of track.keys) {
      const x = xOf(k.t),
        y = keyY(k)
      const on = isChosen(chosen, k.t)
      // A drop whose tip is the exact place.
      g.beginPath()
      g.moveTo(x, y)
      g.bezierCurveTo(x - 6, y + 6, x - 5, y + 12, x, y + 12)
      g.bezierCurveTo(x + 5, y + 12, x + 6, y + 6, x, y)
      g.fillStyle = on ? colour('mist') : colour('night')
      g.fill()
      g.strokeStyle = colour('mist')
      g.stroke()
    }
    if (bracket) {
      g.strokeStyle = colour('mist')
      for (const [x, way] of [
        [bracket.x0 - 9, 1],
        [bracket.x1 + 9, -1],
      ] as const) {
        g.beginPath()
        g.moveTo(x + way * 6, TOP)
        g.lineTo(x, TOP)
        g.lineTo(x, size.height - BOTTOM)
        g.lineTo(x + way * 6, size.height - BOTTOM)
        g.stroke()
      }
    }
    g.restore()
    const d = drag.current
    if (d?.kind === 'box') {
      g.strokeStyle = colour('mist')
      g.setLineDash([3, 3])
      g.strokeRect(Math.min(d.x, d.toX) + 0.5, Math.min(d.y, d.toY) + 0.5, Math.abs(d.toX - d.x), Math.abs(d.toY - d.y))
      g.setLineDash([])
    }
    const x = xOf(timeOf(shot, playhead))
    g.strokeStyle = colour('ember')
    line(Math.round(x) + 0.5, 0, Math.round(x) + 0.5, size.height - BOTTOM)
    if (!flat) {
      const a = inner(track.bind, track.component) as Animated<number>
      const v = sampleNumber(a, timeOf(shot, playhead))
      g.fillStyle = colour('ember')
      g.beginPath()
      g.arc(x, yOf(v), 3.5, 0, Math.PI * 2)
      g.fill()
      g.fillStyle = colour('mist')
      g.textAlign = x > size.width - RULER_RIGHT - 60 ? 'right' : 'left'
      g.fillText(`${show(v)} ${unit}`, x + (g.textAlign === 'left' ? 9 : -9), Math.max(24, yOf(v) - 9))
    }
  })

  const at = (e: PointerEvent) => {
    const b = (box.current as HTMLDivElement).getBoundingClientRect()
    return { x: e.clientX - b.left, y: e.clientY - b.top }
  }
  const hitKey = (x: number, y: number) => {
    const rated = track.keys
      .map((k) => ({ k, d: Math.max(Math.abs(xOf(k.t) - x), Math.max(0, Math.abs(keyY(k) + 5 - y) - 5)) }))
      .filter((q) => q.d < HIT)
    return rated.sort((a, b) => a.d - b.d)[0]?.k ?? null
  }
  const down = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button !== 0) return
    e.currentTarget.setPointerCapture(e.pointerId)
    e.currentTarget.focus()
    const { x, y } = at(e)
    const handle = handles.find((h) => Math.hypot(h.x - x, h.y - y) < HIT)
    const gesture = `keys-${performance.now()}`
    if (handle) {
      drag.current = { kind: 'bend', end: handle.end, at: handle.at, gesture }
      return
    }
    if (bracket && (Math.abs(x - bracket.x0 + 9) < 6 || Math.abs(x - bracket.x1 - 9) < 6)) {
      const leftSide = Math.abs(x - bracket.x0 + 9) < 6
      const a = chosenKeys[0].t,
        b = chosenKeys[chosenKeys.length - 1].t
      drag.current = {
        kind: 'scale',
        x,
        y,
        keys: track.keys,
        chosen,
        about: leftSide ? b : a,
        span: leftSide ? a - b : b - a,
        gesture,
        moved: false,
      }
      return
    }
    const k = hitKey(x, y)
    if (k) {
      const next = e.shiftKey
        ? isChosen(chosen, k.t)
          ? chosen.filter((c) => Math.abs(c - k.t) > SAME)
          : [...chosen, k.t]
        : isChosen(chosen, k.t)
          ? chosen
          : [k.t]
      choose(next)
      setRange(r)
      drag.current = { kind: 'move', x, y, keys: track.keys, chosen: next, about: 0, span: 0, gesture, moved: false }
      return
    }
    drag.current = { kind: 'box', x, y, toX: x, toY: y, keep: e.shiftKey ? chosen : [] }
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const { x, y } = at(e)
    if (d.kind === 'box') {
      d.toX = x
      d.toY = y
      const inside = track.keys
        .filter(
          (k) =>
            xOf(k.t) >= Math.min(d.x, x) &&
            xOf(k.t) <= Math.max(d.x, x) &&
            keyY(k) + 6 >= Math.min(d.y, y) &&
            keyY(k) + 6 <= Math.max(d.y, y),
        )
        .map((k) => k.t)
      choose([...new Set([...d.keep, ...inside])])
      again((n) => n + 1)
      return
    }
    if (d.kind === 'bend') {
      const i = track.keys.findIndex((k) => Math.abs(k.t - d.at) < SAME)
      const [k, next] = [track.keys[i], track.keys[i + 1]] as Key<number>[]
      if (!k || !next) return
      const bend: [number, number, number, number] = [...(k.bend ?? [1 / 3, 0, 2 / 3, 0])]
      bend[d.end * 2] = Math.min(1, Math.max(0, (tOf(x) - k.t) / (next.t - k.t)))
      bend[d.end * 2 + 1] = vOf(y) - (d.end ? next.v : k.v)
      writeKeys(
        track,
        `bend of ${track.bind.param.label.toLowerCase()}`,
        changeKeys(track.keys, [k.t], (q) => ({ ...q, bend })),
        d.gesture,
      )
      return
    }
    if (!d.moved && Math.hypot(x - d.x, y - d.y) < 3) return
    d.moved = true
    // Alt leaves the frames; with Shift a key keeps its value.
    const grid = e.altKey ? 0 : snap
    const m =
      d.kind === 'move'
        ? moveKeys(d.keys, d.chosen, tOf(x) - tOf(d.x), flat || e.shiftKey ? 0 : vOf(y) - vOf(d.y), grid, bounds)
        : scaleKeys(d.keys, d.chosen, d.about, Math.max(0.01, (tOf(x) - d.about) / d.span), grid)
    writeKeys(track, `${d.chosen.length > 1 ? 'keys' : 'key'} of ${track.bind.param.label.toLowerCase()}`, m.keys, d.gesture)
    choose(m.chosen)
  }
  const up = (e: PointerEvent) => {
    const d = drag.current
    drag.current = null
    if (d?.kind === 'box' && Math.hypot(d.toX - d.x, d.toY - d.y) < 3) {
      choose([])
      const { x } = at(e)
      if (x > left - 4) setPlayhead(frameAt(shotNow(), tOf(x)))
    }
    again((n) => n + 1)
  }
  const addAt = (e: PointerEvent | React.MouseEvent) => {
    const { x, y } = at(e as PointerEvent)
    if (flat || hitKey(x, y) || x < left) return
    const t = Math.max(0, Math.round(tOf(x) / snap) * snap)
    const a = inner(track.bind, track.component)
    const v = Math.min(bounds[1], Math.max(bounds[0], keyedNumber(a as Animated<number>, t)))
    writeKeys(
      track,
      `key on ${track.bind.param.label.toLowerCase()}`,
      [...(isKeyed<unknown>(a) ? track.keys.filter((k) => Math.abs(k.t - t) > SAME) : []), { t, v, ease: 'smooth' as const }].sort(
        (p, q) => p.t - q.t,
      ),
      null,
    )
    choose([t])
  }
  const wheel = (e: WheelEvent) => {
    if (flat) return
    const y = e.clientY - (box.current as HTMLDivElement).getBoundingClientRect().top
    const k = Math.exp(Math.max(-120, Math.min(120, e.deltaY)) * 0.0015)
    const v = vOf(y)
    setRange({ low: v + (r.low - v) * k, high: v + (r.high - v) * k })
  }
  return (
    <div
      ref={box}
      role="application"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: the graph takes keys of its own: arrows, Delete, copy and paste
      tabIndex={0}
      aria-label={`Keys of ${track.name}`}
      data-graph
      className="relative min-h-0 min-w-0 flex-1 touch-none overflow-hidden outline-none focus-visible:outline-1 focus-visible:outline-moss"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={() => void (drag.current = null)}
      onDoubleClick={addAt}
      onWheel={wheel}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
    </div>
  )
}
