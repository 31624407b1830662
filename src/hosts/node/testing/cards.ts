import { actOf, LAYER_PARAMS } from '../../../acts'
import { primitive, thing } from '../../../acts/testing/things'
import { type ActDoc, defaultsOf, type LayerDoc, type ObjectDoc, type Shot, type Vec3 } from '../../../shot'

/** Linear light of a byte of a picture with a straight tone curve. */
export const straight = (byte: number): number => (byte <= 10 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4)
/** An act with its defaults but for some values. */
export const act = (kind: string, values: Record<string, unknown> = {}): ActDoc =>
  ({ id: kind, kind, seed: 3, ...defaultsOf(actOf(kind).params), ...values }) as ActDoc
export const layer = (id: string, values: Partial<LayerDoc> = {}): LayerDoc => ({
  ...defaultsOf(LAYER_PARAMS),
  ...{ id, name: id, seed: 1, finish: [] },
  ...values,
})
/** A flat card that shines and mirrors nothing. */
export function card(
  id: string,
  place: ObjectDoc['place'],
  [width, height]: readonly [number, number],
  glow: Vec3,
  values: Partial<ObjectDoc> = {},
): ObjectDoc {
  const o = thing(id, { shape: primitive('box', { width, height, depth: 0.01 }), place, ...values })
  return { ...o, material: { ...o.material, colour: [0, 0, 0], roughness: 1, metal: 0, glow } }
}
/** Evenly from one number to another within the first second. */
export const along = (from: number, to: number) => ({
  keys: [
    { t: 0, v: from, ease: 'linear' as const },
    { t: 1, v: to, ease: 'linear' as const },
  ],
})
/** Nothing but these objects in the dark, seen from 5 m, where the picture is 4 m wide; what is up to white comes out as it is. */
export function dark(s: Shot, objects: ObjectDoc[]): void {
  Object.assign(s, { systems: [], forces: [], lights: [], glows: [], masks: [], objects })
  s.layers = [layer('picture', { finish: [act('tone', { curve: 'straight' })] })]
  s.surroundings = { colour: [0, 0, 0], light: [0, 0, 0] }
  s.cameras[0] = { ...s.cameras[0], place: [0, 0, 5], aim: [0, 0, 0], lens: 45 }
}
