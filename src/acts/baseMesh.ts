import type { Mesh } from '../engine'
import type { ObjectDoc, Shot } from '../shot'
import { builtKey } from './builtShapes'
import { type Base, baseOf, meshAsTaken } from './meshFiles'
import { primitiveOf, shapeBase, shapeMesh } from './shapes'

/** Meshes by the hash of their file; a missing one leaves its object empty. */
export type Meshes = ReadonlyMap<string, Mesh>
export function meshOf(object: ObjectDoc, meshes: Meshes): Mesh | null {
  const key = builtKey(object.shape)
  if (key) return meshes.get(key) ?? null
  if (object.shape.kind !== 'mesh') return shapeMesh(object.shape)
  const mesh = meshes.get(object.shape.asset)
  return mesh ? meshAsTaken(mesh, object.shape) : null
}
/** Hashes of the files that an object's shape is read from. */
/** Hashes of all files that a shot needs as they are read: its meshes, and its pictures of light. */
export const filesIn = (shot: Pick<Shot, 'objects' | 'lights'>): string[] => [
  ...new Set([...shot.objects.flatMap(filesOf), ...shot.lights.flatMap((l) => (l.kind === 'around' && l.asset ? [l.asset] : []))]),
]
/** Of them those that only follow another in a sequence: of pictures nobody asks more than to show them. */
export function followingFiles(shot: Pick<Shot, 'objects'>): Set<string> {
  const first = new Set(shot.objects.map((o) => (o.shape.kind === 'mesh' ? o.shape.asset : '')))
  return new Set(shot.objects.flatMap((o) => (o.shape.kind === 'mesh' ? o.shape.poses : [])).filter((h) => !first.has(h)))
}
export const filesOf = (o: ObjectDoc): string[] => (o.shape.kind === 'mesh' ? [o.shape.asset, ...o.shape.poses] : [])
/** An object's mesh with what it does by itself. Poses that do not fit are named by `tell` and left out. */
export function baseMesh(object: ObjectDoc, meshes: Meshes, tell: (message: string) => void = () => {}): Base | null {
  if (primitiveOf(object.shape.kind)) return shapeBase(object.shape)
  const mesh = meshOf(object, meshes)
  if (!mesh || object.shape.kind !== 'mesh') return mesh && { mesh, at: null }
  const shape = object.shape
  const first = meshes.get(shape.asset) as Mesh
  if (first.volume) return { mesh, at: null }
  const poses: Mesh[] = []
  for (const [i, hash] of shape.poses.entries()) {
    const pose = meshes.get(hash)
    if (pose?.positions.length === first.positions.length) poses.push(pose)
    else {
      tell(
        pose
          ? `pose ${i + 2} of ${object.name} has ${pose.positions.length / 3} points and the first ${first.positions.length / 3}; it plays up to the one before: export them with the same points`
          : `pose ${i + 2} of ${object.name} is missing; it plays up to the one before: bring its file in again`,
      )
      break
    }
  }
  return baseOf(first, { ...shape, poses: shape.poses.slice(0, poses.length) }, poses)
}
