'use client'
import { ChevronFirst, Film, Pause, Play, Repeat, StepBack, StepForward } from 'lucide-react'
import { memo, type PointerEvent, useCallback, useEffect, useMemo, useRef } from 'react'
import { actOfSort, readerOf } from '../../acts'
import { findElement, frameAt, timeOf } from '../../shot'
import { PLAIN_2D } from '../canvas'
import { keysOf } from '../fields/bind'
import { keyedValues } from '../keyed'
import { pause, restart, stepFrame, togglePlay } from '../playback'
import { setPlayhead, setStudio, shotNow, studio, useShot, useStudio } from '../store'
import { Drop, IconButton } from '../ui'
import { show } from '../units'
import { useSize } from '../useSize'

/** Left edge of the ruler and the room on its right, in pixels; the Keys tab uses the same. */
export const RULER_LEFT = 266
export const RULER_RIGHT = 116

/** Transport, ruler, which frames are ready, births and keys. */
export function TimeBar() {
  const range = useShot((s) => s.range)
  const rate = useShot((s) => s.rate)
  const status = useStudio((s) => s.status)
  const selected = useStudio((s) => s.selected)
  const { first, last } = range
  const span = Math.max(1, last - first)
  const box = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width } = useSize(box)
  // The value follows without drawing the ruler again.
  useEffect(() => {
    const tell = (frame: number) => box.current?.setAttribute('aria-valuenow', String(frame))
    tell(studio().playhead)
    return useStudio.subscribe((s) => tell(s.playhead))
  }, [])
  const x = useCallback((frame: number) => ((frame - first) / span) * width, [first, span, width])

  const system = useShot((s) => s.systems.find((x) => x.id === selected) ?? s.systems[0])
  // Only what the ruler shows draws it again: this element's keys, not every change of the shot.
  const element = useShot((s) => (selected ? findElement(s, selected)?.element : undefined))
  const births = useMemo(() => {
    if (!system || system.muted) return []
    const sources = system.birth.filter((a) => !a.muted).map((a) => ({ act: actOfSort(a.kind, 'source'), p: readerOf(a) }))
    return Array.from({ length: span }, (_, i) =>
      sources.reduce((sum, { act, p }) => sum + act.rate(p, timeOf({ rate, range }, first + i), timeOf({ rate, range }, first + i + 1)), 0),
    )
  }, [system, rate, range, first, span])
  const keys = useMemo(
    () => [
      ...new Set(
        (element ? keyedValues(shotNow(), element.id) : []).flatMap((k) =>
          keysOf(k.bind).map((key) => Math.round(frameAt({ rate, range }, key.t) * 100) / 100),
        ),
      ),
    ],
    [element, rate, range],
  )

  useEffect(() => {
    const c = canvas.current
    if (!c || width < 2) return
    const ratio = devicePixelRatio
    c.width = Math.round(width * ratio)
    c.height = Math.round(60 * ratio)
    const g = c.getContext('2d', PLAIN_2D) as CanvasRenderingContext2D
    g.scale(ratio, ratio)
    const style = getComputedStyle(c)
    const colour = (name: string) => style.getPropertyValue(`--color-${name}`)
    g.clearRect(0, 0, width, 60)
    const step = [1, 2, 3, 4, 6, 12, 24, 48, 96, 240, 480, 960].find((s) => (s / span) * width >= 58) ?? Math.ceil(span / 10)
    const minor = step >= 12 ? step / 2 : 1
    g.strokeStyle = colour('bark')
    g.fillStyle = colour('moss')
    g.font = '12px "Figtree Variable", sans-serif'
    for (let f = first; f <= last; f++) {
      const major = (f - first) % step === 0
      if (!major && (f - first) % minor !== 0 && f !== last) continue
      const px = Math.round(x(f)) + 0.5
      g.beginPath()
      g.moveTo(px, 0)
      g.lineTo(px, major || f === last ? 18 : 6)
      g.stroke()
      if (major || f === last) {
        const end = f === last
        if (!end && x(last) - x(f) < 34 && f !== first) continue
        g.textAlign = end && f !== first ? 'right' : 'left'
        g.fillText(`${f}${f === first ? ' f' : ''}`, px + (end && f !== first ? -4 : 4), 12)
      }
    }
    const maximum = Math.max(1, ...births)
    g.fillStyle = colour('bark')
    g.strokeStyle = colour('twig')
    g.beginPath()
    births.forEach((b, i) => {
      if (b <= 0) return
      const h = 1.5 + Math.sqrt(b / maximum) * 13
      g.rect(x(first + i), 55 - h, Math.max(1, width / span - (width / span > 4 ? 1 : 0)), h)
    })
    g.fill()
    const beads = status?.beads ?? ''
    const gap = width / span
    const radius = Math.min(2.4, Math.max(0.8, gap * 0.27))
    const every = Math.max(1, Math.ceil(3 / gap))
    for (let i = 0; i < beads.length; i += every) {
      const px = (i / span) * width
      g.beginPath()
      g.arc(px, 27, radius, 0, Math.PI * 2)
      const computing = status?.computing === (status?.first ?? 0) + i
      if (computing) {
        g.fillStyle = colour('ember')
        g.fill()
      } else if (beads[i] === 'r') {
        g.fillStyle = colour('mist')
        g.fill()
      } else if (beads[i] === 'o') {
        g.strokeStyle = colour('mist')
        g.stroke()
      } else {
        g.fillStyle = colour('bark')
        g.fillRect(px - 0.5, 26.5, 1, 1)
      }
    }
  }, [width, births, status, first, last, span, x])

  const scrub = (e: PointerEvent) => {
    if (e.type === 'pointerdown') {
      if (e.button !== 0) return
      e.currentTarget.setPointerCapture(e.pointerId)
      pause()
    } else if (!e.currentTarget.hasPointerCapture(e.pointerId)) return
    const r = (box.current as HTMLDivElement).getBoundingClientRect()
    setPlayhead(first + Math.round(((e.clientX - r.left) / r.width) * span))
  }
  const ready = status ? [...status.beads].filter((b) => b === 'r').length : 0
  const left = status && status.computing !== null ? ((status.beads.length - ready) * status.frameMs) / 1000 : 0
  return (
    <section aria-label="Time" className="relative flex h-[60px] shrink-0 border-bark border-y bg-pine">
      <Transport />
      <div
        ref={box}
        className="relative min-w-0 flex-1 touch-none outline-none"
        onPointerDown={scrub}
        onPointerMove={scrub}
        role="slider"
        aria-label="Playhead"
        aria-valuemin={first}
        aria-valuemax={last}
        aria-valuenow={first}
        tabIndex={-1}
      >
        <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
        {keys.map((f) => (
          <span key={f} className="pointer-events-none absolute text-mist" style={{ left: x(f) - 5, top: 46 }}>
            <Drop size={10} />
          </span>
        ))}
        <Playhead x={x} />
        {system && births.some((b) => b > 0) && (
          <span className="pointer-events-none absolute right-1 bottom-0.5 rounded-md bg-pine/80 px-1 text-caption text-moss">
            births of {system.name}
          </span>
        )}
      </div>
      <div className="live flex shrink-0 flex-col justify-center pl-4 leading-5" style={{ width: RULER_RIGHT }}>
        <span className="whitespace-nowrap">
          <b className="font-semibold">{ready}</b> of <EndFrame />
        </span>
        <span className="text-moss">
          {!status
            ? 'starting'
            : status.warm
              ? `warm ${status.warm.done.toFixed(1)}/${show(status.warm.of)} s`
              : status.computing === null
                ? `${status.ends ? 'loops' : 'ready'}, ${show(span / (rate.num / rate.den))} s`
                : `${left < 0.1 ? '<0.1' : left.toFixed(1)} s left`}
        </span>
      </div>
    </section>
  )
}
const Transport = memo(function Transport() {
  const playing = useStudio((s) => s.playing)
  const loop = useStudio((s) => s.loop)
  const everyFrame = useStudio((s) => s.everyFrame)
  return (
    <div className="flex shrink-0 items-center gap-1 pl-2" style={{ width: RULER_LEFT }}>
      <IconButton name="Restart" keys="R" onClick={restart}>
        <ChevronFirst size={16} strokeWidth={1.5} />
      </IconButton>
      <IconButton name="One frame back" keys="←" onClick={() => stepFrame(-1)}>
        <StepBack size={14} strokeWidth={1.5} />
      </IconButton>
      <IconButton name={playing ? 'Pause' : 'Play'} keys="Space" className="size-8! border border-twig text-mist" onClick={togglePlay}>
        {playing ? <Pause size={16} strokeWidth={1.5} /> : <Play size={16} strokeWidth={1.5} />}
      </IconButton>
      <IconButton name="One frame on" keys="→" onClick={() => stepFrame(1)}>
        <StepForward size={14} strokeWidth={1.5} />
      </IconButton>
      <IconButton name="Loop" on={loop} onClick={() => setStudio({ loop: !loop })}>
        <Repeat size={14} strokeWidth={1.5} />
      </IconButton>
      <IconButton
        name={everyFrame ? 'Plays every frame; click for true speed' : 'Play every frame instead of at true speed'}
        on={everyFrame}
        onClick={() => setStudio({ everyFrame: !everyFrame })}
      >
        <Film size={14} strokeWidth={1.5} />
      </IconButton>
      <Now />
    </div>
  )
})
function EndFrame() {
  const { first, last } = useShot((s) => s.range)
  return <span>{last - first + 1}</span>
}
function Now() {
  const frame = useStudio((s) => s.playhead)
  const rate = useShot((s) => s.rate)
  return (
    <span className="live ml-auto flex w-[66px] flex-col pr-4 text-right">
      <span className="font-semibold text-headline leading-5" data-testid="frame">
        {frame} f
      </span>
      <span className="text-caption text-moss">{((frame - shotNow().range.first) / (rate.num / rate.den)).toFixed(2)} s</span>
    </span>
  )
}
/** The playhead moves with every frame; only it is drawn again. */
function Playhead({ x }: { x: (f: number) => number }) {
  const frame = useStudio((s) => s.playhead)
  return (
    <div
      className="live pointer-events-none absolute top-0 bottom-0 left-0 w-px bg-ember"
      style={{ transform: `translateX(${x(frame)}px)` }}
    >
      <span className="absolute top-0 left-1/2 min-w-6 -translate-x-1/2 rounded-md bg-ember px-1 text-center font-semibold text-caption text-on-ember leading-4">
        {frame}
      </span>
    </div>
  )
}
