import { worldMatrix } from '../acts'
import { apply, decompose } from '../engine'
import { type Animated, cross, dot, isFree, isKeyed, type ObjectDoc, type Shot, sub, unit, type Vec3 } from '../shot'
import { newObject } from './create'

/** Points of one table that become anchors; each is an element of the shot. */
export const MOST_TRACKED = 200

/** Anchors of a group, one a point. */
export function anchorsOf(shot: Shot, name: string, points: readonly Vec3[], names?: readonly string[]): ObjectDoc[] {
  const group = newObject(shot, name, { kind: 'group' })
  const anchors = points.map((place, i) => {
    const o = newObject(shot, names?.[i] ?? `${name} ${i + 1}`, { kind: 'anchor' })
    return { ...o, parent: group.id, place, shadow: false }
  })
  return [group, ...anchors]
}
/** Where points stand: in the space of their parent where they have one in common, else in the shot. */
function spaceOf(points: readonly ObjectDoc[], t: number): { parent: string | null; places: Vec3[] } {
  const [{ parent }] = points
  const shared = points.every((p) => p.parent === parent)
  const at = (o: ObjectDoc) => apply(worldMatrix(o, t), 0, 0, 0) as Vec3
  const own = (o: ObjectDoc) => apply(worldMatrix({ ...o, parent: null }, t), 0, 0, 0) as Vec3
  return shared ? { parent, places: points.map(own) } : { parent: null, places: points.map(at) }
}
/**
 * A plane through three points, with its upper side towards a place; twice as large as they lie apart. Null where they lie on a line. It only
 * catches: what stands there in the footage is seen already.
 */
export function planeThrough(shot: Shot, points: readonly ObjectDoc[], t: number, towards: Vec3): ObjectDoc | null {
  const { parent, places } = spaceOf(points, t)
  const [a, b, c] = places
  const middle = [0, 1, 2].map((k) => (a[k] + b[k] + c[k]) / 3) as Vec3
  const n = cross(sub(b, a), sub(c, a))
  const far = Math.max(...places.map((p) => Math.sqrt(dot(sub(p, middle), sub(p, middle)))))
  if (!(Math.sqrt(dot(n, n)) > 1e-6 * far * far)) return null
  const y = unit(dot(n, sub(towards, middle)) < 0 ? (n.map((v) => -v) as Vec3) : n)
  const x = unit(sub(b, a))
  const z = cross(x, y)
  const { rotate } = decompose(Float64Array.from([0, 1, 2].flatMap((k) => [x[k], y[k], z[k], 0])))
  const plane = newObject(shot, 'Tracked plane', { kind: 'plane', size: Number((4 * far).toPrecision(3)), endless: false })
  return { ...plane, parent, place: middle, rotate, shadow: false, material: { ...plane.material, catches: true } }
}
/** How far two points are apart in the shot, m. */
export function distanceOf(a: ObjectDoc, b: ObjectDoc, t: number): number {
  const d = sub(apply(worldMatrix(a, t), 0, 0, 0) as Vec3, apply(worldMatrix(b, t), 0, 0, 0) as Vec3)
  return Math.sqrt(dot(d, d))
}
/** A value times a factor, at all its keys; what modulators add stays. */
export function scaled(a: Animated<number>, k: number): Animated<number> {
  if (isKeyed<number>(a))
    return {
      ...a,
      keys: a.keys.map((x) => ({
        ...x,
        v: x.v * k,
        ...(x.bend ? { bend: [x.bend[0], x.bend[1] * k, x.bend[2], x.bend[3] * k] } : {}),
      })) as typeof a.keys,
    }
  return isFree<number>(a) ? { ...a, value: a.value * k } : a * k
}
/**
 * Makes the shot larger or smaller about its middle where it was tracked: what hangs in the group of the points, or the points alone, and the
 * camera with its aim. In the picture nothing of it moves.
 */
export function scaleTracked(s: Shot, points: readonly string[], camera: string, k: number): void {
  const chosen = s.objects.filter((o) => points.includes(o.id))
  const groups = new Set(chosen.flatMap((o) => o.parent ?? []))
  const all = (v: ObjectDoc['place']) => v.map((c) => scaled(c, k)) as ObjectDoc['place']
  for (const o of s.objects) {
    if (groups.has(o.id)) Object.assign(o, { place: all(o.place), scale: all(o.scale) })
    else if (chosen.includes(o) && !o.parent) o.place = all(o.place)
  }
  const c = s.cameras.find((x) => x.id === camera)
  if (!c) return
  c.place = all(c.place)
  c.aim = all(c.aim)
}
