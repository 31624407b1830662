import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { type Falloff, falloffIndex, finite } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const surfaceOp = defineOp({
  name: 'surfacePull',
  code: 21,
  group: 'force',
  kernel: 'surface',
  words: { record: u32(), strength: f32(), perReach: f32(), falloff: i32(), reach: f32(), perSecond: f32() },
})
/** Towards the nearest place of an object's surface at `strength` m/s², or away from it; reach in m or Infinity. */
export function encodeSurface(
  w: OpWriter,
  p: { object: number; strength: number; reach: number; falloff: Falloff; dt: number },
  seed = 0,
  share = FULL,
): void {
  const { strength } = p
  const words = {
    record: 0,
    strength,
    perReach: 1 / p.reach,
    falloff: falloffIndex(p.falloff),
    reach: finite(p.reach),
    perSecond: 1 / p.dt,
  }
  const start = w.write(surfaceOp, words, seed, share)
  w.surfaces.push({ at: w.wordOf(start, surfaceOp, 'record'), object: p.object })
}
