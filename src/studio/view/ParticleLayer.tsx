'use client'
import { timeOf, type Vec3 } from '../../shot'
import { shotPose } from '../../stage/camera'
import { useKnown } from '../particle/known'
import { useShot, useStudio } from '../store'
import { onScreen, type Screen } from './MoveHandle'

export interface Box {
  left: number
  top: number
  width: number
  height: number
}
export function useScreen({ width, height }: Box): Screen {
  const shot = useShot((s) => s)
  const playhead = useStudio((s) => s.playhead)
  const free = useStudio((s) => s.pose)
  return { pose: free ?? shotPose(shot, timeOf(shot, playhead)), width, height, aspect: shot.size.width / shot.size.height }
}
/** The way of the picked particle, and where it is now. */
export function ParticleLayer(box: Box) {
  useKnown()
  const known = useStudio((s) => s.known)
  const overlays = useStudio((s) => s.overlays)
  const playhead = useStudio((s) => s.playhead)
  const screen = useScreen(box)
  if (!overlays || !known?.path.length) return null
  const at = known.path.map((p) => ({ ...p, at: onScreen(screen, p.place) }))
  const placed = (places: readonly Vec3[]) => places.map((place) => ({ at: onScreen(screen, place) }))
  const line = (list: readonly { at: ReturnType<typeof onScreen> }[]) =>
    list.flatMap((p) => (p.at ? `${p.at.x.toFixed(1)},${p.at.y.toFixed(1)}` : [])).join(' ')
  const now = at.find((p) => p.frame === playhead)?.at
  return (
    <svg
      className="pointer-events-none absolute overflow-hidden"
      style={box}
      role="img"
      aria-label={`The way of the picked particle, ${known.path.length} frames`}
      data-testid="way"
    >
      {known.strips.map((strip, k) => (
        <g key={k} data-testid="ownStrip" fill="none" strokeLinejoin="round">
          <polyline points={line(placed(strip))} stroke="black" strokeOpacity={0.6} strokeWidth={6.5} />
          <polyline points={line(placed(strip))} className="stroke-lichen" strokeWidth={4.5} />
        </g>
      ))}
      <polyline points={line(at)} fill="none" stroke="black" strokeOpacity={0.6} strokeWidth={3} />
      <polyline points={line(at.filter((p) => p.frame <= playhead))} fill="none" className="stroke-mist" strokeWidth={1.25} />
      <polyline
        points={line(at.filter((p) => p.frame >= playhead))}
        fill="none"
        className="stroke-mist"
        strokeWidth={1.25}
        strokeDasharray="3 4"
      />
      {at.map((p) => p.at && <circle key={p.frame} cx={p.at.x} cy={p.at.y} r={1.5} className="fill-mist" />)}
      {now && (
        <g className="stroke-mist" fill="none" strokeWidth={1.5}>
          <circle cx={now.x} cy={now.y} r={8} stroke="black" strokeOpacity={0.6} strokeWidth={3.5} />
          <circle cx={now.x} cy={now.y} r={8} />
        </g>
      )}
    </svg>
  )
}
