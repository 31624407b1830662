import type { Node } from '@gltf-transform/core'
import { nodesAt } from '../../engine'
import type { Read } from '../result'
import type { CameraAt } from '../table/camera'
import { openGlb } from './glb'
import { motionOf } from './glbMotion'

/** A camera of a file. */
export interface GlbCamera {
  name: string
  /** Whether it moves, and for how long, s. */
  moves: boolean
  lengthS: number
  /** Where it stands at a moment of its animation, s. `aspect`: width over height of the picture that it is for. */
  at(t: number, aspect: number): Omit<CameraAt, 'frame'>
}
/**
 * The cameras of a glTF 2.0 binary, with the first animation: they look along their own −Z, and their angle of view is that of the height. A
 * file without cameras gives none. Of parallel ones a note says that they are left out.
 */
export async function readGlbCameras(bytes: Uint8Array): Promise<Read<GlbCamera[]>> {
  const opened = await openGlb(bytes)
  if (!opened.ok) return opened
  const notes = new Set<string>()
  const motion = motionOf(opened.value)
  const cameras = motion.order.flatMap((node: Node, i): GlbCamera[] => {
    const camera = node.getCamera()
    if (!camera) return []
    const tall = Math.tan(camera.getYFov() / 2)
    if (camera.getType() !== 'perspective' || !(tall > 0 && Number.isFinite(tall))) {
      notes.add('not taken over: cameras without perspective')
      return []
    }
    const at = (t: number, aspect: number): Omit<CameraAt, 'frame'> => {
      const m = nodesAt(motion, Math.min(motion.lengthS, Math.max(0, t))).world[i]
      const axis = (c: number, by: number) => {
        const l = Math.hypot(m[c], m[c + 1], m[c + 2]) || 1
        return [0, 1, 2].map((a) => (by * m[c + a]) / l + 0) as CameraAt['place']
      }
      return { place: [m[12], m[13], m[14]], forward: axis(8, -1), up: axis(4, 1), lens: 18 / (tall * aspect) }
    }
    const name = node.getName() || camera.getName() || 'Camera'
    return [{ name, moves: motion.moves.has(node), lengthS: motion.lengthS, at }]
  })
  return { ok: true, value: cameras, notes: [...notes] }
}
