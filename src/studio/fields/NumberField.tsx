'use client'
import { type KeyboardEvent, type MouseEvent, type PointerEvent, useEffect, useId, useRef, useState } from 'react'
import type { NumberParam } from '../../shot'
import { cx } from '../ui'
import { parseTyped, show, showWithUnit, unitText } from '../units'

export type NumberSpec = Pick<NumberParam, 'unit' | 'min' | 'max' | 'soft' | 'integer' | 'moment'>
interface Props {
  value: number
  spec: NumberSpec
  label: string
  fps: number
  /** `gesture` is the same for all changes of one drag, and null for a typed value. */
  onChange: (value: number, gesture: string | null) => void
  inline?: boolean
  /** The unit stands elsewhere: behind the three components of a vector. */
  bare?: boolean
  className?: string
}
const DRAG_FROM_PX = 3
const clampTo = (v: number, s: NumberSpec): number => {
  const r = s.integer ? Math.round(v) : v
  return Math.min(s.max ?? Infinity, Math.max(s.min ?? -Infinity, r))
}
/** Value change per pixel of a drag: the comfortable range in about 320 px. */
const perPixel = (s: NumberSpec, value: number): number => {
  const [a, b] = s.soft ?? [0, Math.max(1, Math.abs(value) * 2)]
  return Math.max((b - a) / 320, s.integer ? 0.1 : 0)
}
const round = (v: number, step: number): number => {
  const grain = 10 ** Math.floor(Math.log10(Math.max(1e-9, step)))
  return Number((Math.round(v / grain) * grain).toPrecision(12))
}

/** A number that drags sideways, takes units and arithmetic, and steps with the arrow keys (Shift fine, Ctrl coarse). */
export function NumberField({ value, spec, label, fps, onChange, inline, bare, className }: Props) {
  const [text, setText] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const input = useRef<HTMLInputElement>(null)
  const drag = useRef<{ x: number; last: number; start: number; gesture: string; moved: boolean; at: number } | null>(null)
  const problemId = useId()
  const typing = text !== null
  useEffect(() => {
    if (!typing) return
    input.current?.focus()
    // One that began with a typed digit goes on behind it.
    if ((input.current?.value.length ?? 0) > 1) input.current?.select()
  }, [typing])

  const down = (e: PointerEvent<HTMLElement>) => {
    if (text !== null || e.button !== 0) return
    e.currentTarget.setPointerCapture(e.pointerId)
    drag.current = { x: e.clientX, last: e.clientX, start: value, gesture: `drag-${label}-${performance.now()}`, moved: false, at: value }
  }
  const move = (e: PointerEvent<HTMLElement>) => {
    const d = drag.current
    if (!d) return
    if (!d.moved && Math.abs(e.clientX - d.x) < DRAG_FROM_PX) return
    if (!d.moved) d.last = e.clientX
    d.moved = true
    const step = perPixel(spec, d.start) * (e.shiftKey ? 0.1 : e.ctrlKey || e.metaKey ? 10 : 1)
    d.at += (e.clientX - d.last) * step
    d.last = e.clientX
    const next = clampTo(round(d.at, step), spec)
    d.at = Math.min(spec.max ?? Infinity, Math.max(spec.min ?? -Infinity, d.at))
    if (next !== value) onChange(next, d.gesture)
  }
  const up = (e: PointerEvent<HTMLElement>) => {
    const d = drag.current
    drag.current = null
    if (d && !d.moved && e.type === 'pointerup') begin()
    else if (d) e.currentTarget.querySelector<HTMLElement>('[role=spinbutton]')?.focus()
  }
  // Focused while it is dragged, an input has its selection put right, and the page laid out, with every value (3 ms each, measured).
  const press = (e: MouseEvent) => {
    if (text !== null || e.button !== 0) return
    e.preventDefault()
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
  }
  const begin = () => {
    setProblem(null)
    setText(
      show(value, spec, fps)
        .replace('−', '-')
        .replace(/(\d),(?=\d{3})/g, '$1'),
    )
  }
  const commit = (): boolean => {
    if (text === null) return true
    const r = parseTyped(text, spec, fps)
    if (!r.ok) {
      setProblem(r.problem)
      return false
    }
    if (spec.min !== undefined && r.value < spec.min) {
      setProblem(`must be at least ${showWithUnit(spec.min, spec, fps)}`)
      return false
    }
    if (spec.max !== undefined && r.value > spec.max) {
      setProblem(`must be at most ${showWithUnit(spec.max, spec, fps)}`)
      return false
    }
    setText(null)
    setProblem(null)
    const next = clampTo(r.value, spec)
    if (next !== value) onChange(next, null)
    return true
  }
  const key = (e: KeyboardEvent) => {
    // While somebody types, every key is text; else only the keys that the field takes stay here, and the page's shortcuts go on working.
    if (text !== null || /^(Enter|ArrowUp|ArrowDown|[\d.\-(])$/.test(e.key)) e.stopPropagation()
    if (e.key === 'Enter') {
      // Inside a form the key would send it.
      e.preventDefault()
      if (text === null) begin()
      else commit()
    } else if (e.key === 'Escape') {
      setText(null)
      setProblem(null)
    } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
      e.preventDefault()
      const [a, b] = spec.soft ?? [0, Math.max(1, Math.abs(value) * 2)]
      const step =
        (spec.moment ? 1 / fps : spec.integer ? 1 : round((b - a) / 100, (b - a) / 100)) *
        (e.shiftKey && !spec.integer ? 0.1 : e.ctrlKey || e.metaKey ? 10 : 1)
      const next = clampTo(round(value + (e.key === 'ArrowUp' ? step : -step), step / 10), spec)
      setText(null)
      if (next !== value) onChange(next, `arrow-${problemId}`)
    } else if (text === null && /^[\d.\-(]$/.test(e.key) && !e.ctrlKey && !e.metaKey) {
      e.preventDefault()
      setProblem(null)
      setText(e.key)
    }
  }
  const unit = unitText(spec)
  const editing = text !== null
  const common = {
    role: 'spinbutton',
    'aria-label': label,
    'aria-valuenow': spec.moment ? value * fps : value,
    'aria-valuetext': showWithUnit(value, spec, fps),
    onKeyDown: key,
  } as const
  const inlineLook = 'rounded-sm font-semibold text-mist underline decoration-twig decoration-1 underline-offset-3 hover:bg-bark'
  const field =
    inline && !editing ? (
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it is a spin button; its role comes with the spread
      <span {...common} tabIndex={0} className={cx(inlineLook, 'cursor-ew-resize whitespace-nowrap')}>
        {showWithUnit(value, spec, fps)}
      </span>
    ) : (
      <input
        {...common}
        ref={input}
        aria-invalid={problem !== null}
        aria-describedby={problem ? problemId : undefined}
        autoComplete="off"
        readOnly={!editing}
        value={editing ? text : show(value, spec, fps)}
        onChange={(e) => {
          setText(e.target.value)
          setProblem(null)
        }}
        onBlur={() => {
          if (editing && !commit()) {
            setText(null)
            setProblem(null)
          }
        }}
        style={inline ? { width: `${Math.max(4, text?.length ?? 0) + 1}ch` } : undefined}
        className={
          inline
            ? 'rounded-sm bg-night px-1 text-mist outline-none ring-1 ring-mist'
            : cx('w-full min-w-0 bg-transparent text-right text-mist outline-none', editing ? 'cursor-text' : 'cursor-ew-resize')
        }
      />
    )
  const message = problem && (
    <span
      id={problemId}
      role="alert"
      className="absolute top-full left-0 z-40 mt-1 w-max max-w-60 whitespace-normal rounded-md border border-berry bg-night px-2 py-1 text-left font-normal text-mist"
    >
      {problem}
    </span>
  )
  if (inline)
    return (
      <span className="relative" onPointerDown={down} onPointerMove={move} onPointerUp={up} onPointerCancel={up}>
        {field}
        {message}
      </span>
    )
  return (
    <span
      className={cx(
        'relative flex h-6 min-w-0 items-center gap-1 rounded-md border bg-night px-2 focus-within:outline-2 focus-within:outline-mist',
        problem ? 'border-berry' : 'border-twig hover:border-moss',
        className,
      )}
      onMouseDown={press}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
    >
      {field}
      {unit && !bare && <span className="shrink-0 text-moss">{unit}</span>}
      {message}
    </span>
  )
}
