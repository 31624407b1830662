'use client'
import { useRef } from 'react'
import { actOf, isFog, isStored, parentsOf, worldMatrix } from '../../acts'
import { apply, invert, type Matrix } from '../../engine'
import {
  actsIn,
  type CameraDoc,
  findElement,
  type GlowDoc,
  keyedNumber,
  keyedVec3,
  type LightDoc,
  type ObjectDoc,
  sampleVec3,
  timeOf,
  type Vec3,
  withValue,
} from '../../shot'
import { axesOf, dot, shotPose } from '../../stage/camera'
import { meshFacts } from '../facts'
import { edit, useShot, useStudio } from '../store'
import { ForceHandles } from './ForceHandles'
import { GasBounds } from './GasBounds'
import { AXES, MoveHandle, onScreen, type Screen } from './MoveHandle'
import { PathHandles } from './PathHandles'
import { SpreadHandle } from './SpreadHandle'

type Placed = (ObjectDoc | LightDoc | GlowDoc | CameraDoc) & { place: ObjectDoc['place'] }
const grid = (v: number) => Math.round(v * 1000) / 1000

/** Crisp lines over the picture: the selection's ticks, and the move handle with its three lettered arms. */
export function Handles({
  left,
  top,
  width,
  height,
  aspect,
}: {
  left: number
  top: number
  width: number
  height: number
  aspect: number
}) {
  const shot = useShot((s) => s)
  const selected = useStudio((s) => s.selected)
  const playhead = useStudio((s) => s.playhead)
  const free = useStudio((s) => s.pose)
  const open = useStudio((s) => s.open)
  useStudio((s) => s.facts)
  const base = useRef<Vec3>([0, 0, 0])
  const t = timeOf(shot, playhead)
  const pose = free ?? shotPose(shot, t)
  const found = selected ? findElement(shot, selected) : null
  const light = found?.group === 'lights' || found?.group === 'glows' ? found.element : null
  // What goes along with an object has its place in the object's space; what a system or a light carries along has none to take hold of.
  const carrier = light?.follows ? shot.objects.find((o) => o.id === light.follows) : undefined
  const isNowhere = light && (light.kind === 'around' || light.kind === 'line' || (!!light.follows && !carrier))
  const place =
    found && !isNowhere && 'place' in found.element && !(found.group === 'cameras' && !free && found.element.id === shot.camera)
      ? (found.element as Placed)
      : null
  const picture: Screen = { pose, width, height, aspect }
  const screen = (w: Vec3) => onScreen(picture, w)
  const object = found?.group === 'objects' ? found.element : null
  const matrix = object ? worldMatrix(object, t) : null
  const standing = place ? sampleVec3(place.place, t) : null
  const origin: Vec3 | null = matrix
    ? [matrix[3], matrix[7], matrix[11]]
    : carrier && standing
      ? apply(worldMatrix(carrier, t), ...standing)
      : standing

  const move = (moved: Vec3, gesture: string) => {
    if (!place || !found) return
    // In the space of the parent; what modulators add stays on top.
    const parent = object ? parentsOf(object)[0] : carrier
    const inverse = parent ? invert(worldMatrix(parent, t)) : null
    const far = (v: Vec3): Vec3 => (inverse ? apply(inverse, ...v) : v)
    const [a, b] = [far([0, 0, 0]), far(moved)]
    const target = base.current.map((v, i) => grid(v + b[i] - a[i])) as Vec3
    edit(
      `place of ${place.name}`,
      (s) => {
        const el = s[found.group][found.index] as Placed
        el.place = el.place.map((c, i) =>
          target[i] === keyedNumber(c, t) ? c : withValue(c, t, target[i], 'smooth', 0.25 / (s.rate.num / s.rate.den)),
        ) as Placed['place']
      },
      gesture,
    )
  }
  // The force whose handles are shown: the selected one, or that of the open card.
  const system = found?.group === 'systems' ? found.element : null
  const force = found?.group === 'forces' ? found.element : null
  const card = system ? actsIn(system, 'movement').find((a) => a.id === open) : undefined

  const bounds = object && !(object.shape.kind === 'plane' && object.shape.endless) ? meshFacts(object)?.bounds : null
  let corners: { x0: number; y0: number; x1: number; y1: number } | null = null
  if (object && bounds) {
    const m = matrix as Matrix
    const points = Array.from({ length: 8 }, (_, c) =>
      screen(apply(m, (c & 1 ? bounds.max : bounds.min)[0], (c & 2 ? bounds.max : bounds.min)[1], (c & 4 ? bounds.max : bounds.min)[2])),
    ).filter((p) => p !== null)
    if (points.length === 8)
      corners = {
        x0: Math.min(...points.map((p) => p.x)) - 4,
        y0: Math.min(...points.map((p) => p.y)) - 4,
        x1: Math.max(...points.map((p) => p.x)) + 4,
        y1: Math.max(...points.map((p) => p.y)) + 4,
      }
  }
  // Anchors of one group are seen together, as points that were tracked are.
  const group = object?.shape.kind === 'group' ? object.id : object?.shape.kind === 'anchor' ? object.parent : null
  const anchors = group ? shot.objects.filter((o) => o.parent === group && o.shape.kind === 'anchor') : []
  const { right, up: upAxis } = axesOf(pose)
  // A fog is everywhere, and what files hold stands where their object does.
  const placeless = found?.group === 'gases' && (isFog(found.element) || isStored(found.element))
  return (
    <svg
      role="group"
      aria-label="Handles"
      className="live pointer-events-none absolute overflow-visible"
      style={{ left, top, width, height }}
    >
      {corners && (
        <path
          fill="none"
          className="stroke-mist"
          d={[
            [corners.x0, corners.y0, 1, 1],
            [corners.x1, corners.y0, -1, 1],
            [corners.x0, corners.y1, 1, -1],
            [corners.x1, corners.y1, -1, -1],
          ]
            .map(([x, y, sx, sy]) => `M${x + sx * 9},${y}H${x}V${y + sy * 9}`)
            .join('')}
        />
      )}
      {anchors.map((o) => {
        const p = screen(apply(worldMatrix(o, t), 0, 0, 0) as Vec3)
        return (
          p && (
            <g key={o.id}>
              <title>{o.name}</title>
              {['stroke-black', 'stroke-mist'].map((colour, k) => (
                <path
                  key={colour}
                  d={`M${p.x - 6},${p.y}h12M${p.x},${p.y - 6}v12`}
                  className={colour}
                  strokeOpacity={k ? 1 : 0.6}
                  strokeWidth={k ? 1.5 : 4}
                />
              ))}
            </g>
          )
        )
      })}
      {found?.group === 'gases' && !placeless && <GasBounds shot={shot} gas={found.element} t={t} screen={picture} />}
      {found?.group === 'systems' && <SpreadHandle system={found.element} pose={pose} width={width} height={height} aspect={aspect} />}
      {object?.shape.kind === 'path' && <PathHandles object={object} t={t} pose={pose} width={width} height={height} aspect={aspect} />}
      {force && (
        <ForceHandles act={force.act} name={force.name} find={(x) => x.forces.find((f) => f.id === force.id)?.act} t={t} screen={picture} />
      )}
      {system && card && (
        <ForceHandles
          act={card}
          name={actOf(card.kind).title}
          t={t}
          screen={picture}
          find={(x) => {
            const y = x.systems.find((q) => q.id === system.id)
            return y && actsIn(y, 'movement').find((a) => a.id === card.id)
          }}
        />
      )}
      {place && origin && !placeless && (
        <MoveHandle screen={picture} origin={origin} onStart={() => void (base.current = keyedVec3(place.place, t))} onMove={move} />
      )}
      <g transform={`translate(${width - 44},${height - 40})`} aria-hidden="true">
        {AXES.map((a) => {
          const x = dot(a.dir, right) * 22
          const y = -dot(a.dir, upAxis) * 22
          return (
            <g key={a.name}>
              <line x2={x} y2={y} className="stroke-mist" strokeOpacity={0.8} />
              <text x={x * 1.38} y={y * 1.38 + 4} textAnchor="middle" className="fill-mist font-semibold text-caption">
                {a.name}
              </text>
            </g>
          )
        })}
      </g>
    </svg>
  )
}
