import { worldMatrix } from '../../acts'
import { apply } from '../../engine'
import type { Pose } from '../../protocol'
import { timeOf, type Vec3 } from '../../shot'
import { frameBox, orbit, pan, shotPose, zoom } from '../../stage/camera'
import { meshFacts } from '../facts'
import { setStudio, shotNow, studio } from '../store'

export const poseNow = (): Pose => studio().pose ?? shotPose(shotNow(), timeOf(shotNow(), studio().playhead))
export const aspectNow = (): number => shotNow().size.width / shotNow().size.height

/** A pose after a drag over a picture, by pixels of it: turned around its aim, or moved sideways. */
export const dragged = (p: Pose, how: 'orbit' | 'pan', dx: number, dy: number, width: number, height: number): Pose =>
  how === 'orbit' ? orbit(p, (-dx / width) * Math.PI * 1.6, (dy / height) * Math.PI * 0.9) : pan(p, (dx / width) * 2, (dy / width) * 2)
/** And after a turn of the wheel. */
export const wheeled = (p: Pose, deltaY: number): Pose => zoom(p, Math.exp(Math.max(-120, Math.min(120, deltaY)) * 0.0012))
/** The box of the selection in the world, or of all objects that have an end. */
export function selectionBox(): { min: Vec3; max: Vec3 } | null {
  const shot = shotNow()
  const t = timeOf(shot, studio().playhead)
  const selected = studio().selected
  const system = shot.systems.find((s) => s.id === selected)
  const wanted = new Set(system ? system.birth.map((b) => b.source) : [selected])
  const chosen = shot.objects.filter((o) => wanted.has(o.id))
  const list = chosen.length ? chosen : shot.objects.filter((o) => !(o.shape.kind === 'plane' && o.shape.endless))
  const min: Vec3 = [Infinity, Infinity, Infinity]
  const max: Vec3 = [-Infinity, -Infinity, -Infinity]
  for (const o of list) {
    const b = meshFacts(o)?.bounds ?? { min: [-0.1, -0.1, -0.1], max: [0.1, 0.1, 0.1] }
    const m = worldMatrix(o, t)
    for (let c = 0; c < 8; c++) {
      const p = apply(m, (c & 1 ? b.max : b.min)[0], (c & 2 ? b.max : b.min)[1], (c & 4 ? b.max : b.min)[2])
      for (let a = 0; a < 3; a++) {
        min[a] = Math.min(min[a], p[a])
        max[a] = Math.max(max[a], p[a])
      }
    }
  }
  return list.length ? { min, max } : null
}
export function frameSelection(): void {
  const box = selectionBox()
  if (box) setStudio({ pose: frameBox(poseNow(), aspectNow(), box.min, box.max) })
}
