import type * as THREE from 'three'
import { shadowLight } from '../acts'
import type { Marcher, MarchView } from '../engine'
import type { Shot } from '../shot'
import type { GasShade } from './gasShadow'
import { gasCameraOf, rowsOf } from './lightMaps'

/** Of what lies in front of places: a pixel for so many of the picture's, and at so many depths. */
export const FRONT_COARSER = 8
export const FRONT_DEPTHS = 32
/** From where a camera looks, as the march takes it. */
export function viewOf(camera: THREE.PerspectiveCamera): Pick<MarchView, 'eye' | 'ahead' | 'right' | 'up'> {
  const e = camera.matrixWorld.elements
  const p = camera.projectionMatrix.elements
  const axis = (k: number, by: number) => [0, 1, 2].map((a) => e[k * 4 + a] * by) as [number, number, number]
  const [right, up] = [axis(0, 1 / p[0]), axis(1, 1 / p[5])]
  // A shifted picture has its middle beside the way that the camera looks.
  const ahead = axis(2, -1).map((v, a) => v + p[8] * right[a] + p[9] * up[a]) as [number, number, number]
  return { eye: [e[12], e[13], e[14]], ahead, right, up }
}
export interface Around {
  middle: readonly number[]
  radius: number
}
export function aroundAll(rooms: readonly Around[]): Around {
  if (rooms.length === 1) return rooms[0]
  const [low, high] = [-1, 1].map((side) => [0, 1, 2].map((a) => side * Math.max(...rooms.map((r) => side * r.middle[a] + r.radius))))
  const middle = low.map((x, a) => (x + high[a]) / 2)
  return { middle, radius: Math.max(...rooms.map((r) => r.radius + Math.hypot(...middle.map((x, a) => x - r.middle[a])))) }
}
/** The shadow on objects of what dims light softly, by the light that throws shadows; the same one while nothing of it changes. */
export class Shades {
  private last: { state: string; by: readonly unknown[]; shade: GasShade | null } | null = null

  /** In a picture of all that is `around`. `size`: pixels along a side of it; `by`: what the marcher was loaded with. */
  of(marcher: Marcher, shot: Shot, t: number, around: Around, o: { wide: number; size: number; by: readonly unknown[] }): GasShade | null {
    const light = shadowLight(shot)
    if (!light || marcher.isEmpty) return null
    const camera = gasCameraOf(light, t, around)
    const state = JSON.stringify([camera.matrixWorld.elements, camera.projectionMatrix.elements])
    const { last } = this
    if (last?.state === state && last.by.every((x, i) => x === o.by[i])) return last.shade
    const view: MarchView = { ...viewOf(camera), width: o.size, height: o.size, depth: null, stride: 1.5, wide: o.wide }
    const made = marcher.left(view, FRONT_DEPTHS)
    const shade = made && { front: { ...made, left: made.left.slice() }, rows: rowsOf(camera) }
    this.last = { state, by: o.by, shade }
    return shade
  }
}
