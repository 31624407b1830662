import { f32, u32 } from '../memory'
import { defineOp } from './define'
import { finite } from './falloff'
import { FULL } from './share'
import type { OpWriter } from './writer'

export const crawlOp = defineOp({
  name: 'crawl',
  code: 20,
  group: 'force',
  kernel: 'targets',
  places: true,
  words: { record: u32(), height: f32(), response: f32(), speed: f32(), reach: f32(), perSecond: f32() },
})
/** Along a surface at a height (m), reached within the response (s), at a speed (m/s) or its own (null). */
export function encodeCrawl(
  w: OpWriter,
  p: { object: number; height: number; responseS: number; speed: number | null; reach: number; dt: number },
  seed = 0,
  share = FULL,
): void {
  const { height } = p
  const words = { record: 0, height, response: p.responseS, speed: p.speed ?? -1, reach: finite(p.reach), perSecond: 1 / p.dt }
  const start = w.write(crawlOp, words, seed, share)
  w.surfaces.push({ at: w.wordOf(start, crawlOp, 'record'), object: p.object })
}
