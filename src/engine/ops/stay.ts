import { f32, u32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const stayOp = defineOp({
  name: 'stay',
  code: 19,
  group: 'force',
  kernel: 'targets',
  places: true,
  words: { record: u32(), spring: f32(), friction: f32(), perSecond: f32() },
})
/** A spring (1/s²) with friction (1/s) to a place of its own on an object's surface. */
export function encodeStay(w: OpWriter, p: { object: number; spring: number; friction: number; dt: number }, seed = 0, share = FULL): void {
  const start = w.write(stayOp, { record: 0, spring: p.spring, friction: p.friction, perSecond: 1 / p.dt }, seed, share)
  w.surfaces.push({ at: w.wordOf(start, stayOp, 'record'), object: p.object })
}
