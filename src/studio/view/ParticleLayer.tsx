'use client'
import { useEffect, useState } from 'react'
import { useShot, useStudio } from '../store'
import { timeOf, type Vec3 } from '../../shot'
import { axesOf, shotPose } from '../../stage/camera'
import { useKnown } from '../particle/ParticleTab'
import { onScreen, type Screen } from './MoveHandle'

interface Box {
  left: number
  top: number
  width: number
  height: number
}
function useScreen({ width, height }: Box): Screen {
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
  const line = (list: typeof at) => list.flatMap((p) => (p.at ? `${p.at.x.toFixed(1)},${p.at.y.toFixed(1)}` : [])).join(' ')
  const now = at.find((p) => p.frame === playhead)?.at
  return (
    <svg className="pointer-events-none absolute overflow-hidden" style={box} role="img" aria-label={`The way of the picked particle, ${known.path.length} frames`} data-testid="way">
      <polyline points={line(at)} fill="none" stroke="black" strokeOpacity={0.6} strokeWidth={3} />
      <polyline points={line(at.filter((p) => p.frame <= playhead))} fill="none" className="stroke-mist" strokeWidth={1.25} />
      <polyline points={line(at.filter((p) => p.frame >= playhead))} fill="none" className="stroke-mist" strokeWidth={1.25} strokeDasharray="3 4" />
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

/** Arrows of a box, and of a plane across the picture. */
const ACROSS = 22, DEEP = 7
const ARROW_PX = 26

/** The acceleration that resting particles of the selected system would feel, as arrows; of a force that is selected, those of the first system it reaches. */
export function FieldLayer(box: Box) {
  const session = useStudio((s) => s.session)
  // Off with the handles: then the picture is alone.
  const field = useStudio((s) => (s.overlays ? s.field : null))
  const playhead = useStudio((s) => s.playhead)
  const selected = useStudio((s) => s.selected)
  const serial = useStudio((s) => s.drawn?.serial)
  const playing = useStudio((s) => s.playing)
  const shot = useShot((s) => s)
  const screen = useScreen(box)
  const force = shot.forces.find((f) => f.id === selected)
  const system = shot.systems.find((s) => s.id === selected) ?? shot.systems.find((s) => !force || force.reaches === 'all' || force.reaches.includes(s.id))
  const [arrows, setArrows] = useState<{ from: Vec3; a: Vec3 }[]>([])
  const { pose, aspect } = screen
  const key = JSON.stringify([pose, aspect])
  useEffect(() => {
    if (!session || !field || !system || playing) {
      if (!field) setArrows([])
      return
    }
    const places = field === 'plane' ? acrossView(pose, aspect) : inBox(pose.aim, pose)
    let old = false
    void session.inquire({ what: 'field', system: system.id, frame: playhead, places: Float32Array.from(places.flat()) }).then((f) => {
      if (old) return
      setArrows(f ? places.map((from, i) => ({ from, a: [f.a[i * 3], f.a[i * 3 + 1], f.a[i * 3 + 2]] })) : [])
    })
    return () => void (old = true)
  }, [session, field, system, playhead, serial, playing, key])
  if (!field) return null
  const most = Math.max(1e-9, ...arrows.map(({ a }) => Math.hypot(...a)))
  return (
    <svg className="pointer-events-none absolute overflow-hidden" style={box} role="img" aria-label={`Acceleration of ${system?.name ?? 'nobody'}, up to ${most.toFixed(1)} m/s²`} data-testid="field">
      {arrows.map(({ from, a }, i) => {
        const p = onScreen(screen, from)
        const size = Math.hypot(...a)
        if (!p || size < most * 1e-3) return null
        // The root of the strength: weak parts stay readable beside strong ones.
        const k = (Math.sqrt(size / most) * ARROW_PX * p.depth) / (box.width / 2 / (18 / pose.lens)) / size
        const q = onScreen(screen, [from[0] + a[0] * k, from[1] + a[1] * k, from[2] + a[2] * k])
        if (!q) return null
        const l = Math.hypot(q.x - p.x, q.y - p.y)
        const [x, y] = l > 0.5 ? [(q.x - p.x) / l, (q.y - p.y) / l] : [0, 0]
        const head = Math.min(5, l * 0.4)
        const d = `M${p.x.toFixed(1)},${p.y.toFixed(1)}L${q.x.toFixed(1)},${q.y.toFixed(1)}M${(q.x - x * head - y * head * 0.6).toFixed(1)},${(q.y - y * head + x * head * 0.6).toFixed(1)}L${q.x.toFixed(1)},${q.y.toFixed(1)}L${(q.x - x * head + y * head * 0.6).toFixed(1)},${(q.y - y * head - x * head * 0.6).toFixed(1)}`
        return <g key={i}><path d={d} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={2.5} /><path d={d} fill="none" className="stroke-mist" strokeOpacity={0.35 + 0.65 * Math.sqrt(size / most)} /></g>
      })}
      <text x={10} y={box.height - 10} className="fill-mist text-[11.5px]" stroke="black" strokeOpacity={0.75} strokeWidth={3} paintOrder="stroke">
        {system ? `Acceleration of ${system.name} at rest, up to ${most.toFixed(most < 10 ? 1 : 0)} m/s²` : 'No system to draw a field for'}
      </text>
    </svg>
  )
}
/** Even places on the plane through the aim, across the picture. */
function acrossView(pose: Screen['pose'], aspect: number): Vec3[] {
  const { right, up } = axesOf(pose)
  const far = Math.hypot(pose.aim[0] - pose.place[0], pose.aim[1] - pose.place[1], pose.aim[2] - pose.place[2])
  const half = (far * 18) / pose.lens
  const rows = Math.round(ACROSS / aspect)
  return Array.from({ length: ACROSS * rows }, (_, i): Vec3 => {
    const x = (((i % ACROSS) + 0.5) / ACROSS) * 2 - 1
    const y = ((Math.floor(i / ACROSS) + 0.5) / rows) * 2 - 1
    return [0, 1, 2].map((a) => pose.aim[a] + right[a] * x * half + (up[a] * y * half) / aspect) as Vec3
  })
}
/** Even places in an upright box about the aim, half as wide as what is seen there. */
function inBox(aim: Vec3, pose: Screen['pose']): Vec3[] {
  const far = Math.hypot(aim[0] - pose.place[0], aim[1] - pose.place[1], aim[2] - pose.place[2])
  const half = (far * 18) / pose.lens / 2
  const at = (i: number) => ((i + 0.5) / DEEP) * 2 - 1
  return Array.from({ length: DEEP ** 3 }, (_, i): Vec3 => [aim[0] + at(i % DEEP) * half, aim[1] + at(Math.floor(i / DEEP) % DEEP) * half, aim[2] + at(Math.floor(i / DEEP / DEEP)) * half])
}
