import { type BodyDoc, defaultsOf, type ObjectDoc, type PrimitiveShape } from '../../shot'
import { BODY_PARAMS } from '../elementParams'
import { MATERIAL_PARAMS } from '../materialParams'
import { primitiveOf } from '../shapes'

/** An object in the middle of the shot with nothing done to it, and the values that a test cares for; an anchor without a shape. */
export function thing(id: string, values: Partial<ObjectDoc> = {}): ObjectDoc {
  return {
    id,
    name: id,
    seed: 1,
    shape: { kind: 'anchor' },
    parent: null,
    place: [0, 0, 0],
    rotate: [0, 0, 0],
    scale: [1, 1, 1],
    seen: true,
    shadow: true,
    roles: { source: false, collider: false },
    sides: 'auto',
    thickness: 0,
    faces: 'no',
    metBy: 'faces',
    cells: 64,
    body: null,
    reshape: [],
    copies: [],
    offspring: [],
    regions: [],
    shown: 'full',
    material: defaultsOf(MATERIAL_PARAMS) as unknown as ObjectDoc['material'],
    ...values,
  }
}
/** A shape made from its numbers, with the defaults of those that a test does not care for. */
export const primitive = (kind: PrimitiveShape['kind'], values: Record<string, unknown> = {}): PrimitiveShape => ({
  kind,
  ...defaultsOf(primitiveOf(kind)?.params ?? {}),
  ...values,
})
export const bodyOf = (values: Partial<BodyDoc> = {}): BodyDoc => ({ ...(defaultsOf(BODY_PARAMS) as unknown as BodyDoc), ...values })
