import { u32 } from '../memory'
import { defineOp } from './define'
import type { OpWriter } from './writer'

export const limitRegionOp = defineOp({
  name: 'limitRegion',
  code: 56,
  group: 'limit',
  kernel: 'surface',
  /** `amounts`: of each vertex, behind the record of the object; 0: all of it. */
  words: { record: u32(), amounts: u32(), outside: u32() },
})
/** They act by the amount of an object's region at the place that a particle keeps on it; on nobody who keeps none. */
export function encodeLimitRegion(w: OpWriter, p: { object: number; region: string; outside: boolean }): void {
  const start = w.write(limitRegionOp, { record: 0, amounts: 0, outside: p.outside ? 1 : 0 })
  if (p.object >= 0) w.surfaces.push({ at: w.wordOf(start, limitRegionOp, 'record'), object: p.object, region: p.region, optional: true })
}
