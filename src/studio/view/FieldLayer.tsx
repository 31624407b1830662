'use client'
import { useEffect, useState } from 'react'
import { actOfSort, readerOf, worldMatrix } from '../../acts'
import { apply, identity, type Matrix, multiply } from '../../engine'
import { type ActDoc, type Shot, timeOf, type Vec3 } from '../../shot'
import { axesOf, dot } from '../../stage/camera'
import { useShot, useStudio } from '../store'
import { along, onScreen, type Screen } from './MoveHandle'
import { type Box, useScreen } from './ParticleLayer'

/** Arrows and trails of a box, and of a plane across the picture; cells of a slice. */
export const ACROSS = 22,
  DEEP = 7,
  FINE = 48
const ARROW_PX = 26
/** The k-th of places that lie one behind the other, xyz each. */
const placeIn = (all: Float32Array, k: number): Vec3 => [all[3 * k], all[3 * k + 1], all[3 * k + 2]]
export const STEPS = 10

export interface Shown {
  places: Vec3[]
  a: Float32Array
  lines: Float32Array | null
}
/**
 * The acceleration that resting particles of the selected system would feel; of a force that is selected, what it alone does to the first
 * system it reaches. As arrows on a plane across the picture or in a box, as short trails, or as a slice by strength.
 */
export function FieldLayer(box: Box) {
  const session = useStudio((s) => s.session)
  // Off with the handles: then the picture is alone.
  const chosen = useStudio((s) => (s.overlays ? s.field : null))
  const playhead = useStudio((s) => s.playhead)
  const selected = useStudio((s) => s.selected)
  const serial = useStudio((s) => s.drawn?.serial)
  const playing = useStudio((s) => s.playing)
  const shot = useShot((s) => s)
  const screen = useScreen(box)
  // A gas has a layer of its own.
  const field = shot.gases.some((g) => g.id === selected) ? null : chosen
  const force = shot.forces.find((f) => f.id === selected)
  const system =
    shot.systems.find((s) => s.id === selected) ??
    shot.systems.find((s) => !force || force.reaches === 'all' || force.reaches.includes(s.id))
  const [shown, setShown] = useState<(Shown & { as: string }) | null>(null)
  const { pose, aspect } = screen
  const key = JSON.stringify([pose, aspect])
  const act = force?.act.id
  const objects = shot.objects
  const t = timeOf(shot, playhead)
  // biome-ignore lint/correctness/useExhaustiveDependencies: the serial stands for the shot as it was drawn, the key for pose and aspect
  useEffect(() => {
    if (!session || !field || !system || playing) {
      if (!field) setShown(null)
      return
    }
    const stands = force ? standing(force.act, objects, t) : null
    const places =
      field === 'plane' || field === 'slice'
        ? acrossView(pose, aspect, field === 'plane' ? ACROSS : FINE, stands?.middle ?? pose.aim)
        : stands?.box
          ? inside(stands.box)
          : inBox(stands?.middle ?? pose.aim, pose)
    const stop = new AbortController()
    const trails = field === 'trails' ? { trails: { steps: STEPS, metres: widthOf(pose) / 80 } } : {}
    void session
      .inquire(
        { what: 'field', system: system.id, frame: playhead, places: Float32Array.from(places.flat()), ...(act ? { act } : {}), ...trails },
        stop.signal,
      )
      .then((f) => {
        if (f.state !== 'cancelled') setShown(f.state === 'answered' ? { as: field, places, a: f.value.a, lines: f.value.lines } : null)
      })
    return () => stop.abort()
  }, [session, field, system, playhead, serial, playing, key, act])
  if (!field) return null
  const size = (i: number) => (shown ? Math.hypot(shown.a[i * 3], shown.a[i * 3 + 1], shown.a[i * 3 + 2]) : 0)
  const maximum = shown ? shown.places.reduce((m, _, i) => Math.max(m, size(i)), 1e-9) : 1e-9
  const whose = force ? force.name : (system?.name ?? '')
  const number = maximum.toFixed(maximum < 10 ? 1 : 0)
  const words = !system
    ? 'No system to draw a field for'
    : force
      ? `Acceleration by ${force.name} of ${system.name} at rest, up to ${number} m/s²`
      : `Acceleration of ${system.name} at rest, up to ${number} m/s²`
  return (
    <svg
      className="pointer-events-none absolute overflow-hidden"
      style={box}
      role="img"
      aria-label={`Acceleration of ${whose || 'nobody'}, up to ${maximum.toFixed(1)} m/s²`}
      data-testid="field"
      data-as={shown?.as ?? ''}
    >
      {shown?.as === field &&
        (field === 'slice' ? (
          <Slice shown={shown} screen={screen} strength={(i) => size(i) / maximum} />
        ) : (
          <Lines shown={shown} screen={screen} box={box} strength={(i) => size(i) / maximum} />
        ))}
      {field === 'slice' && (
        <g transform={`translate(10 ${box.height - 34})`}>
          {Array.from({ length: 24 }, (_, i) => (
            <rect key={i} x={i * 6} y={0} width={6.5} height={7} fill={heat(((i + 0.5) / 24) ** 2)} />
          ))}
        </g>
      )}
      <text
        x={10}
        y={box.height - 10}
        className="fill-mist text-label"
        stroke="black"
        strokeOpacity={0.75}
        strokeWidth={3}
        paintOrder="stroke"
      >
        {words}
      </text>
    </svg>
  )
}
/** Arrows, or trails with a head where they end. The root of the strength: weak parts stay readable beside strong ones. */
export function Lines({ shown, screen, box, strength }: { shown: Shown; screen: Screen; box: Box; strength: (i: number) => number }) {
  const { pose } = screen
  return (
    <>
      {shown.places.map((from, i) => {
        const much = strength(i)
        const p = onScreen(screen, from)
        if (!p || much < 1e-3) return null
        let d = '',
          back = p,
          q: typeof p | null = p
        if (shown.lines) {
          const points = Array.from({ length: STEPS + 1 }, (_, k) =>
            onScreen(screen, placeIn(shown.lines as Float32Array, i * (STEPS + 1) + k)),
          )
          if (points.some((x) => !x)) return null
          const all = points as NonNullable<(typeof points)[number]>[]
          d = `M${all.map((x) => `${x.x.toFixed(1)},${x.y.toFixed(1)}`).join('L')}`
          ;[back, q] = [all[all.length - 2], all[all.length - 1]]
        } else {
          const a = shown.a.subarray(i * 3, i * 3 + 3)
          const k = (Math.sqrt(much) * ARROW_PX * p.depth) / (box.width / 2 / (18 / pose.lens)) / Math.hypot(...a)
          q = onScreen(screen, [from[0] + a[0] * k, from[1] + a[1] * k, from[2] + a[2] * k])
          if (q) d = `M${p.x.toFixed(1)},${p.y.toFixed(1)}L${q.x.toFixed(1)},${q.y.toFixed(1)}`
        }
        if (!q) return null
        const l = Math.hypot(q.x - back.x, q.y - back.y)
        const [x, y] = l > 0.3 ? [(q.x - back.x) / l, (q.y - back.y) / l] : [0, 0]
        const head = Math.min(5, (shown.lines ? 5 : l) * 0.6)
        d += `M${(q.x - x * head - y * head * 0.6).toFixed(1)},${(q.y - y * head + x * head * 0.6).toFixed(1)}L${q.x.toFixed(1)},${q.y.toFixed(1)}L${(q.x - x * head + y * head * 0.6).toFixed(1)},${(q.y - y * head - x * head * 0.6).toFixed(1)}`
        return (
          <g key={i}>
            <path d={d} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={2.5} />
            <path d={d} fill="none" className="stroke-mist" strokeOpacity={0.35 + 0.65 * Math.sqrt(much)} />
          </g>
        )
      })}
    </>
  )
}
/** A colour for a strength of 0 to 1: from dark leaf over amber to nearly white, brighter all the way. */
export const heat = (v: number): string =>
  `oklch(${(0.3 + 0.62 * Math.sqrt(v)).toFixed(3)} ${(0.05 + 0.12 * Math.sin(Math.PI * Math.sqrt(v) * 0.9)).toFixed(3)} ${(165 - 95 * Math.sqrt(v)).toFixed(0)})`
/** A plane across the picture by strength. */
function Slice({ shown, screen, strength }: { shown: Shown; screen: Screen; strength: (i: number) => number }) {
  const rows = Math.round(FINE / screen.aspect)
  const [w, h] = [screen.width / FINE, screen.height / rows]
  return (
    <g shapeRendering="crispEdges">
      {shown.places.map((_, i) => (
        <rect
          key={i}
          x={(i % FINE) * w}
          y={(rows - 1 - Math.floor(i / FINE)) * h}
          width={w}
          height={h}
          fill={heat(strength(i))}
          fillOpacity={0.12 + 0.6 * Math.sqrt(strength(i))}
        />
      ))}
    </g>
  )
}
/** Half of what is seen across at the aim, m. */
export const widthOf = (pose: Screen['pose']): number =>
  (Math.hypot(pose.aim[0] - pose.place[0], pose.aim[1] - pose.place[1], pose.aim[2] - pose.place[2]) * 18) / pose.lens
/** Where a force stands in the shot, and the matrix of its box from a cube of −1 to 1; null without a place. */
function standing(act: ActDoc, objects: Shot['objects'], t: number): { middle: Vec3; box: Matrix | null } | null {
  const def = actOfSort(act.kind, 'force')
  const held = def.handles?.find((h) => h.kind === 'place')
  if (!held) return null
  const p = readerOf(act)
  const carrier = objects.find((o) => o.id === act.object)
  const m = carrier ? worldMatrix(carrier, t) : identity()
  const [x, y, z] = p.vector(held.param, t)
  const half = def.outlines?.(p, t).find((o) => o.shape === 'box')?.half
  return {
    middle: apply(m, x, y, z),
    box: half ? multiply(m, Float64Array.from([half[0], 0, 0, x, 0, half[1], 0, y, 0, 0, half[2], z])) : null,
  }
}
/** Even places in a box: as many along each axis as it is long. */
export function inside(m: Matrix): Vec3[] {
  const lengths = [0, 1, 2].map((a) => Math.hypot(m[a], m[4 + a], m[8 + a]))
  const apart = Math.cbrt((lengths[0] * lengths[1] * lengths[2]) / DEEP ** 3)
  const n = lengths.map((l) => Math.max(1, Math.min(24, Math.round(l / Math.max(apart, 1e-9)))))
  const at = (i: number, a: number) => ((i + 0.5) / n[a]) * 2 - 1
  return Array.from(
    { length: n[0] * n[1] * n[2] },
    (_, i): Vec3 => apply(m, at(i % n[0], 0), at(Math.floor(i / n[0]) % n[1], 1), at(Math.floor(i / n[0] / n[1]), 2)) as Vec3,
  )
}
/** Even places on a plane across the picture, through a place. */
export function acrossView(pose: Screen['pose'], aspect: number, across: number, through: Vec3): Vec3[] {
  const { right, up, forward } = axesOf(pose)
  // As deep as what it goes through, and as wide as the picture is there.
  const deep = dot([0, 1, 2].map((a) => through[a] - pose.place[a]) as Vec3, forward)
  const half = (Math.max(deep, 0.01) * 18) / pose.lens
  const middle = along(pose.place, forward, Math.max(deep, 0.01))
  const rows = Math.round(across / aspect)
  return Array.from({ length: across * rows }, (_, i): Vec3 => {
    const x = (((i % across) + 0.5) / across) * 2 - 1
    const y = ((Math.floor(i / across) + 0.5) / rows) * 2 - 1
    return [0, 1, 2].map((a) => middle[a] + right[a] * x * half + (up[a] * y * half) / aspect) as Vec3
  })
}
/** Even places in an upright box about the aim, half as wide as what is seen there. */
function inBox(aim: Vec3, pose: Screen['pose']): Vec3[] {
  const half = widthOf(pose) / 2
  const at = (i: number) => ((i + 0.5) / DEEP) * 2 - 1
  return Array.from(
    { length: DEEP ** 3 },
    (_, i): Vec3 => [
      aim[0] + at(i % DEEP) * half,
      aim[1] + at(Math.floor(i / DEEP) % DEEP) * half,
      aim[2] + at(Math.floor(i / DEEP / DEEP)) * half,
    ],
  )
}
