import { compose, type Matrix, multiply } from '../engine'
import { type ObjectDoc, type Shot, sampleVec3 } from '../shot'

/** Something that cannot be as the shot says, in words for the artist. */
export interface ValueProblem {
  element: string
  message: string
}

/** Parents hang on the object itself, as modulations hang on values: a changed shot ties them anew. */
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
export const localMatrix = (o: ObjectDoc, t: number, out?: Matrix): Matrix => compose(sampleVec3(o.place, t), sampleVec3(o.rotate, t), sampleVec3(o.scale, t), out)
/** Own space to the world, with all parents, at t seconds. */
export function worldMatrix(o: ObjectDoc, t: number, out?: Matrix): Matrix {
  const parent = parents.get(o)
  const own = localMatrix(o, t, out)
  return parent ? multiply(worldMatrix(parent, t), own, own) : own
}
