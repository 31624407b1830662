import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { biasOf, type Falloff, falloffIndex, perSoft } from './falloff'
import type { OpWriter } from './writer'

export const limitNearOp = defineOp({
  name: 'limitNear',
  code: 25,
  group: 'limit',
  kernel: 'surface',
  words: { record: u32(), falloff: i32(), outside: u32(), perSoft: f32(), beyond: f32(), reach: f32(), perSecond: f32(), bias: f32() },
})
/** They act in an object's own shape and up to `beyond` m from it. `depth`: half of its size, m, how deep one can be inside. */
export function encodeLimitNear(
  w: OpWriter,
  p: { object: number; beyond: number; soft: number; depth: number; falloff: Falloff; bias?: number; outside: boolean; dt: number },
): void {
  const start = w.write(limitNearOp, {
    record: 0,
    falloff: falloffIndex(p.falloff),
    outside: p.outside ? 1 : 0,
    perSoft: perSoft(p.soft),
    beyond: p.beyond,
    reach: Math.max(0, p.beyond) + p.depth,
    perSecond: 1 / p.dt,
    bias: biasOf(p.bias),
  })
  if (p.object >= 0) w.surfaces.push({ at: w.wordOf(start, limitNearOp, 'record'), object: p.object, optional: true })
}
