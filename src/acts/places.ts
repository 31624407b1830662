import { compose, type Matrix, multiply, type Part, partOf } from '../engine'
import { type ObjectDoc, type Shot, sampleVec3, type Vec3 } from '../shot'

/** Something that cannot be as the shot says, in words for the artist. */
export interface ValueProblem {
  element: string
  message: string
}

/** Parents are kept by the object itself, as modulations are by values: a changed shot ties them again. */
const parents = new WeakMap<ObjectDoc, ObjectDoc>()

/** Ties every object to its parent. A missing parent, or a circle of parents, is named, and the object stands by itself. */
export function tieParents(shot: Shot): ValueProblem[] {
  const problems: ValueProblem[] = []
  const by = new Map(shot.objects.map((o) => [o.id, o]))
  for (const o of shot.objects) parents.delete(o)
  for (const o of shot.objects) {
    if (!o.parent) continue
    const parent = by.get(o.parent)
    if (!parent) {
      problems.push({ element: o.id, message: `the parent of ${o.name} is gone; it stands by itself` })
      continue
    }
    let circle = false
    for (let p: ObjectDoc | undefined = parent; p; p = parents.get(p)) if (p === o) circle = true
    if (circle) problems.push({ element: o.id, message: `${o.name} would be its own ancestor; it stands by itself: choose another parent` })
    else parents.set(o, parent)
  }
  return problems
}
/** Parent, parent's parent, and so on. */
export function parentsOf(o: ObjectDoc): ObjectDoc[] {
  const out: ObjectDoc[] = []
  for (let p = parents.get(o); p; p = parents.get(p)) out.push(p)
  return out
}
/** Own space to the parent's. */
export const localMatrix = (o: ObjectDoc, t: number, out?: Matrix): Matrix =>
  compose(sampleVec3(o.place, t), sampleVec3(o.rotate, t), sampleVec3(o.scale, t), out)
/** Own space to the world, with all parents, at t seconds. */
export function worldMatrix(o: ObjectDoc, t: number, out?: Matrix): Matrix {
  const parent = parents.get(o)
  const own = localMatrix(o, t, out)
  return parent ? multiply(worldMatrix(parent, t), own, own) : own
}

/** Where a frame has the objects that the simulation moves. */
export const posedIn =
  (parts: readonly Part[]) =>
  (id: string): Matrix | null => {
    const found = partOf(parts, 'place', id)
    return found ? Float64Array.from(found.matrix) : null
  }
/**
 * Own space to the world at t, with what the simulation has thrown where it has it: the object itself, or the nearest that it goes along
 * with. `poseOf`: where a thrown object is then, or null while it still stands.
 */
export function placedMatrix(o: ObjectDoc, t: number, poseOf: (id: string, t: number) => Matrix | null, out?: Matrix): Matrix {
  // In most shots nothing is thrown, and this runs for every object in every substep.
  const chain = [o, ...parentsOf(o)]
  if (!chain.some((a) => a.body)) return worldMatrix(o, t, out)
  let own: Matrix | null = null
  for (const a of chain) {
    const pose = a.body ? poseOf(a.id, t) : null
    if (pose) {
      const m = own ? multiply(pose, own) : pose
      if (!out) return m
      out.set(m)
      return out
    }
    own = own ? multiply(localMatrix(a, t), own) : localMatrix(a, t)
  }
  return worldMatrix(o, t, out)
}

/** How far an object has gone since the shot began, m; `where` as `placedMatrix` says it. */
export function goneBy(o: ObjectDoc, t: number, where: (o: ObjectDoc, t: number) => Matrix): Vec3 {
  const [x, y, z] = [3, 7, 11].map((n) => where(o, t)[n])
  const from = where(o, 0)
  return [x - from[3], y - from[7], z - from[11]]
}
/** Planes of the shot as they are in a space, by the way from it to the shot. */
export const planesIn = (planes: readonly number[][], m: Matrix): number[][] =>
  planes.map(([x, y, z, d]) => [
    x * m[0] + y * m[4] + z * m[8],
    x * m[1] + y * m[5] + z * m[9],
    x * m[2] + y * m[6] + z * m[10],
    x * m[3] + y * m[7] + z * m[11] + d,
  ])
