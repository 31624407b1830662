'use client'
import { timeOf } from '../../shot'
import { shotPose } from '../../stage/camera'
import { setStudio, useShot, useStudio } from '../store'
import { show } from '../units'
import { onScreen, type Screen } from './MoveHandle'

interface Box {
  left: number
  top: number
  width: number
  height: number
}
/** A distance between two places on objects, and how far it goes along each axis. */
export function MeasureLayer({ aspect, ...box }: Box & { aspect: number }) {
  const measure = useStudio((s) => s.measure)
  const pose = useStudio((s) => s.pose)
  const playhead = useStudio((s) => s.playhead)
  const shot = useShot((s) => s)
  if (!measure?.length) return null
  const screen: Screen = { pose: pose ?? shotPose(shot, timeOf(shot, playhead)), width: box.width, height: box.height, aspect }
  const [a, b] = measure.map((p) => onScreen(screen, p))
  const [from, to] = measure
  const apart = from && to ? from.map((v, i) => to[i] - v) : null
  const words = apart && `${show(Math.hypot(...apart))} m`
  return (
    <>
      <svg
        className="pointer-events-none absolute overflow-hidden"
        style={box}
        role="img"
        aria-label={words ? `Distance ${words}` : 'Where the distance begins'}
      >
        {a && b && <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} className="stroke-mist" strokeWidth={1.5} strokeDasharray="5 4" />}
        {[a, b].map(
          (p, i) =>
            p && <circle key={i === 0 ? 'from' : 'to'} cx={p.x} cy={p.y} r={3.5} className="fill-night stroke-mist" strokeWidth={1.5} />,
        )}
      </svg>
      {apart && (
        <div
          data-handle="measure"
          className="absolute top-2 left-1/2 flex -translate-x-1/2 items-center gap-3 rounded-md border border-mist bg-night px-3 py-1"
        >
          <b className="live">{words}</b>
          <span className="live text-moss">
            X {show(apart[0])}, Y {show(apart[1])}, Z {show(apart[2])} m
          </span>
          <button type="button" className="text-moss hover:text-mist" onClick={() => setStudio({ measure: null })}>
            Done
          </button>
        </div>
      )}
    </>
  )
}
/** Shares of the picture's width and height within which what must be seen, and what must be read, should lie on every screen. */
const SAFE = [
  ['what happens', 0.93],
  ['titles', 0.9],
] as const
/** Thin frames through the shot's camera; never in a render. */
export function SafeFrame(box: Box) {
  const safe = useStudio((s) => s.safe && !s.pose)
  if (!safe) return null
  const { width: w, height: h } = box
  return (
    <svg className="pointer-events-none absolute" style={box} role="img" aria-label="Safe frame">
      {SAFE.map(([name, k]) => (
        <rect
          key={name}
          x={(w * (1 - k)) / 2}
          y={(h * (1 - k)) / 2}
          width={w * k}
          height={h * k}
          fill="none"
          className="stroke-mist"
          strokeOpacity={name === 'titles' ? 0.35 : 0.7}
          strokeWidth={1}
        />
      ))}
      <path d={`M${w / 2 - 8} ${h / 2}h16M${w / 2} ${h / 2 - 8}v16`} className="stroke-mist" strokeOpacity={0.7} fill="none" />
    </svg>
  )
}
