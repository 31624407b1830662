import { boundsOf, type ColumnName, type Matrix, type Plan, type PlanBody, type PlanObject, type Poses, TOUCH_COLUMNS } from '../engine'
import type { BodyDoc, ObjectDoc, Shot } from '../shot'
import { forcePlan, unmuted, type Where } from './forcePlan'
import { forceSite } from './forceSite'
import { parentsOf } from './places'
import { actOf } from './registry'

/** The mean scale of a matrix. */
const scaleOf = (m: Matrix): number =>
  Math.sqrt(
    (m[0] * m[0] + m[1] * m[1] + m[2] * m[2] + m[4] * m[4] + m[5] * m[5] + m[6] * m[6] + m[8] * m[8] + m[9] * m[9] + m[10] * m[10]) / 3,
  )
const RADIANS = 0.017453292519943295

/** Whether a force of the shot reaches an object that the simulation moves. */
const reaches = (to: 'all' | string[], o: ObjectDoc) => to === 'all' || to.includes(o.id)

/**
 * What the simulation moves besides particles: objects that are let go. Each feels the shot's forces and meets its colliders, but for what
 * is parented to it.
 */
export function bodiesOf(
  shot: Shot,
  objects: readonly PlanObject[],
  colliders: readonly number[],
  poses: Poses,
  where: Where,
): Pick<Plan, 'bodies' | 'poses'> {
  const bodies = shot.objects.flatMap((o, i): PlanBody[] =>
    o.body && !o.muted ? [bodyOf(shot, o, o.body, i, objects, colliders, where)] : [],
  )
  return bodies.length ? { bodies, poses } : {}
}
function bodyOf(
  shot: Shot,
  o: ObjectDoc,
  b: BodyDoc,
  index: number,
  objects: readonly PlanObject[],
  colliders: readonly number[],
  where: Where,
): PlanBody {
  const mesh = objects[index].mesh
  const box = mesh?.positions.length ? boundsOf(mesh) : null
  const middle: [number, number, number] = box
    ? ([0, 1, 2].map((a) => (box.min[a] + box.max[a]) / 2) as [number, number, number])
    : [0, 0, 0]
  const half = box ? [0, 1, 2].map((a) => (box.max[a] - box.min[a]) / 2).sort((x, y) => x - y)[1] : 0.05
  // As large as it is when it is let go: its scale stays from there on.
  const radius = b.radius ?? Math.max(1e-4, half * scaleOf(where(o, b.at)))
  const own = (i: number) => i === index || parentsOf(shot.objects[i]).includes(o)
  const forces = unmuted(shot.forces.filter((f) => !f.muted && reaches(f.reaches, o)).map((f) => f.act))
  const place = forceSite(shot, { id: o.id, space: null }, objects, where)
  return {
    object: index,
    at: b.at,
    middle,
    velocity: b.velocity,
    spin: b.spin.map((v) => v * RADIANS) as [number, number, number],
    inherit: b.inherit / 100,
    contact: () => ({ friction: b.friction, rolling: b.rolling, restitution: b.restitution / 100 }),
    system: {
      id: o.id,
      name: o.name,
      seed: o.seed,
      limit: 1,
      life: () => [1e9, 0],
      endless: true,
      mass: () => [b.mass, 0],
      ball: () => radius,
      births: [],
      forces: forces.map((a) => forcePlan(shot, o, a, 100, place)),
      contacts: [
        {
          id: `${o.id}-contact`,
          seed: o.seed,
          colliders: colliders.filter((i) => !own(i)),
          params: () => ({
            mode: 'bounce',
            restitution: b.restitution / 100,
            restitutionVary: 0,
            friction: 0,
            frictionVary: 0,
            letGo: 0,
            passes: 0,
          }),
        },
      ],
      extraColumns: [...new Set<ColumnName>([...forces.flatMap((a) => actOf(a.kind).columns ?? []), ...TOUCH_COLUMNS])],
    },
  }
}
